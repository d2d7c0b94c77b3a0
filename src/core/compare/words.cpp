#include "core/compare/words.h"

#include "core/describe/sentence.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::compare {

std::string keyWords(std::string_view key) {
    static const std::map<std::string_view, std::string> known{
        {"name", "name"},
        {"bpm", "beats a minute"},
        {"start_us", "start in the piece"},
        {"sha256", "checksum"},
        {"by", "chosen by"},
        {"inHand", "in hand"},
        {"unmatched", "passing what no chain takes"},
    };
    if (const auto found = known.find(key); found != known.end()) return found->second;
    std::string words;
    for (const char c : key) {
        if (c >= 'A' && c <= 'Z') {
            words += ' ';
            words += static_cast<char>(c - 'A' + 'a');
        } else {
            words += c == '_' ? ' ' : c;
        }
    }
    return words;
}

std::string valueWords(bool value) {
    return value ? "on" : "off";
}
std::string valueWords(double value) {
    return text::plain(value);
}
std::string valueWords(int value) {
    return std::to_string(value);
}
std::string valueWords(std::int64_t value) {
    return std::to_string(value);
}
std::string valueWords(const std::string& value) {
    return value.empty() ? "nothing" : "“" + value + "”";
}
std::string valueWords(const Level& value) {
    const auto* number = std::get_if<double>(&value);
    return number != nullptr ? text::plain(*number) : std::get<std::string>(value);
}
std::string valueWords(const Message& value) {
    return describe::targetMessage(value);
}
std::string valueWords(const BranchWindow& value) {
    return text::plain(value.low) + text::dash + text::plain(value.high);
}
std::string valueWords(const Select& value) {
    static constexpr std::array<std::string_view, 4> kinds{"key", "CC", "program", "channel"};
    const std::string kind(kinds.at(static_cast<std::size_t>(value.kind)));
    const bool numbered = value.kind == SelectKind::note || value.kind == SelectKind::cc;
    return kind + " " + std::to_string(numbered ? value.number : value.value);
}
std::string valueWords(const std::array<int, 2>& value) {
    return std::to_string(value[0]) + text::dash + std::to_string(value[1]);
}
std::string valueWords(const std::array<int, 4>& value) {
    std::string all;
    for (const int each : value) all += (all.empty() ? "" : ", ") + std::to_string(each);
    return all;
}
std::string valueWords(const std::map<std::string, std::string>& value) {
    std::string all;
    for (const auto& [from, to] : value) all += (all.empty() ? "" : ", ") + from + " to " + to;
    return all.empty() ? "nothing" : all;
}

namespace {

std::string fieldWords(const Field& field, const FieldValue& value) {
    if (const auto* number = std::get_if<double>(&value)) {
        if (field.unit == "%") return text::plain(*number * 100) + " %";
        return field.unit.empty() ? text::plain(*number) : text::withUnit(*number, field.unit);
    }
    if (const auto* choice = std::get_if<int>(&value)) {
        const auto place = static_cast<std::size_t>(*choice);
        return place < field.choices.size() ? keyWords(field.choices[place]) : std::to_string(*choice);
    }
    if (const auto* points = std::get_if<std::vector<Point>>(&value))
        return std::to_string(points->size()) + " points";
    if (const auto* words = std::get_if<std::string>(&value)) return valueWords(*words);
    return valueWords(std::get<std::vector<std::string>>(value));
}

}  // namespace

std::string stepWords(const Step& step, const Step& other) {
    std::string all;
    for (std::size_t i = 0; i < step.kind->fields.size() && i < step.values.size(); ++i) {
        if (i < other.values.size() && step.values[i] == other.values[i]) continue;
        const Field& field = step.kind->fields[i];
        all += all.empty() ? "" : ", ";
        if (step.kind->fields.size() > 1) all += text::lowered(field.label) + " ";
        all += fieldWords(field, step.values[i]);
    }
    if (step.on != other.on) all += (all.empty() ? "" : ", ") + std::string(step.on ? "on" : "off");
    return all;
}

}  // namespace mellow::compare
