#include "core/profiles/message_text.h"

#include <array>
#include <cctype>
#include <charconv>
#include <vector>

namespace mellow::profiles {

namespace {

struct Word {
    std::string_view word;
    MessageKind kind;
};

/// What kinds are called, without spaces and signs; of words that begin alike the longer one first.
constexpr std::array words{
    Word{"14bitcontrol", MessageKind::cc14},
    Word{"control14bit", MessageKind::cc14},
    Word{"14bitcc", MessageKind::cc14},
    Word{"cc14bit", MessageKind::cc14},
    Word{"cc14", MessageKind::cc14},
    Word{"14bit", MessageKind::cc14},
    Word{"channelpressure", MessageKind::pressure},
    Word{"channelaftertouch", MessageKind::pressure},
    Word{"keypressure", MessageKind::keyPressure},
    Word{"polyaftertouch", MessageKind::keyPressure},
    Word{"polypressure", MessageKind::keyPressure},
    Word{"aftertouch", MessageKind::pressure},
    Word{"pressure", MessageKind::pressure},
    Word{"pitchbend", MessageKind::bend},
    Word{"pitchwheel", MessageKind::bend},
    Word{"bend", MessageKind::bend},
    Word{"velocity", MessageKind::velocity},
    Word{"keyswitch", MessageKind::note},
    Word{"note", MessageKind::note},
    Word{"programchange", MessageKind::program},
    Word{"program", MessageKind::program},
    Word{"patch", MessageKind::program},
    Word{"nrpn", MessageKind::nrpn},
    Word{"rpn", MessageKind::rpn},
    Word{"osc", MessageKind::osc},
    Word{"articulation", MessageKind::articulation},
    Word{"relativeencoder", MessageKind::relative},
    Word{"encoder", MessageKind::relative},
    Word{"relative", MessageKind::relative},
    Word{"controlchange", MessageKind::cc},
    Word{"controller", MessageKind::cc},
    Word{"control", MessageKind::cc},
    Word{"7bit", MessageKind::cc},
    Word{"cc", MessageKind::cc},
};

std::string_view nameFor(MessageKind kind) {
    switch (kind) {
        case MessageKind::cc:
            return "CC";
        case MessageKind::cc14:
            return "14-bit CC";
        case MessageKind::bend:
            return "Pitch bend";
        case MessageKind::pressure:
            return "Channel pressure";
        case MessageKind::keyPressure:
            return "Key pressure";
        case MessageKind::velocity:
            return "Velocity";
        case MessageKind::note:
            return "Note";
        case MessageKind::program:
            return "Program";
        case MessageKind::rpn:
            return "RPN";
        case MessageKind::nrpn:
            return "NRPN";
        case MessageKind::osc:
            return "OSC";
        case MessageKind::articulation:
            return "Articulation";
        case MessageKind::relative:
            return "Encoder";
    }
    return {};
}

/// Letters and digits in lower case, and where each stood.
struct Folded {
    std::string letters;
    std::vector<std::size_t> places;
    explicit Folded(std::string_view text) {
        for (std::size_t i = 0; i < text.size(); ++i) {
            const auto byte = static_cast<unsigned char>(text[i]);
            if (std::isalnum(byte) == 0) continue;
            letters += static_cast<char>(std::tolower(byte));
            places.push_back(i);
        }
    }
};

std::vector<int> numbersIn(std::string_view text) {
    std::vector<int> numbers;
    for (std::size_t i = 0; i < text.size();) {
        int number = 0;
        const auto [end, error] = std::from_chars(text.data() + i, text.data() + text.size(), number);
        if (error == std::errc()) {
            if (number >= 0) numbers.push_back(number);
            i = static_cast<std::size_t>(end - text.data());
        } else {
            ++i;
        }
    }
    return numbers;
}

/// What a kind has beside its number.
void readParts(Message& message, std::string_view rest, const std::vector<int>& numbers) {
    const std::size_t after = row(message.kind).numbered ? 1 : 0;
    if (message.kind == MessageKind::note && numbers.size() > after) message.velocity = numbers[after];
    if (message.kind == MessageKind::program && numbers.size() >= 2)
        message.bank = {numbers[numbers.size() - 2], numbers.back()};
    if (message.kind == MessageKind::osc) {
        const auto slash = rest.find('/');
        if (slash != std::string_view::npos)
            message.address = std::string(rest.substr(slash, rest.find_first_of(" \t", slash) - slash));
    }
    const auto fields = row(message.kind).fields;
    for (std::size_t i = 0; i < fields.size(); ++i) {
        for (std::size_t c = 0; c < fields[i].choices.size(); ++c) {
            if (rest.find(fields[i].choices[c]) != std::string_view::npos)
                message.values[i] = static_cast<int>(c);
        }
    }
}

/// "1, 14-bit": behind the number that it is a pair's.
bool saysPair(std::string_view rest) {
    const auto at = rest.find("14");
    if (at == std::string_view::npos || at == 0 ||
        std::isdigit(static_cast<unsigned char>(rest[at - 1])) != 0)
        return false;
    return numbersIn(rest.substr(0, at)).size() == 1 && Folded(rest.substr(at)).letters.starts_with("14bit");
}

}  // namespace

std::string messageText(const Message& message) {
    const MessageRow& kind = row(message.kind);
    std::string text(nameFor(message.kind));
    if (kind.numbered) text += " " + std::to_string(message.number);
    if (message.kind == MessageKind::note && message.velocity != Message{}.velocity)
        text += " at " + std::to_string(message.velocity);
    if (message.bank)
        text += ", bank " + std::to_string((*message.bank)[0]) + " " + std::to_string((*message.bank)[1]);
    if (message.kind == MessageKind::osc) text += " " + message.address;
    for (std::size_t i = 0; i < kind.fields.size() && i < message.values.size(); ++i) {
        if (kind.fields[i].type == Field::Type::choice)
            text +=
                " " + std::string(
                          kind.fields[i].choices[static_cast<std::size_t>(std::get<int>(message.values[i]))]);
    }
    return text;
}

std::optional<Message> parseMessage(std::string_view typed) {
    const Folded folded(typed);
    if (folded.letters.empty()) return std::nullopt;
    Message message;
    std::string_view rest = typed;
    bool named = false;
    for (const Word& word : words) {
        if (!std::string_view(folded.letters).starts_with(word.word)) continue;
        const std::size_t end = folded.places[word.word.size() - 1] + 1;
        const auto isDigit = [](char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; };
        const bool goesOn = end < typed.size() && isDigit(typed[end]) && isDigit(word.word.back());
        // "CC 14" is no pair without a number, but the control 14.
        if (goesOn || (row(word.kind).numbered && numbersIn(typed.substr(end)).empty())) continue;
        message.kind = word.kind;
        rest = typed.substr(end);
        named = true;
        break;
    }
    const std::vector<int> numbers = numbersIn(rest);
    const bool isNumber = folded.letters.find_first_not_of("0123456789") == std::string::npos;
    if (!named && !isNumber) return std::nullopt;
    if (row(message.kind).numbered) {
        if (numbers.empty()) return std::nullopt;
        message.number = numbers.front();
    }
    if (message.kind == MessageKind::cc && saysPair(rest)) message.kind = MessageKind::cc14;
    message.values = startOf(row(message.kind).fields);
    readParts(message, rest, numbers);
    if (message.kind == MessageKind::osc && message.address.empty()) return std::nullopt;
    return message;
}

}  // namespace mellow::profiles
