#include "app/live/in_hand.h"

#include <QCoreApplication>
#include <algorithm>

#include "app/ground/words.h"
#include "core/model/edit_hands.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

struct Hand {
    Q_DECLARE_TR_FUNCTIONS(Hand)
};

/// Going through the orchestra is one thing to undo, however many were in hand on the way.
Gesture handing() {
    static const Gesture gesture = Document::newGesture();
    return gesture;
}

}  // namespace

void takeIntoHand(Document& document, const std::string& entry) {
    document.edit(
        Hand::tr("Change who is in hand"), [&](Ensemble& e) { putInHand(e, entry); }, handing());
}

void takeEveryoneIntoHand(Document& document) {
    document.edit(
        Hand::tr("Change who is in hand"), [](Ensemble& e) { e.inHand.reset(); }, handing());
}

QString whoIsInHand(const Ensemble& ensemble, const Live& live) {
    std::vector<const Instrument*> held;
    for (const Instrument& instrument : ensemble.instruments) {
        if (live.readings().instrument(instrument.id).inHand) held.push_back(&instrument);
    }
    if (held.empty()) return Hand::tr("nobody");
    if (held.size() == 1) return nameToShow(nameOf(*held.front()));
    for (const Section& section : ensemble.sections) {
        if (instrumentsOf(ensemble, section.id) == held) return nameToShow(nameOf(section));
    }
    if (held.size() == ensemble.instruments.size()) return Hand::tr("everyone");
    return Hand::tr("%1 of %2").arg(held.size()).arg(ensemble.instruments.size());
}

Keyboard::Meaning keysInHand(const Ensemble& ensemble, const Live& live) {
    Keyboard::Meaning meaning;
    int low = midi::max7;
    int high = 0;
    for (const Instrument& instrument : ensemble.instruments) {
        const io::InstrumentReading reading = live.readings().instrument(instrument.id);
        if (!reading.inHand) continue;
        const int transpose = instrument.input.transpose;
        int from = instrument.input.lowKey;
        int to = instrument.input.highKey;
        const auto& all = instrument.articulations;
        if (reading.articulation >= 0 && reading.articulation < static_cast<int>(all.size())) {
            const Articulation& playing = all[static_cast<std::size_t>(reading.articulation)];
            from = std::max(from, playing.lowKey - transpose);
            to = std::min(to, playing.highKey - transpose);
        }
        low = std::min(low, from);
        high = std::max(high, to);
        for (const Articulation& articulation : all) {
            for (const Select& select : articulation.select) {
                const int key = select.number - transpose;
                if (select.kind != SelectKind::note || key < 0 || key > midi::max7) continue;
                meaning.switches.try_emplace(key, nameToShow(nameOf(articulation)).left(1));
            }
        }
    }
    if (low <= high) {
        meaning.low = low;
        meaning.high = high;
    }
    return meaning;
}

}  // namespace mellow::app
