// What a field starts as, by its type, and whether values keep to the limits that are strict. Limits that are
// not strict only bound what an editor offers.
#include "core/model/field.h"

#include <cmath>

#include "core/text/numbers.h"

namespace mellow {

FieldValue startOf(const Field& field) {
    switch (field.type) {
        case Field::Type::number:
        case Field::Type::whole:
            return field.start;
        case Field::Type::choice:
            return static_cast<int>(field.start);
        case Field::Type::points:
            return std::vector<Point>{{0, 0}, {1, 1}};
        case Field::Type::names:
            return std::vector<std::string>{};
        case Field::Type::text:
            return std::string();
    }
    return 0.0;
}

std::vector<FieldValue> startOf(std::span<const Field> fields) {
    std::vector<FieldValue> values;
    values.reserve(fields.size());
    for (const Field& field : fields) values.push_back(startOf(field));
    return values;
}

std::string flawOf(std::span<const Field> fields, std::span<const FieldValue> values) {
    for (std::size_t i = 0; i < fields.size(); ++i) {
        const Field& field = fields[i];
        const auto* number = std::get_if<double>(&values[i]);
        if (!field.strict || number == nullptr) continue;
        const std::string name = text::lowered(field.label);
        if (field.type == Field::Type::whole && *number != std::floor(*number))
            return name + " " + text::plain(*number) + " is no whole number";
        if (*number >= field.low && *number <= field.high) continue;
        return name + " " + text::plain(*number) + " is outside " + text::plain(field.low) + " to " +
               text::plain(field.high);
    }
    return {};
}

}  // namespace mellow
