// A row is measured along what its chain listens to; a parameter that nothing moves, along itself.
#include "core/assignments/loudness.h"

#include "core/assignments/assignments.h"
#include "core/describe/source_words.h"
#include "core/store/instrument_state.h"

namespace mellow {

namespace {

std::string movedBy(const Assignment& row) {
    if (row.chain != nullptr) return describe::sourceWords(row.chain->source);
    return row.target.parameter == nullptr ? std::string()
                                           : describe::parameterWords(row.target.parameter->id);
}

/// Keeps the later one.
void take(const KeptCurve*& last, const KeptCurve& curve) {
    if (last == nullptr || last->measured <= curve.measured) last = &curve;
}

}  // namespace

bool Loudness::isOutdated() const {
    if (!isOutdated_) isOutdated_ = store::isOutdated(ensemble_, curve_);
    return *isOutdated_;
}

LastMeasured::LastMeasured(const Ensemble& ensemble) {
    std::map<std::pair<std::string, std::string>, const KeptCurve*> last;
    for (const KeptCurve& each : ensemble.measurements) take(last[{each.instrument, each.moved}], each);
    for (const auto& [what, curve] : last) all_[what] = std::make_shared<const Loudness>(ensemble, *curve);
}

std::shared_ptr<const Loudness> LastMeasured::of(const Assignment& row) const {
    const Instrument* instrument = row.instrument();
    if (all_.empty() || instrument == nullptr) return nullptr;
    const auto found = all_.find({instrument->id, movedBy(row)});
    return found == all_.end() ? nullptr : found->second;
}

std::shared_ptr<const Loudness> loudnessOf(const Ensemble& ensemble, const Assignment& row) {
    const Instrument* instrument = row.instrument();
    if (ensemble.measurements.empty() || instrument == nullptr) return nullptr;
    const std::string moved = movedBy(row);
    const KeptCurve* last = nullptr;
    for (const KeptCurve& each : ensemble.measurements) {
        if (each.instrument == instrument->id && each.moved == moved) take(last, each);
    }
    return last == nullptr ? nullptr : std::make_shared<const Loudness>(ensemble, *last);
}

}  // namespace mellow
