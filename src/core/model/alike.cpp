#include "core/model/alike.h"

#include <functional>

namespace mellow {

bool isAlike(const Chain& one, const Chain& other) {
    return one.on == other.on && one.active == other.active && one.source == other.source &&
           one.keepOriginal == other.keepOriginal && one.steps == other.steps && one.fan == other.fan &&
           one.branches == other.branches && one.handover == other.handover && one.extras == other.extras;
}

std::size_t digestOf(const Chain& chain) {
    std::size_t digest = chain.steps.size();
    const auto add = [&digest](const auto& value) {
        constexpr std::size_t mixing = 1099511628211U;  // FNV-1a's prime for 64 bits
        digest = (digest ^ std::hash<std::decay_t<decltype(value)>>()(value)) * mixing;
    };
    add(static_cast<int>(chain.source.kind));
    add(chain.source.number);
    add(chain.source.control);
    add(chain.source.tieLine);
    for (const Branch& branch : chain.branches) {
        add(branch.target);
        add(branch.low);
        add(branch.high);
    }
    for (const Step& step : chain.steps) {
        for (const FieldValue& value : step.values) {
            if (const auto* number = std::get_if<double>(&value)) add(*number);
        }
    }
    return digest;
}

}  // namespace mellow
