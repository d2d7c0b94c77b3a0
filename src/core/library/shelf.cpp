#include "core/library/shelf.h"

#include <algorithm>

#include "core/files/files.h"
#include "core/model/edit.h"
#include "core/store/part_json.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::library {

namespace {

namespace fs = std::filesystem;

void count(std::string& words, std::size_t number, const char* one) {
    if (number == 0) return;
    words += (words.empty() ? "" : ", ") + std::to_string(number) + " " + one + (number == 1 ? "" : "s");
}

std::vector<std::string> wordsOf(std::string_view typed) {
    std::vector<std::string> words;
    std::string word;
    for (const char c : text::folded(typed) + " ") {
        if (c != ' ') {
            word += c;
        } else if (!word.empty()) {
            words.push_back(std::exchange(word, {}));
        }
    }
    return words;
}

}  // namespace

Kind kindOf(const Part& part) {
    if (!part.instruments.empty()) return Kind::instrument;
    if (!part.controllers.empty()) return Kind::controller;
    if (!part.chains.empty()) return Kind::chains;
    if (!part.branches.empty()) return Kind::branches;
    if (!part.steps.empty()) return Kind::steps;
    if (!part.elements.empty()) return Kind::elements;
    return part.parameters.empty() ? Kind::mixed : Kind::parameters;
}

std::string contents(const Part& part) {
    std::string words;
    std::size_t chains = part.chains.size();
    std::size_t parameters = part.chains.empty() && part.branches.empty() ? part.parameters.size() : 0;
    std::size_t controls = 0;
    for (const Instrument& instrument : part.instruments) {
        chains += instrument.chains.size();
        parameters += instrument.parameters.size();
    }
    for (const Controller& controller : part.controllers) controls += controller.controls.size();
    count(words, part.instruments.size(), "instrument");
    count(words, part.controllers.size(), "controller");
    count(words, controls, "control");
    count(words, parameters, "parameter");
    count(words, chains, "chain");
    if (!part.branches.empty())
        words += (words.empty() ? "" : ", ") + std::to_string(part.branches.size()) +
                 (part.branches.size() == 1 ? " branch" : " branches");
    count(words, part.steps.size(), "step");
    count(words, part.elements.size(), "desk element");
    count(words, part.measurements.size(), "measurement");
    return words;
}

void add(Shelf& shelf, Item item) {
    const auto before = [](const Item& one, const Item& other) {
        return text::folded(one.part.name) < text::folded(other.part.name);
    };
    const auto place = std::upper_bound(shelf.items.begin(), shelf.items.end(), item, before);
    shelf.items.insert(place, std::move(item));
}

Shelf read(const fs::path& folder) {
    Shelf shelf;
    std::error_code error;
    std::vector<fs::path> paths;
    for (fs::directory_iterator each(folder, error), end; !error && each != end; each.increment(error)) {
        if (each->path().extension() == ending) paths.push_back(each->path());
    }
    if (error && error != std::errc::no_such_file_or_directory)
        shelf.problems.push_back({folder.string(), error.message(), "see whether the folder may be read"});
    std::sort(paths.begin(), paths.end());
    for (const fs::path& path : paths) {
        const auto text = files::readTextFile(path);
        if (!text) {
            shelf.problems.push_back(text.problem());
            continue;
        }
        auto part = store::parsePart(*text);
        if (!part) {
            Problem problem = part.problem();
            problem.where = path.filename().string() + ", " + problem.where;
            shelf.problems.push_back(std::move(problem));
            continue;
        }
        if (part->name.empty()) part->name = path.stem().string();
        add(shelf, {path, std::move(*part)});
    }
    return shelf;
}

std::vector<std::size_t> find(const Shelf& shelf, std::string_view typed) {
    const std::vector<std::string> words = wordsOf(typed);
    std::vector<std::size_t> first;
    std::vector<std::size_t> then;
    for (std::size_t i = 0; i < shelf.items.size(); ++i) {
        const Part& part = shelf.items[i].part;
        const std::string name = text::folded(part.name);
        const std::string all = name + " " + text::folded(part.about) + " " + contents(part);
        const bool has = std::all_of(words.begin(), words.end(), [&](const std::string& word) {
            return all.find(word) != std::string::npos;
        });
        if (!has) continue;
        (words.empty() || name.starts_with(words.front()) ? first : then).push_back(i);
    }
    first.insert(first.end(), then.begin(), then.end());
    return first;
}

Result<fs::path> write(const fs::path& folder, const Part& part, bool replace) {
    if (part.name.find_first_not_of(' ') == std::string::npos)
        return Problem{"the library", "what is kept there needs a name", "type one"};
    std::error_code error;
    fs::create_directories(folder, error);
    if (error)
        return Problem{folder.string(), "the library cannot be made there: " + error.message(),
                       "choose another folder, or see whether this one may be written"};
    const fs::path path = folder / (idFrom(part.name) + std::string(ending));
    if (!replace && fs::exists(path, error))
        return Problem{text::quoted(part.name), "the library has one of that name",
                       "give it another, or replace that one"};
    const Outcome written = files::writeFile(path, store::printPart(part));
    if (!written) return written.problem();
    return path;
}

}  // namespace mellow::library
