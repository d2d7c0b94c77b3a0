#include "app/pages/sheet/bulk_acts.h"

#include <QCoreApplication>
#include <array>

#include "app/ground/words.h"
#include "core/model/directory.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::app {

namespace {

using sheet::Bulk;
using sheet::bulk::Side;
using Rows = std::vector<AssignmentId>;
using Acts = std::vector<BulkAct>;
constexpr double percent = 100;

class Words {
    Q_DECLARE_TR_FUNCTIONS(BulkActs)
};
QString tr(const char* text) {
    return Words::tr(text);
}

BulkAsk askNumber(const QString& label, double start, double low, double high, bool whole = true,
                  const QString& unit = {}) {
    BulkAsk ask{label, BulkAsk::Type::number};
    ask.start = start;
    ask.low = low;
    ask.high = high;
    ask.whole = whole;
    ask.unit = unit;
    ask.step = unit == QLatin1String("share") ? 0.01 : 1;
    return ask;
}
BulkAsk askText(const QString& label, const QString& text) {
    BulkAsk ask{label, BulkAsk::Type::text};
    ask.text = text;
    return ask;
}
BulkAsk askChoice(const QString& label, const QStringList& choices, int chosen = 0) {
    BulkAsk ask{label, BulkAsk::Type::choice};
    ask.choices = choices;
    ask.chosen = chosen;
    return ask;
}
BulkAsk askSide(Side usual = Side::hear) {
    return askChoice(tr("Of"), {tr("what comes in"), tr("what is sent")}, usual == Side::move ? 0 : 1);
}
Side sideOf(const QVariant& answer) {
    return answer.toInt() == 0 ? Side::move : Side::hear;
}
std::string textOf(const QVariant& answer) {
    return answer.toString().trimmed().toStdString();
}

/// An act that asks nothing.
template<class Make>
BulkAct plainAct(const QString& title, Make make) {
    return {title, {}, [make](const QVariantList&) { return std::optional<Bulk>(make()); }};
}

Acts channelActs(const Ensemble&, const Rows&) {
    QStringList channels{tr("any")};
    constexpr int count = 16;
    for (int channel = 1; channel <= count; ++channel) channels << QString::number(channel);
    return {{tr("Set the channel"),
             {askSide(), askChoice(tr("Channel"), channels, 1)},
             [](const QVariantList& answers) {
                 const int channel = answers[1].toInt();
                 return std::optional(sheet::bulk::setChannel(
                     sideOf(answers[0]), channel == 0 ? std::nullopt : std::optional(channel)));
             }},
            {tr("Set the port"), {askSide(), askText(tr("Port"), {})}, [](const QVariantList& answers) {
                 const std::string port = textOf(answers[1]);
                 return port.empty() ? std::nullopt
                                     : std::optional(sheet::bulk::setPort(sideOf(answers[0]), port));
             }}};
}

Acts numberActs(const Ensemble&, const Rows&) {
    constexpr int most = 16383;
    return {
        plainAct(tr("To the next free number"), [] { return sheet::bulk::useFreeNumbers(); }),
        {tr("Number from"),
         {askSide(), askNumber(tr("The first"), 20, 0, most)},
         [](const QVariantList& answers) {
             return std::optional(sheet::bulk::numberFrom(sideOf(answers[0]), answers[1].toInt()));
         }},
        {tr("Move by"), {askSide(), askNumber(tr("By"), 1, -most, most)}, [](const QVariantList& answers) {
             return std::optional(sheet::bulk::moveNumbers(sideOf(answers[0]), answers[1].toInt()));
         }}};
}

Acts reachActs(const Ensemble&, const Rows&) {
    return {{tr("Set to"),
             {askText(tr("From, to"), QStringLiteral("0–127"))},
             [](const QVariantList& answers) {
                 const std::string typed = textOf(answers[0]);
                 return typed.empty() ? std::nullopt : std::optional(sheet::bulk::setReach(typed));
             }},
            {tr("Scale"),
             {askNumber(tr("To"), 0.8, 0, 10, false, QStringLiteral("share")),
              askChoice(tr("Keeping"), {tr("where it begins"), tr("its middle"), tr("where it ends")}, 1)},
             [](const QVariantList& answers) {
                 return std::optional(sheet::bulk::scaleReach(
                     answers[0].toDouble(), static_cast<sheet::bulk::About>(answers[1].toInt())));
             }},
            {tr("Shift"),
             {askNumber(tr("By, of the range"), 0.1, -1, 1, false, QStringLiteral("share"))},
             [](const QVariantList& answers) {
                 return std::optional(sheet::bulk::shiftReach(answers[0].toDouble()));
             }},
            plainAct(tr("Turn round"), [] { return sheet::bulk::turnRound(); }),
            plainAct(tr("Exchange between two rows"), [] { return sheet::bulk::exchangeReach(); })};
}

Acts onActs(const Ensemble&, const Rows&) {
    return {plainAct(tr("Switch off"), [] { return sheet::bulk::setOn(false); }),
            plainAct(tr("Switch on"), [] { return sheet::bulk::setOn(true); }),
            plainAct(tr("Lock the parameters"), [] { return sheet::bulk::setLocked(true); }),
            plainAct(tr("Unlock the parameters"), [] { return sheet::bulk::setLocked(false); })};
}

Acts restActs(const Ensemble&, const Rows&) {
    return {
        {tr("Set the rest"), {askText(tr("At rest"), QStringLiteral("0"))}, [](const QVariantList& answers) {
             const std::string typed = textOf(answers[0]);
             return typed.empty() ? std::nullopt : std::optional(sheet::bulk::setRest(typed));
         }}};
}

/// Asks for a field of a kind of step. value: what it is in all of them, if that is one.
std::optional<BulkAsk> askField(const Field& field, const std::optional<FieldValue>& value) {
    const QString label = toQt(field.label);
    if (field.type == Field::Type::choice) {
        QStringList choices;
        for (const std::string_view choice : field.choices) choices << choiceLabel(choice);
        const int* chosen = value ? std::get_if<int>(&*value) : nullptr;
        return askChoice(label, choices, chosen == nullptr ? 0 : *chosen);
    }
    if (field.type != Field::Type::number && field.type != Field::Type::whole) return std::nullopt;
    const double* now = value ? std::get_if<double>(&*value) : nullptr;
    BulkAsk ask = askNumber(label, now == nullptr ? field.start : *now, field.low, field.high,
                            field.type == Field::Type::whole,
                            field.unit == "%" ? QStringLiteral("share") : toQt(field.unit));
    if (field.high - field.low <= percent / 10) ask.step = (field.high - field.low) / percent;
    return ask;
}

Acts stepActs(const Ensemble& ensemble, const Rows& rows) {
    Acts acts;
    const auto counts = sheet::bulk::stepsOf(ensemble, rows);
    for (const sheet::bulk::KindCount& count : counts) {
        for (std::size_t f = 0; f < count.kind->fields.size(); ++f) {
            const Field& field = count.kind->fields[f];
            const auto ask = askField(field, count.values[f]);
            if (!ask) continue;
            const std::string_view kind = count.kind->name;
            const bool isChoice = ask->type == BulkAsk::Type::choice;
            acts.push_back({tr("%1: change its %2 (%3)")
                                .arg(toQt(count.kind->label), toQt(text::lowered(field.label)))
                                .arg(count.rows),
                            {*ask},
                            [kind, f, isChoice](const QVariantList& answers) {
                                const FieldValue value = isChoice ? FieldValue(answers[0].toInt())
                                                                  : FieldValue(answers[0].toDouble());
                                return std::optional(sheet::bulk::changeStep(kind, f, value));
                            }});
        }
    }
    for (const sheet::bulk::KindCount& count : counts) {
        acts.push_back(plainAct(tr("%1: take it away (%2)").arg(toQt(count.kind->label)).arg(count.rows),
                                [kind = count.kind->name] { return sheet::bulk::removeStep(kind); }));
    }
    for (const StepKind* kind : stepKinds()) {
        if (kind->namesSource) continue;
        acts.push_back(plainAct(tr("%1: add one").arg(toQt(kind->label)),
                                [kind] { return sheet::bulk::addStep(makeStep(*kind)); }));
    }
    return acts;
}

Acts giveActs(const Ensemble& ensemble, const Rows&) {
    BulkAsk to{tr("To"), BulkAsk::Type::several};
    std::vector<std::string> ids;
    for (const Instrument& instrument : ensemble.instruments) {
        to.choices << nameToShow(nameAmong(ensemble.instruments, instrument));
        ids.push_back(instrument.id);
    }
    return {{tr("Give the chains to"), {to}, [ids](const QVariantList& answers) -> std::optional<Bulk> {
                 std::vector<std::string> chosen;
                 for (const QVariant& place : answers[0].toList())
                     chosen.push_back(ids.at(static_cast<std::size_t>(place.toInt())));
                 if (chosen.empty()) return std::nullopt;
                 return sheet::bulk::giveTo(chosen);
             }}};
}

Acts renameActs(const Ensemble&, const Rows&) {
    return {{tr("Rename"),
             {askChoice(tr("What"), {tr("the chain"), tr("the control"), tr("what it reaches")}),
              askText(tr("Name; * is the present one, # a number"), QStringLiteral("* #")),
              askNumber(tr("Numbered from"), 1, 0, 9999)},
             [](const QVariantList& answers) {
                 const std::string pattern = textOf(answers[1]);
                 return pattern.empty() ? std::nullopt
                                        : std::optional(sheet::bulk::rename(
                                              static_cast<sheet::bulk::Named>(answers[0].toInt()), pattern,
                                              answers[2].toInt()));
             }}};
}

Acts removeActs(const Ensemble&, const Rows&) {
    return {plainAct(tr("Remove the rows"), [] { return sheet::bulk::remove(); })};
}

}  // namespace

std::span<const BulkKind> bulkKinds() {
    static constexpr std::array kinds{
        BulkKind{"channel", [] { return tr("Channel…"); },
                 [] { return tr("Set the channel or the port of the chosen rows"); }, channelActs},
        BulkKind{"number", [] { return tr("Number…"); },
                 [] { return tr("Number the messages of the chosen rows"); }, numberActs},
        BulkKind{"reach", [] { return tr("Reach…"); },
                 [] { return tr("Set, scale, shift, turn round or exchange reaches"); }, reachActs},
        BulkKind{"on", [] { return tr("On, off…"); },
                 [] { return tr("Switch the chosen rows on or off, or lock what they reach"); }, onActs},
        BulkKind{"rest", [] { return tr("Rest…"); },
                 [] { return tr("Where what they reach stands when nothing moves it"); }, restActs},
        BulkKind{"step", [] { return tr("Step…"); },
                 [] { return tr("Add, change or take away steps of the chosen rows’ chains"); }, stepActs},
        BulkKind{"give", [] { return tr("Give to…"); },
                 [] { return tr("Copy the chosen rows’ chains to other instruments"); }, giveActs},
        BulkKind{"rename", [] { return tr("Rename…"); },
                 [] { return tr("Rename by a pattern with numbers"); }, renameActs},
        BulkKind{"remove", [] { return tr("Remove…"); }, [] { return tr("Remove the chosen rows"); },
                 removeActs},
    };
    return kinds;
}

}  // namespace mellow::app
