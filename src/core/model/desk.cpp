#include "core/model/desk.h"

#include <algorithm>
#include <string_view>

#include "core/model/ensemble_words.h"

namespace mellow {

std::string addressOf(const DeskElement& element, Axis axis) {
    std::string address = "/" + element.id;
    if (element.kind == ElementKind::pad)
        address.append("/").append(axisWords[static_cast<std::size_t>(axis)]);
    return address;
}

std::size_t nameAt(double position, std::size_t count) {
    return std::min(count - 1, static_cast<std::size_t>(position * static_cast<double>(count)));
}

}  // namespace mellow
