// A line that is not whole, or not as it should be, is passed over and counted; what can be read is read.
#include <array>
#include <charconv>
#include <map>

#include "core/takes/recording.h"

namespace mellow::recording_log {

namespace {

constexpr std::string_view firstLine = "mellow-lever recording 1";

template<class Number>
void append(std::string& line, Number number) {
    std::array<char, 64> digits{};
    line += ' ';
    line.append(digits.data(), std::to_chars(digits.data(), digits.data() + digits.size(), number).ptr);
}

template<class Number>
std::string begun(char letter, Number number) {
    std::string line(1, letter);
    append(line, number);
    return line;
}

/// A line of a letter, one or two numbers, and text.
struct Words {
    std::string_view left;

    template<class Number>
    bool number(Number& value) {
        if (left.empty() || left.front() != ' ') return false;
        const auto [end, error] = std::from_chars(left.data() + 1, left.data() + left.size(), value);
        if (error != std::errc()) return false;
        left.remove_prefix(static_cast<std::size_t>(end - left.data()));
        return true;
    }
    bool text(std::string_view& value) {
        if (left.empty() || left.front() != ' ') return false;
        value = left.substr(1);
        left = {};
        return true;
    }
    [[nodiscard]] bool done() const { return left.empty(); }
};

/// The body of an event; empty where it is none.
std::vector<std::uint8_t> bodyIn(std::string_view written) {
    std::vector<std::uint8_t> body;
    if (written.starts_with('/')) {
        body.assign(written.begin(), written.end());
        return text::oscLineOf(body) ? body : std::vector<std::uint8_t>{};
    }
    for (std::size_t at = 0; at < written.size(); at += 3) {
        const auto byte = midi::byteFromHex(written.substr(at, 2));
        const bool apart = at + 2 >= written.size() || written[at + 2] == ' ';
        if (!byte || !apart) return {};
        body.push_back(*byte);
    }
    return midi::isWhole(body) ? body : std::vector<std::uint8_t>{};
}

class Reader {
 public:
    /// False where the line is none.
    bool read(std::string_view line) {
        if (line.empty()) return false;
        Words words{line.substr(1)};
        switch (line.front()) {
            case 'P':
                return readPort(words);
            case 'T':
                return readTempo(words);
            case 'R':
                return readPass(words);
            case 'E':
                return readEvent(words);
            default:
                return false;
        }
    }
    Recording recording;

 private:
    bool readPort(Words words) {
        std::uint16_t number = 0;
        std::string_view name;
        if (!words.number(number) || !words.text(name)) return false;
        ports_[number] = recording.heard.portNumber(name);
        return true;
    }
    bool readTime(Words& words, std::int64_t& time) {
        if (!words.number(time) || time < latest_) return false;
        if (!begun_) recording.begins = time;
        begun_ = true;
        latest_ = recording.ends = time;
        return true;
    }
    bool readTempo(Words words) {
        std::int64_t time = 0;
        double tempo = 0;
        if (!readTime(words, time) || !words.number(tempo) || !words.done() || !(tempo > 0)) return false;
        recording.follow(time, tempo);
        return true;
    }
    bool readPass(Words words) {
        std::int64_t time = 0;
        std::int64_t position = 0;
        if (!readTime(words, time) || !words.number(position) || !words.done()) return false;
        recording.follow(time, position);
        return true;
    }
    bool readEvent(Words words) {
        std::int64_t time = 0;
        std::uint16_t number = 0;
        std::string_view written;
        if (!readTime(words, time) || !words.number(number) || !words.text(written)) return false;
        const auto port = ports_.find(number);
        const auto body = bodyIn(written);
        if (port == ports_.end() || body.empty()) return false;
        recording.heard.add(time, port->second, body);
        return true;
    }

    std::map<std::uint16_t, std::uint16_t> ports_;
    bool begun_ = false;
    std::int64_t latest_ = 0;
};

}  // namespace

std::string head() {
    std::string line(firstLine);
    line += '\n';
    return line;
}

std::string port(std::uint16_t number, std::string_view name) {
    std::string line = begun('P', number);
    line += ' ';
    for (const char letter : name) line += letter == '\n' ? ' ' : letter;
    line += '\n';
    return line;
}

std::string tempo(std::int64_t time, double tempo) {
    std::string line = begun('T', time);
    append(line, tempo);
    line += '\n';
    return line;
}

std::string pass(std::int64_t time, std::int64_t position) {
    std::string line = begun('R', time);
    append(line, position);
    line += '\n';
    return line;
}

std::string event(const Take& take, const TakeEvent& event) {
    std::string line = begun('E', event.time);
    append(line, event.port);
    line += ' ';
    const midi::Bytes body = take.bodyOf(event);
    if (text::oscLineOf(body)) {
        line.append(reinterpret_cast<const char*>(body.data()), body.size());
    } else {
        line += midi::toHex(body);
    }
    line += '\n';
    return line;
}

Result<Recording> read(std::string_view text) {
    if (!text.starts_with(firstLine) || text.size() <= firstLine.size() || text[firstLine.size()] != '\n')
        return Problem{"line 1", "it is no recording", "choose a file that Mellow Lever wrote"};
    text.remove_prefix(firstLine.size() + 1);
    Reader reader;
    for (std::size_t end = text.find('\n'); end != std::string_view::npos; end = text.find('\n')) {
        if (!reader.read(text.substr(0, end))) ++reader.recording.unread;
        text.remove_prefix(end + 1);
    }
    return std::move(reader.recording);
}

}  // namespace mellow::recording_log
