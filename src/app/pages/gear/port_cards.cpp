#include "app/pages/gear/port_cards.h"

#include <QCoreApplication>
#include <algorithm>
#include <map>
#include <set>

#include "app/ground/words.h"
#include "core/describe/heard.h"
#include "core/learning/heard_as.h"
#include "core/model/resolve.h"
#include "io/session/port_titles.h"

namespace mellow::app {

namespace {

/// The name without what tells two of a kind apart: digits and what stands around them.
std::string stemOf(const std::string& name) {
    std::string stem;
    for (const char letter : name) {
        if (letter >= '0' && letter <= '9') continue;
        if (letter == ' ' && (stem.empty() || stem.back() == ' ')) continue;
        stem += letter;
    }
    while (!stem.empty() && stem.back() == ' ') stem.pop_back();
    return stem;
}

/// "A, B, 2 more".
QString listed(const QStringList& names) {
    constexpr qsizetype shown = 2;
    if (names.size() <= shown) return names.join(QStringLiteral(", "));
    return names.mid(0, shown).join(QStringLiteral(", ")) + QStringLiteral(", ") +
           QCoreApplication::translate("PortCards", "%n more", nullptr,
                                       static_cast<int>(names.size() - shown));
}

class Maker {
    Q_DECLARE_TR_FUNCTIONS(PortCards)

 public:
    Maker(const Document& document, Live& live, const PortActivity& activity)
        : ensemble_(document.ensemble()),
          live_(live),
          activity_(activity),
          present_(live.ports().present()) {}

    PortCards make() {
        const io::PortNames wishes = io::wishesOf(ensemble_);
        PortCards cards;
        cards.hands.push_back(handsCard(std::string(io::practiceKeysPort)));
        for (const std::string& name : wishes.inputs) cards.hands.push_back(handsCard(name));
        for (const std::string& name : wishes.outputs) cards.sound.push_back(soundCard(name));
        join(cards);
        for (auto* side : {&cards.hands, &cards.sound}) {
            for (PortCard& card : *side) finish(card);
        }
        return cards;
    }

 private:
    /// "A, B, 2 more".
    [[nodiscard]] const io::PortState* stateOf(const PortName& port, bool connected) const {
        const auto found = std::find_if(present_.begin(), present_.end(), [&](const io::PortState& state) {
            return state.input == port.input && state.name == port.name && (state.connected || !connected);
        });
        return found == present_.end() ? nullptr : &*found;
    }

    PortCard handsCard(const std::string& name) const {
        PortCard card;
        card.port = {true, name};
        card.title = titleOf(ensemble_, card.port);
        if (name == io::practiceKeysPort) {
            card.where = tr("Practice keys · built in");
            return card;
        }
        place(card);
        if (live_.ports().filter(card.port.name).silenced) card.state = PortCard::State::silenced;
        return card;
    }

    PortCard soundCard(const std::string& name) const {
        PortCard card;
        card.port = {false, name};
        card.title = titleOf(ensemble_, card.port);
        place(card);
        return card;
    }

    /// Where it is, or that it is not there.
    void place(PortCard& card) const {
        const io::PortState* there = stateOf(card.port, true);
        const io::PortState* made = stateOf(card.port, false);
        const QString name =
            card.port.name == io::practiceRackPort ? tr("Practice rack") : nameToShow(card.port.name);
        QStringList ends;
        for (const io::Wire& wire : live_.ports().wires()) {
            if (wire.ours == card.port.name && wire.input == card.port.input) ends << toQt(wire.theirs);
        }
        if (there == nullptr && card.port.name != io::practiceRackPort) card.state = PortCard::State::waiting;
        const io::PortState* by = there != nullptr ? there : made;
        card.where = name;
        if (!ends.isEmpty())
            card.where += (card.port.input ? QStringLiteral(" ← ") : QStringLiteral(" → ")) + listed(ends);
        card.where += QStringLiteral(" · ") + (by != nullptr ? toQt(by->by) : tr("not here now"));
    }

    /// Threads, and for each card how many chains go through it.
    void join(PortCards& cards) {
        std::map<std::pair<std::size_t, std::size_t>, int> counts;
        const auto each = [&](const Instrument* owner, const Chain& chain) {
            if (!chain.on) return;
            ++cards.chains;
            for (const std::size_t to : outputsOf(cards, owner, chain)) {
                ++throughSound_[to];
                for (const std::size_t from : inputsOf(cards, owner, chain)) ++counts[{from, to}];
            }
            for (const std::size_t from : inputsOf(cards, owner, chain)) ++throughHands_[from];
        };
        for (const Instrument& instrument : ensemble_.instruments) {
            for (const Chain& chain : instrument.chains) each(&instrument, chain);
        }
        for (const Chain& chain : ensemble_.sharedChains) each(nullptr, chain);
        for (const auto& [ends, chains] : counts) cards.threads.push_back({ends.first, ends.second, chains});
        for (const auto& [place, chains] : throughHands_) cards.hands[place].waiting = chains;
        for (const auto& [place, chains] : throughSound_) cards.sound[place].waiting = chains;
    }

    [[nodiscard]] std::set<std::size_t> outputsOf(const PortCards& cards, const Instrument* owner,
                                                  const Chain& chain) const {
        std::set<std::size_t> places;
        for (const Branch& branch : chain.branches) {
            const Target target = targetOf(ensemble_, owner, branch.target);
            if (target.instrument == nullptr || target.parameter == nullptr) continue;
            for (std::size_t i = 0; i < cards.sound.size(); ++i) {
                if (cards.sound[i].port.name == target.instrument->output.port) places.insert(i);
            }
        }
        return places;
    }

    /// Cards of the ports that move a chain's sources; of those that listen anywhere, the ones that are used.
    [[nodiscard]] std::set<std::size_t> inputsOf(const PortCards& cards, const Instrument* owner,
                                                 const Chain& chain) const {
        std::set<std::size_t> places;
        forEachSource(chain, [&](const Source& written) {
            const Source source = resolved(ensemble_, written);
            if (row(source.kind).origin == Origin::tieLine || row(source.kind).origin == Origin::generator)
                return;
            const std::string* port = portOf(ensemble_, source);
            const bool anywhere = port == nullptr && (owner == nullptr || owner->input.port == anyPort);
            const std::string& wanted = port != nullptr    ? *port
                                        : owner != nullptr ? owner->input.port
                                                           : anyPort_;
            for (std::size_t i = 0; i < cards.hands.size(); ++i) {
                const PortCard& card = cards.hands[i];
                if (anywhere ? card.state == PortCard::State::here : card.port.name == wanted)
                    places.insert(i);
            }
        });
        return places;
    }

    void finish(PortCard& card) const {
        const PortActivity::Port* activity = activity_.find(card.port);
        card.rate = activity != nullptr ? activity->rate : 0;
        card.moves = activity != nullptr && activity->moves;
        if (card.state == PortCard::State::silenced) {
            card.sentence = tr("silenced here");
        } else if (card.state == PortCard::State::waiting) {
            const std::string match = matchOf(card.port);
            card.sentence = card.port.input ? tr("waiting for something to play it")
                                            : tr("waiting for something to play");
            if (!match.empty()) card.sentence = tr("waiting · “%1” looks like it").arg(toQt(match));
        } else if (const QString wire = wireOf(card.port); !wire.isEmpty()) {
            card.sentence = wire;
        } else if (activity != nullptr && activity->shapes.latest() != nullptr) {
            card.sentence = sentenceOf(card.port, *activity->shapes.latest());
        } else {
            card.sentence = card.port.input ? tr("nothing has come yet") : tr("nothing was sent yet");
        }
    }

    /// Of a paced wire: how full it is.
    [[nodiscard]] QString wireOf(const PortName& port) const {
        constexpr float full = 0.8F;
        const auto load = port.input ? std::nullopt : live_.ports().wireLoad(port.name);
        if (!load || *load < full) return {};
        return tr("wire %1 % full · newest values only").arg(static_cast<int>(*load * 100));
    }

    [[nodiscard]] QString sentenceOf(const PortName& port, const midi::HeardControl& control) const {
        const SentAs sent = port.input ? SentAs{} : sentAs(ensemble_, port.name, control);
        if (sent.parameter == nullptr) return toQt(describe::heard(control, activity_.now()));
        return tr("%1 at %2 · %3")
            .arg(nameToShow(nameOf(*sent.parameter)))
            .arg(control.value)
            .arg(nameToShow(nameOf(*sent.instrument)));
    }

    /// What was connected to it is gone, and something like it is there.
    [[nodiscard]] std::string matchOf(const PortName& port) const {
        std::vector<std::string> others;
        for (const auto& [system, names] : live_.ports().others()) {
            const auto& side = port.input ? names.inputs : names.outputs;
            others.insert(others.end(), side.begin(), side.end());
        }
        for (const io::Wire& wire : live_.ports().wires()) {
            if (wire.ours != port.name || wire.input != port.input) continue;
            const std::string match = likelyMatch(wire.theirs, others);
            if (!match.empty()) return match;
        }
        return likelyMatch(port.name, others);
    }

    const Ensemble& ensemble_;
    Live& live_;
    const PortActivity& activity_;
    std::vector<io::PortState> present_;
    std::map<std::size_t, int> throughHands_;
    std::map<std::size_t, int> throughSound_;
    const std::string anyPort_{anyPort};
};

}  // namespace

QString titleOf(const Ensemble& ensemble, const PortName& port) {
    if (const std::string title = io::portTitle(ensemble, port.input, port.name); !title.empty())
        return toQt(title);
    if (port.name == io::practiceKeysPort) return QCoreApplication::translate("PortCards", "Practice keys");
    return toQt(port.name);
}

SentAs sentAs(const Ensemble& ensemble, const std::string& port, const midi::HeardControl& control) {
    for (const Instrument& instrument : ensemble.instruments) {
        if (instrument.output.port != port || instrument.output.channel != control.key.channel + 1) continue;
        for (const Parameter& parameter : instrument.parameters) {
            if (isHeardAs(sourceOf(parameter.message), control)) return {&instrument, &parameter};
        }
        return {&instrument, nullptr};
    }
    return {};
}

PortCards portCards(const Document& document, Live& live, const PortActivity& activity) {
    return Maker(document, live, activity).make();
}

std::string likelyMatch(const std::string& name, const std::vector<std::string>& candidates) {
    const std::string stem = stemOf(name);
    const auto looksLike = [&](const std::string& other) {
        if (other == name) return false;
        const std::string otherStem = stemOf(other);
        const std::string program = stemOf(other.substr(0, other.find(':')));
        return !stem.empty() && (otherStem == stem || program == stem);
    };
    const auto found = std::find_if(candidates.begin(), candidates.end(), looksLike);
    return found == candidates.end() ? std::string() : *found;
}

}  // namespace mellow::app
