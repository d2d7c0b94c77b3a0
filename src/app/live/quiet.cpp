// The nearest reason is given: what is switched off first, then what cannot run, who waits for whom, and last
// that nothing has come yet.
#include "app/live/quiet.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "app/ground/words.h"
#include "core/describe/sentence.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"

namespace mellow::app {

namespace {

class Asker {
    Q_DECLARE_TR_FUNCTIONS(Quiet)

 public:
    Asker(const Document& document, const Live& live, const Selected& place)
        : ensemble_(document.ensemble()),
          live_(live),
          instrument_(instrumentOf(ensemble_, place)),
          chain_(chainOf(ensemble_, place)) {
        if (chain_ != nullptr) reading_ = live.reading(place.instrument, chain_->id);
    }

    [[nodiscard]] QString ask() const {
        if (chain_ == nullptr) return {};
        if (instrument_ != nullptr && !instrument_->on)
            return tr("Quiet: %1 is switched off.").arg(nameToShow(nameOf(*instrument_)));
        if (!chain_->on) return tr("Quiet: this chain is switched off.");
        if (!reading_.runs) return tr("Quiet: it cannot run as it is written.");
        if (instrument_ != nullptr && chain_->active == Active::inHand && !inHand())
            return tr("Quiet: %1 is not in hand.").arg(nameToShow(nameOf(*instrument_)));
        if (QString source = ofSource(); !source.isEmpty()) return source;
        return ofOutput();
    }

 private:
    [[nodiscard]] bool inHand() const {
        const auto& hand = ensemble_.inHand;
        return !hand || std::find(hand->begin(), hand->end(), instrument_->id) != hand->end();
    }

    /// A control that has not caught up with the value that it is to take over.
    [[nodiscard]] QString ofHandover() const {
        if (reading_.control < 0) return {};
        const Source source = resolved(ensemble_, chain_->source);
        const QString name = toQt(describe::sourceName(ensemble_, chain_->source));
        const auto place = [&source](double position) {
            const int max = maxOf(source);
            return max == 0 ? tr("%1 %").arg(std::lround(position * 100))
                            : QString::number(encode(scaleOf(source), clampPosition(position), max));
        };
        return handoverOf(ensemble_, *chain_) == Handover::meet
                   ? tr("Waits for %1: it is at %2, and takes over at %3.")
                         .arg(name, place(reading_.control), place(reading_.position))
                   : tr("%1 is at %2, the value at %3; they meet as you move it.")
                         .arg(name, place(reading_.control), place(reading_.position));
    }

    [[nodiscard]] QString ofSource() const {
        if (reading_.spoken) return ofHandover();
        const Source source = resolved(ensemble_, chain_->source);
        const QString name = toQt(describe::sourceName(ensemble_, chain_->source));
        if (row(source.kind).origin == Origin::generator) return {};
        if (row(source.kind).origin == Origin::tieLine)
            return tr("Quiet: no chain has written %1 yet.").arg(name);
        const std::string* port = portOf(ensemble_, source);
        const std::string& from = port != nullptr          ? *port
                                  : instrument_ != nullptr ? instrument_->input.port
                                                           : nowhere_;
        if (live_.ports().waitsFor(from, true))
            return tr("Quiet: waiting for %1, to play it.").arg(toQt(from));
        return tr("Quiet: nothing has come from %1 yet. Move it, or press L to learn another.").arg(name);
    }

    [[nodiscard]] QString ofOutput() const {
        for (const Branch& branch : chain_->branches) {
            const Target target = targetOf(ensemble_, instrument_, branch.target);
            if (target.instrument == nullptr ||
                !live_.ports().waitsFor(target.instrument->output.port, false))
                continue;
            return tr("Nobody hears it: waiting for %1.").arg(toQt(target.instrument->output.port));
        }
        if (chain_->branches.empty()) return tr("Quiet: it leads nowhere yet.");
        return {};
    }

    const Ensemble& ensemble_;
    const Live& live_;
    const Instrument* instrument_;
    const Chain* chain_;
    ChainReading reading_;
    std::string nowhere_;
};

}  // namespace

QString whyQuiet(const Document& document, const Live& live, const Selected& place) {
    return Asker(document, live, place).ask();
}

}  // namespace mellow::app
