// Everything once: every step with every choice of it, every law and message, every source, over all 128
// values of a source of seven bits and the ends and joints of one of fourteen.
//
// What has to come out is written here as formulas, from the tables of the signal rules. The streams of the
// equality test go everywhere in time, but by chance; this goes everywhere in value, by plan. Each step is
// played twice: straight behind its source, where it is looked up, and behind a smooth of no time, where it
// is evaluated.
#include <QtTest>
#include <cmath>

#include "core/engine/playing/engine.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

namespace {

using Shape = std::function<double(double)>;

double clamped(double p) {
    return std::isnan(p) || p < 0 ? 0 : p > 1 ? 1 : p;
}

/// The raw value that section 1 encodes.
int encoded(bool centred, double p, int max) {
    if (!centred) return static_cast<int>(std::floor(p * max + 0.5));
    const int mid = (max + 1) / 2;
    if (p <= 0.5) return static_cast<int>(std::floor(2.0 * mid * p + 0.5));
    return mid + static_cast<int>(std::floor(2 * (p - 0.5) * (max - mid) + 0.5));
}
double decoded(bool centred, int v, int max) {
    const double mid = (max + 1) / 2;
    if (!centred) return static_cast<double>(v) / max;
    return v <= mid ? v / (2 * mid) : 0.5 + 0.5 * (v - mid) / (max - mid);
}

/// The ends of 14 bits, the places where a byte turns, and around the middle.
std::vector<int> joints() {
    std::vector<int> values;
    for (const int around :
         {0, 1, 127, 128, 129, 4096, 8064, 8191, 8192, 8193, 12345, 16255, 16256, 16382, 16383}) {
        values.push_back(around);
    }
    return values;
}

Step stepOf(const char* kind, std::vector<FieldValue> values) {
    Step made = makeStep(*findStepKind(kind));
    made.values = std::move(values);
    return made;
}

struct StepCase {
    std::string name;
    Step step;
    Shape result;
};

std::vector<StepCase> statelessSteps() {
    std::vector<StepCase> cases;
    const auto add = [&cases](const char* kind, std::vector<FieldValue> values, Shape result) {
        std::string name = std::string(kind) + " " + std::to_string(cases.size());
        cases.push_back({std::move(name), stepOf(kind, std::move(values)), std::move(result)});
    };
    for (const auto& [low, high] :
         {std::pair(0.0, 1.0), {0.25, 0.75}, {0.75, 0.25}, {0.5, 0.5}, {-0.5, 2.0}}) {
        const double l = low;
        const double h = high;
        add("window", {l, h}, [l, h](double p) { return l == h ? (p >= l ? 1.0 : 0.0) : (p - l) / (h - l); });
    }
    add("reverse", {}, [](double p) { return 1 - p; });
    for (const double b : {-1.0, -0.3, 0.0, 0.7, 1.0}) {
        const double gamma = std::pow(8, b);
        add("bend", {b}, [gamma](double p) { return std::pow(p, gamma); });
        add("sCurve", {b}, [gamma](double p) {
            return p < 0.5 ? 0.5 * std::pow(2 * p, gamma) : 1 - 0.5 * std::pow(2 - 2 * p, gamma);
        });
    }
    const std::vector<Point> drawn{{0, 0.2}, {0.25, 1}, {0.5, 0.5}, {1, 0}};
    add("points", {drawn, 0}, [](double p) {
        if (p < 0.25) return 0.2 + 0.8 * p / 0.25;
        if (p < 0.5) return 1 - 0.5 * (p - 0.25) / 0.25;
        return 0.5 - 0.5 * (p - 0.5) / 0.5;
    });
    // Secants 3.2, −2 and −1; slopes: at the first end (0.5 + 0.25)·3.2 + 0.25·2 over 0.5 = 5.8; at the turn
    // 0; then (w₁ + w₂)/(w₁/−2 + w₂/−1) with w₁ = 1.25 and w₂ = 1; at the last end (1.25·−1 + 0.5·2)/0.75.
    add("points", {drawn, 1}, [](double p) {
        const double inner = 2.25 / (1.25 / -2 + 1 / -1.0);
        const double last = (1.25 * -1 + 0.5 * 2) / 0.75;
        const auto curve = [p](double x, double h, double y0, double m0, double y1, double m1) {
            const double t = (p - x) / h;
            return (2 * t * t * t - 3 * t * t + 1) * y0 + (t * t * t - 2 * t * t + t) * h * m0 +
                   (3 * t * t - 2 * t * t * t) * y1 + (t * t * t - t * t) * h * m1;
        };
        if (p < 0.25) return curve(0, 0.25, 0.2, 5.8, 1, 0);
        if (p < 0.5) return curve(0.25, 0.25, 1, 0, 0.5, inner);
        return curve(0.5, 0.5, 0.5, inner, 0, last);
    });
    for (const auto& [at, becomes] : {std::pair(0.5, 0.25), {0.2, 0.9}})
        add("restAt", {at, becomes},
            [e = std::log(becomes) / std::log(at)](double p) { return std::pow(p, e); });
    for (const auto& [centre, width] :
         {std::pair(0.5, 0.1), {0.0, 0.5}, {1.0, 0.5}, {0.3, 0.9}, {0.5, 0.0}}) {
        const double c = centre;
        const double half = width / 2;
        add("deadZone", {c, width}, [c, half](double p) {
            if (std::abs(p - c) <= half) return c;
            return p < c ? p * c / (c - half) : c + (p - c - half) * (1 - c) / (1 - c - half);
        });
    }
    for (const auto& [times, plus] : {std::pair(1.0, 0.0), {-2.0, 1.5}, {0.3, -0.1}})
        add("scale", {times, plus}, [t = times, a = plus](double p) { return t * p + a; });
    for (const auto& [low, high] : {std::pair(0.0, 1.0), {0.2, 0.7}, {0.5, 0.5}, {-0.3, 1.4}})
        add("limit", {low, high}, [l = low, h = high](double p) {
            return p < l ? std::min(l, h) : p > h ? h : p;
        });
    add("formula", {std::string("x^3-x/2+0.4")}, [](double p) { return p * p * p - p / 2 + 0.4; });
    return cases;
}

/// Steps that remember, for one input that is their first.
std::vector<StepCase> firstInputs() {
    std::vector<StepCase> cases;
    for (const double count : {2.0, 3.0, 7.0}) {
        cases.push_back(
            {"levels", stepOf("levels", {count, 0.2, std::vector<std::string>{}}),
             [count](double p) { return std::min(count - 1, std::floor(p * count)) / (count - 1); }});
    }
    for (const double t : {0.0, 0.3, 1.0})
        cases.push_back({"gate", stepOf("gate", {t, 0.1}), [t](double p) { return p >= t ? 1.0 : 0.0; }});
    cases.push_back({"latch", stepOf("latch", {}), [](double p) { return p >= 0.5 ? 1.0 : 0.0; }});
    const Shape itself = [](double p) { return p; };
    for (const int until : {0, 1}) cases.push_back({"hold", stepOf("hold", {until}), itself});
    for (const int shape : {0, 1}) cases.push_back({"smooth", stepOf("smooth", {50.0, 50.0, shape}), itself});
    cases.push_back({"thin", stepOf("thin", {0.2, 50.0}), itself});
    return cases;
}

Parameter fineParameter() {
    Parameter fine;
    fine.id = "fine";
    fine.message.kind = MessageKind::cc14;
    fine.message.number = 11;
    return fine;
}

Ensemble through(const Source& source, std::vector<Step> steps, Parameter parameter, Level low, Level high) {
    Instrument one = instrument("one");
    one.pass.unmatched = false;
    one.pass.notes = false;
    parameter.repeats = true;
    Branch toIt = branch(parameter.id, 0, 0);
    toIt.low = std::move(low);
    toIt.high = std::move(high);
    one.parameters = {std::move(parameter)};
    one.chains = {chain("c", source, std::move(steps), {toIt})};
    return ensemble({one});
}

using Messages = std::vector<std::vector<std::uint8_t>>;

/// What a stream of whole messages makes of what a feeder plays, as bytes.
Messages sent(Feeder& feeder, const std::vector<std::string>& messages) {
    std::vector<std::string> lines;
    for (const std::string& message : messages) lines.push_back("0 keys " + message);
    Messages all;
    for (const std::string& line : feeder.feed(lines))
        all.push_back(bytes(line.substr(line.find(' ', 2) + 1)));
    return all;
}
/// The same from the beginning.
Messages sent(const Ensemble& played, const std::vector<std::string>& messages) {
    Feeder feeder(played);
    return sent(feeder, messages);
}

std::string hex(std::initializer_list<int> numbers) {
    std::vector<std::uint8_t> whole;
    for (const int number : numbers) whole.push_back(static_cast<std::uint8_t>(number));
    return midi::toHex(whole);
}

/// The 14-bit value that the messages leave the fine parameter at; its high byte is sent when it changes.
class Fine {
 public:
    int after(const Messages& messages) {
        for (const auto& message : messages) {
            if (message[1] == 11) high_ = message[2];
            if (message[1] == 43) low_ = message[2];
        }
        return high_ * 128 + low_;
    }

 private:
    int high_ = 0;
    int low_ = 0;
};

std::string wheel(int value) {
    return hex({0xB0, 1, value});
}

/// fresh: each value is the first that comes.
void playStep(const StepCase& each, bool evaluated, bool fresh) {
    std::vector<Step> steps{each.step};
    if (evaluated) steps.insert(steps.begin(), stepOf("smooth", {0.0, 0.0, 0}));
    const Ensemble played = through(ccSource(1), steps, fineParameter(), 0.0, 16383.0);
    Feeder feeder(played);
    Fine fine;
    for (int value = 0; value < 128; ++value) {
        const Messages messages = fresh ? sent(played, {wheel(value)}) : sent(feeder, {wheel(value)});
        const int wanted = encoded(false, clamped(each.result(value / 127.0)), 16383);
        if (const int got = fine.after(messages); got != wanted)
            QFAIL(
                qPrintable(QStringLiteral("%1 %2 at %3: %4, not %5")
                               .arg(QString::fromStdString(each.name), evaluated ? "evaluated" : "looked up")
                               .arg(value)
                               .arg(got)
                               .arg(wanted)));
    }
}

struct LawCase {
    std::string name;
    Display display;
    Level low;
    Level high;
    double from;  ///< the raw positions of the reach
    double to;
    std::vector<double> labels;  ///< positions of the labels, where there are some
};

std::vector<LawCase> laws() {
    const auto third = 1.0 / 3;
    return {
        {"linear", {-50.0, 150.0, "%", Law::linear, {}, {}}, 100.0, 0.0, 0.75, 0.25, {}},
        {"log", {20.0, 20000.0, "Hz", Law::log, {}, {}}, 200.0, 2000.0, third, 2 * third, {}},
        {"decibel",
         {{}, {}, "dB", Law::decibel, {}, {}},
         std::string("-inf"),
         -20.0,
         0,
         std::pow(10, -0.5),
         {}},
        {"decibel to +6", {{}, 6.0, "dB", Law::decibel, {}, {}}, -10.0, 6.0, std::pow(10, -16.0 / 40), 1, {}},
        {"choices",
         {{}, {}, "", Law::choices, {"a", "b", "c", "d"}, {}},
         std::string("b"),
         std::string("d"),
         third,
         1,
         {0, third, 2 * third, 1}},
    };
}

/// What a message of a kind carries, read back from the bytes.
int valueIn(const Messages& messages, MessageKind kind) {
    const auto& last = messages.back();
    switch (kind) {
        case MessageKind::cc14:
            return messages.front()[2] * 128 + last[2];
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return messages[messages.size() - 2][2] * 128 + last[2];
        case MessageKind::bend:
            return last[1] + 128 * last[2];
        case MessageKind::pressure:
        case MessageKind::program:
            return last[1];
        default:
            return last[2];
    }
}

}  // namespace

class ExhaustiveTest : public QObject {
    Q_OBJECT

 private slots:
    void everyStep() {
        for (const StepCase& each : statelessSteps()) {
            for (const bool evaluated : {false, true}) playStep(each, evaluated, false);
        }
        for (const StepCase& each : firstInputs()) playStep(each, false, true);
    }

    void everyStepOverFourteenBits() {
        Source bend;
        bend.kind = SourceKind::bend;
        for (const StepCase& each : statelessSteps()) {
            Feeder feeder(through(bend, {each.step}, fineParameter(), 0.0, 16383.0));
            Fine fine;
            for (const int value : joints()) {
                Messages messages;
                for (const std::string& line :
                     feeder.feed({"0 keys " + hex({0xE0, value % 128, value / 128})}))
                    messages.push_back(bytes(line.substr(6)));
                QCOMPARE(fine.after(messages),
                         encoded(false, clamped(each.result(decoded(true, value, 16383))), 16383));
            }
        }
    }

    void everyWayToCombine() {
        const std::array<std::function<double(double, double)>, 7> ways{
            [](double p, double q) { return p + q; },
            [](double p, double q) { return p * q; },
            [](double p, double q) { return p > q ? p : q; },
            [](double p, double q) { return p < q ? p : q; },
            [](double p, double q) { return (p + q) / 2; },
            [](double p, double q) { return p - q; },
            [](double p, double q) { return 0.5 + (p - q) / 2; }};
        for (int how = 0; how < 7; ++how) {
            Step combine = stepOf("combine", {how});
            combine.with = ccSource(2);
            Feeder feeder(through(ccSource(1), {combine}, fineParameter(), 0.0, 16383.0));
            Fine fine;
            for (int value = 0; value < 128; ++value) {
                const int other = value * 37 % 128;
                Messages messages;
                for (const std::string& line :
                     feeder.feed({"0 keys " + wheel(value), "0 keys " + hex({0xB0, 2, other})}))
                    messages.push_back(bytes(line.substr(6)));
                const double wanted = ways.at(static_cast<std::size_t>(how))(value / 127.0, other / 127.0);
                QCOMPARE(fine.after(messages), encoded(false, clamped(wanted), 16383));
            }
        }
    }

    void everyLawOnEveryMessage() {
        const std::vector<std::pair<MessageKind, int>> kinds{
            {MessageKind::cc, 20},      {MessageKind::cc14, 20},       {MessageKind::bend, 0},
            {MessageKind::pressure, 0}, {MessageKind::program, 0},     {MessageKind::rpn, 5},
            {MessageKind::nrpn, 5},     {MessageKind::keyPressure, 0}, {MessageKind::velocity, 0},
            {MessageKind::note, 40}};
        for (const auto& [kind, number] : kinds) {
            for (const LawCase& law : laws()) {
                for (const auto centred : {std::optional<bool>(), std::optional(true), std::optional(false)})
                    playLaw(kind, number, law, centred);
            }
        }
    }

    void everySourceAtEveryValue() {
        using Spell = std::function<std::string(int)>;
        const auto play = [](SourceKind kind, int number, std::optional<Rest> rest, bool centred,
                             const Spell& spell) {
            Source source = makeSource(kind);
            source.number = number;
            source.rest = rest;
            Feeder feeder(through(source, {}, fineParameter(), 0.0, 16383.0));
            Fine fine;
            for (int value = kind == SourceKind::velocity ? 1 : 0; value < 128; ++value)
                QCOMPARE(fine.after(sent(feeder, {spell(value)})),
                         encoded(false, decoded(centred, value, 127), 16383));
        };
        for (const int number : {1, 8, 10, 64, 119}) {
            const Spell control = [number](int value) { return hex({0xB0, number, value}); };
            play(SourceKind::cc, number, {}, number == 8 || number == 10, control);
            play(SourceKind::cc, number, Rest::middle, true, control);
            play(SourceKind::cc, number, Rest::low, false, control);
        }
        play(SourceKind::pressure, 0, {}, false, [](int value) { return hex({0xD0, value}); });
        play(SourceKind::keyPressure, 0, {}, false, [](int value) { return hex({0xA0, 60, value}); });
        play(SourceKind::program, anyNumber, {}, false, [](int value) { return hex({0xC0, value}); });
        play(SourceKind::keyNumber, 0, {}, false, [](int value) { return hex({0x90, value, 1}); });
        play(SourceKind::releaseVelocity, 0, {}, false, [](int value) { return hex({0x80, 60, value}); });
        play(SourceKind::velocity, 0, {}, false, [](int value) { return hex({0x90, 60, value}); });
    }

    void everySourceOfTwoBytes() {
        for (const int value : joints()) {
            for (const int number : {1, 8, 10}) {
                Source fine = makeSource(SourceKind::cc14);
                fine.number = number;
                const auto messages =
                    sent(through(fine, {}, fineParameter(), 0.0, 16383.0),
                         {hex({0xB0, number, value / 128}), hex({0xB0, number + 32, value % 128})});
                QCOMPARE(Fine().after(messages), encoded(false, decoded(number != 1, value, 16383), 16383));
            }
            for (const int number : {1, 2, 5}) {
                Source registered = makeSource(SourceKind::rpn);
                registered.number = number;
                const auto messages = sent(through(registered, {}, fineParameter(), 0.0, 16383.0),
                                           {"B0 65 00", hex({0xB0, 0x64, number}),
                                            hex({0xB0, 6, value / 128}), hex({0xB0, 38, value % 128})});
                QCOMPARE(Fine().after(messages), encoded(false, decoded(number != 5, value, 16383), 16383));
            }
        }
    }

    void everyEncoding() {
        for (int encoding = 0; encoding < 3; ++encoding) {
            for (int value = 0; value < 128; ++value) {
                Source knob = makeSource(SourceKind::relative);
                knob.number = 1;
                knob.rest = Rest::middle;
                knob.values = {encoding, 0.5};
                int steps = 0;
                if (encoding == 0) steps = value < 64 ? value : value > 64 ? value - 128 : 0;
                if (encoding == 1) steps = value - 64;
                if (encoding == 2) steps = value < 64 ? value : 64 - value;
                const auto messages = sent(through(knob, {}, fineParameter(), 0.0, 16383.0), {wheel(value)});
                QCOMPARE(Fine().after(messages), encoded(false, clamped(0.5 + steps * 0.5 / 127), 16383));
            }
        }
    }

    void everyBranchWindow() {
        for (const Outside outside : {Outside::clamp, Outside::silent, Outside::rest}) {
            for (const auto& [low, high] : {std::pair(0.25, 0.75), {0.75, 0.25}, {0.5, 0.5}}) {
                Parameter resting = fineParameter();
                resting.rest = 4000.0;
                Ensemble e = through(ccSource(1), {}, resting, 0.0, 16383.0);
                e.instruments[0].chains[0].branches[0].window = BranchWindow{low, high, outside, {}};
                Feeder feeder(e);
                Fine fine;
                for (int value = 0; value < 128; ++value) {
                    const auto messages = sent(feeder, {wheel(value)});
                    const double p = value / 127.0;
                    const bool inside = p >= std::min(low, high) && p <= std::max(low, high);
                    if (!inside && outside == Outside::silent) {
                        QVERIFY(messages.empty());
                        continue;
                    }
                    const double q = low == high ? (p >= low ? 1.0 : 0.0) : clamped((p - low) / (high - low));
                    const int wanted = !inside && outside == Outside::rest
                                           ? encoded(false, 4000.0 / 16383, 16383)
                                           : encoded(false, q, 16383);
                    QCOMPARE(fine.after(messages), wanted);
                }
            }
        }
    }

 private:
    /// What is sent never lies outside the reach (section 4, Ends).
    static int withinReach(const LawCase& law, bool centred, int max, int value) {
        if (!law.labels.empty()) return value;
        const auto unrounded = [&](double q) {
            const double mid = (max + 1) / 2;
            if (!centred) return q * max;
            return q <= 0.5 ? 2 * mid * q : mid + 2 * (q - 0.5) * (max - mid);
        };
        const auto [low, high] = std::minmax({unrounded(clamped(law.from)), unrounded(clamped(law.to))});
        const int least = static_cast<int>(std::ceil(low - 1e-6));
        const int most = static_cast<int>(std::floor(high + 1e-6));
        return least > most ? value : std::clamp(value, least, most);
    }

    static void playLaw(MessageKind kind, int number, const LawCase& law, std::optional<bool> centred) {
        Parameter parameter;
        parameter.id = "p";
        parameter.message.kind = kind;
        parameter.message.number = number;
        parameter.display = law.display;
        parameter.centred = centred;
        const bool isCentred = centred.value_or(kind == MessageKind::bend);
        const bool fine = kind == MessageKind::cc14 || kind == MessageKind::bend ||
                          kind == MessageKind::rpn || kind == MessageKind::nrpn;
        Ensemble e = through(ccSource(1), {}, parameter, law.low, law.high);
        e.instruments[0].pass.notes = true;
        Feeder feeder(e);
        // A note is held for what goes to keys, and one is struck for what changes velocities.
        (void)sent(feeder, {"90 3C 7F"});
        for (int value = 0; value < 128; ++value) {
            // A note sounds but once, and a high byte is sent but once.
            const bool isNote = kind == MessageKind::note;
            const bool isFresh = isNote || kind == MessageKind::cc14;
            const Messages messages = kind == MessageKind::velocity ? sent(feeder, {wheel(value), "90 3D 7F"})
                                      : isFresh                     ? sent(e, {wheel(value)})
                                                                    : sent(feeder, {wheel(value)});
            double q = clamped(law.from + value / 127.0 * (law.to - law.from));
            if (!law.labels.empty()) q = law.labels.at(static_cast<std::size_t>(std::floor(q * 3 + 0.5)));
            if (isNote) {
                QCOMPARE(messages.size(), std::size_t{q >= 0.5 ? 1U : 0U});
                continue;
            }
            int wanted = encoded(isCentred, q, fine ? 16383 : 127);
            wanted = withinReach(law, isCentred, fine ? 16383 : 127, wanted);
            if (kind == MessageKind::velocity) wanted = std::max(1, wanted);
            if (kind == MessageKind::program && !law.labels.empty())
                wanted = static_cast<int>(std::lround(q * 3));
            const int got = valueIn(messages, kind);
            if (got != wanted)
                QFAIL(qPrintable(QStringLiteral("message %1, %2 at %3: %4, not %5")
                                     .arg(static_cast<int>(kind))
                                     .arg(QString::fromStdString(law.name))
                                     .arg(value)
                                     .arg(got)
                                     .arg(wanted)));
        }
    }
};

QTEST_APPLESS_MAIN(ExhaustiveTest)
#include "exhaustive.moc"
