// Words are found anywhere in a part, numbers in their order, so that charts of many hands can be read.
#include "core/profiles/select_text.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>

#include "core/midi/message.h"
#include "core/midi/names.h"
#include "core/text/numbers.h"

namespace mellow::profiles {

namespace {

constexpr int octave = 12;

std::string_view trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t");
    if (first == std::string_view::npos) return {};
    return text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

std::vector<std::string_view> wordsOf(std::string_view text) {
    constexpr std::string_view between = " \t,=:/()";
    std::vector<std::string_view> words;
    while (true) {
        const auto start = text.find_first_not_of(between);
        if (start == std::string_view::npos) return words;
        text.remove_prefix(start);
        const auto end = std::min(text.find_first_of(between), text.size());
        words.push_back(text.substr(0, end));
        text.remove_prefix(end);
    }
}

std::optional<int> wholeNumber(std::string_view word) {
    int number = 0;
    const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), number);
    if (error != std::errc() || end != word.data() + word.size()) return std::nullopt;
    return number;
}

struct Word {
    std::string_view word;
    SelectKind kind;
};
constexpr std::array words{Word{"key", SelectKind::note},        Word{"keyswitch", SelectKind::note},
                           Word{"switch", SelectKind::note},     Word{"note", SelectKind::note},
                           Word{"ks", SelectKind::note},         Word{"cc", SelectKind::cc},
                           Word{"control", SelectKind::cc},      Word{"program", SelectKind::program},
                           Word{"pc", SelectKind::program},      Word{"patch", SelectKind::program},
                           Word{"channel", SelectKind::channel}, Word{"ch", SelectKind::channel}};

std::optional<Select> parsePart(std::string_view part) {
    Select select;
    bool named = false;
    bool inBank = false;
    bool atVelocity = false;
    std::vector<int> numbers;
    std::vector<int> bank;
    for (const std::string_view raw : wordsOf(part)) {
        const std::string word = text::folded(raw);
        const auto kind =
            std::find_if(words.begin(), words.end(), [&](const Word& each) { return each.word == word; });
        if (kind != words.end() && !named) {
            select.kind = kind->kind;
            named = true;
        } else if (word == "held" || word == "hold") {
            select.held = true;
        } else if (word == "bank") {
            inBank = true;
        } else if (word == "velocity") {
            atVelocity = true;
        } else if (const auto number = wholeNumber(word)) {
            if (atVelocity) {
                select.velocity = *number;
                atVelocity = false;
            } else {
                (inBank ? bank : numbers).push_back(*number);
            }
        } else if (const auto key = parseKey(raw); key && (!named || select.kind == SelectKind::note)) {
            numbers.push_back(*key);
        } else if (word != "of" && word != "at" && word != "to" && kind == words.end()) {
            return std::nullopt;
        }
    }
    const std::size_t needed = select.kind == SelectKind::cc ? 2 : 1;
    if (numbers.size() != needed || (inBank && bank.size() != 2)) return std::nullopt;
    if (select.kind == SelectKind::note || select.kind == SelectKind::cc) select.number = numbers[0];
    if (select.kind != SelectKind::note) select.value = numbers.back();
    if (select.kind == SelectKind::program && inBank) select.bank = {bank[0], bank[1]};
    if (select.kind != SelectKind::note && select.held) return std::nullopt;
    return select;
}

}  // namespace

std::optional<int> parseKey(std::string_view typed) {
    const std::string_view text = trimmed(typed);
    if (text.empty()) return std::nullopt;
    if (const auto number = wholeNumber(text))
        return *number >= 0 && *number <= midi::max7 ? number : std::nullopt;
    constexpr std::string_view letters = "CCDDEFFGGAAB";
    const auto place = letters.find(static_cast<char>(std::toupper(static_cast<unsigned char>(text[0]))));
    if (place == std::string_view::npos) return std::nullopt;
    std::string_view rest = text.substr(1);
    int key = static_cast<int>(place);
    if (rest.starts_with("#") || rest.starts_with("\u266F")) {
        ++key;
        rest.remove_prefix(rest.starts_with("#") ? 1 : 3);
    } else if (rest.starts_with("b") || rest.starts_with("\u266D")) {
        --key;
        rest.remove_prefix(rest.starts_with("b") ? 1 : 3);
    }
    const auto at = wholeNumber(rest);
    if (!at || *at < -1 || *at > 9) return std::nullopt;
    key += (*at + 1) * octave;
    return key >= 0 && key <= midi::max7 ? std::optional(key) : std::nullopt;
}

std::string selectText(const std::vector<Select>& select) {
    std::string text;
    for (const Select& each : select) {
        if (!text.empty()) text += " + ";
        switch (each.kind) {
            case SelectKind::note:
                text += "Key " + midi::keyToType(each.number);
                if (each.velocity != Select{}.velocity) text += " velocity " + std::to_string(each.velocity);
                if (each.held) text += " held";
                break;
            case SelectKind::cc:
                text += "CC " + std::to_string(each.number) + " = " + std::to_string(each.value);
                break;
            case SelectKind::program:
                text += "Program " + std::to_string(each.value);
                if (each.bank)
                    text +=
                        " of bank " + std::to_string((*each.bank)[0]) + "/" + std::to_string((*each.bank)[1]);
                break;
            case SelectKind::channel:
                text += "Channel " + std::to_string(each.value);
                break;
        }
    }
    return text;
}

std::optional<std::vector<Select>> parseSelect(std::string_view typed) {
    std::vector<Select> select;
    while (!trimmed(typed).empty()) {
        const auto end = std::min(typed.find_first_of("+;"), typed.size());
        const auto part = parsePart(typed.substr(0, end));
        if (!part) return std::nullopt;
        select.push_back(*part);
        typed.remove_prefix(std::min(end + 1, typed.size()));
    }
    return select;
}

bool transposeSwitches(std::vector<Articulation>& list, const std::vector<std::size_t>& rows, int semitones) {
    std::vector<Articulation> moved = list;
    for (std::size_t i = 0; i < moved.size(); ++i) {
        if (!rows.empty() && std::find(rows.begin(), rows.end(), i) == rows.end()) continue;
        for (Select& select : moved[i].select) {
            if (select.kind != SelectKind::note) continue;
            select.number += semitones;
            if (!flawOf(select).empty()) return false;
        }
    }
    list = std::move(moved);
    return true;
}

}  // namespace mellow::profiles
