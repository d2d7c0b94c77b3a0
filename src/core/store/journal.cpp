// A record is one line of words, "state TIME PLACES BYTES CHECKSUM", and the document's text behind it.
// PLACES are separated by commas: "3" is the instrument that was third (from 0) before, "3+5" that and the
// five behind it, "n" the next that is new. The checksum is FNV-1a, 64 bits: it meets accidents, not enemies.
#include "core/store/journal.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <optional>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/store/ensemble_json.h"

namespace mellow::store {

namespace {

constexpr std::string_view head = "mellow-lever/journal 1\n";
constexpr std::string_view recordWord = "state";
/// Places are short, and a journal that nobody wrote could name a great many things with them.
constexpr std::size_t mostInstruments = std::size_t{1} << 17;

std::uint64_t checksumOf(std::string_view text) {
    std::uint64_t sum = 0xcbf29ce484222325U;
    for (const char letter : text) sum = (sum ^ static_cast<std::uint8_t>(letter)) * 0x100000001b3U;
    return sum;
}

/// Where each instrument stood before; nothing for one that is new or was edited.
std::vector<std::optional<std::size_t>> placesBefore(const Ensemble* before, const Ensemble& after) {
    std::unordered_map<const Instrument*, std::size_t> were;
    for (std::size_t i = 0; before != nullptr && i < before->instruments.size(); ++i)
        were.emplace(&before->instruments[i], i);
    std::vector<std::optional<std::size_t>> places;
    for (std::size_t i = 0; i < after.instruments.size(); ++i) {
        const auto found = were.find(&after.instruments[i]);
        places.push_back(found == were.end() ? std::nullopt : std::optional(found->second));
    }
    return places;
}

std::string wordsOf(const std::vector<std::optional<std::size_t>>& places) {
    std::string words;
    for (std::size_t i = 0; i < places.size();) {
        if (!words.empty()) words += ',';
        std::size_t run = 1;
        if (!places[i]) {
            words += 'n';
        } else {
            while (i + run < places.size() && places[i + run] == std::optional(*places[i] + run)) ++run;
            words += std::to_string(*places[i]);
            if (run > 1) words += '+' + std::to_string(run - 1);
        }
        i += run;
    }
    return words.empty() ? "-" : words;
}

template<class Number>
bool takeNumber(std::string_view& text, Number& number, int base = 10) {
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number, base);
    if (error != std::errc()) return false;
    text.remove_prefix(static_cast<std::size_t>(end - text.data()));
    return true;
}

std::string_view takeWord(std::string_view& line) {
    const std::size_t end = std::min(line.find(' '), line.size());
    const std::string_view word = line.substr(0, end);
    line.remove_prefix(std::min(end + 1, line.size()));
    return word;
}

struct Record {
    std::int64_t time = 0;
    std::string_view places;
    std::string_view document;
};

/// The record at the front of a text, which is taken off it; nothing where that is not whole.
std::optional<Record> takeRecord(std::string_view& text) {
    const std::size_t end = text.find('\n');
    if (end == std::string_view::npos) return std::nullopt;
    std::string_view line = text.substr(0, end);
    Record record;
    if (takeWord(line) != recordWord) return std::nullopt;
    std::string_view time = takeWord(line);
    record.places = takeWord(line);
    std::string_view length = takeWord(line);
    std::string_view sum = takeWord(line);
    std::size_t size = 0;
    std::uint64_t checksum = 0;
    if (!takeNumber(time, record.time) || !takeNumber(length, size) || !takeNumber(sum, checksum, 16))
        return std::nullopt;
    const std::size_t behind = text.size() - end - 1;
    if (size >= behind) return std::nullopt;  // A line's end belongs to it.
    record.document = text.substr(end + 1, size);
    if (checksumOf(record.document) != checksum) return std::nullopt;
    text.remove_prefix(end + 1 + size + 1);
    return record;
}

/// The instruments that a record's places name; nothing where they name what is not there.
std::optional<SharedList<Instrument>> instrumentsOf(std::string_view places, const Ensemble& before,
                                                    const Ensemble& said) {
    SharedList<Instrument> made;
    std::size_t next = 0;
    if (places == "-") return made;
    while (!places.empty()) {
        if (places.front() == 'n') {
            places.remove_prefix(1);
            if (next >= said.instruments.size()) return std::nullopt;
            made.push_back(said.instruments[next++]);
        } else {
            std::size_t first = 0;
            std::size_t more = 0;
            if (!takeNumber(places, first)) return std::nullopt;
            if (!places.empty() && places.front() == '+') {
                places.remove_prefix(1);
                if (!takeNumber(places, more)) return std::nullopt;
            }
            if (first >= before.instruments.size() || more >= before.instruments.size() - first ||
                made.size() + more >= mostInstruments)
                return std::nullopt;
            for (std::size_t i = first; i <= first + more; ++i) made.share(before.instruments, i);
        }
        if (!places.empty() && places.front() != ',') return std::nullopt;
        if (!places.empty()) places.remove_prefix(1);
    }
    return made;
}

}  // namespace

std::string journalHead() {
    return std::string(head);
}

std::string journalRecord(const Ensemble* before, const Ensemble& after, std::int64_t time) {
    const auto places = placesBefore(before, after);
    Ensemble said = after;
    said.instruments.clear();
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (!places[i]) said.instruments.share(after.instruments, i);
    }
    const std::string document = printEnsemble(said);
    std::array<char, 16> sum{};
    const auto end = std::to_chars(sum.data(), sum.data() + sum.size(), checksumOf(document), 16).ptr;
    return std::string(recordWord) + ' ' + std::to_string(time) + ' ' + wordsOf(places) + ' ' +
           std::to_string(document.size()) + ' ' + std::string(sum.data(), end) + '\n' + document + '\n';
}

Result<Journaled> readJournal(std::string_view text) {
    if (!text.starts_with(head)) return Problem{"the journal", "it is none", "remove it"};
    text.remove_prefix(head.size());
    Journaled last;
    bool any = false;
    while (!text.empty()) {
        const auto record = takeRecord(text);
        auto said = record ? parseEnsemble(record->document) : Result<Ensemble>(Problem{});
        auto instruments = said ? instrumentsOf(record->places, last.ensemble, *said) : std::nullopt;
        if (!instruments) {
            last.isWhole = false;
            break;
        }
        said->instruments = std::move(*instruments);
        last.ensemble = std::move(*said);
        last.time = record->time;
        any = true;
    }
    if (!any) return Problem{"the journal", "it holds no whole state", "remove it"};
    return last;
}

}  // namespace mellow::store
