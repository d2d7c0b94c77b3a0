// A document may come from anywhere, so a file that it names is only looked for in its folder, or, for one
// that names the folder too, beside the document.
#include "core/takes/take_folder.h"

#include <algorithm>

#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sidecars.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow {

namespace fs = std::filesystem;

namespace {

constexpr const char* documentEnding = ".lever";

}  // namespace

fs::path takesFolderOf(const fs::path& document) {
    fs::path folder = document;
    if (folder.extension() == documentEnding) {
        folder.replace_extension(".takes");
    } else {
        folder += ".takes";
    }
    return folder;
}

Result<fs::path> takePath(const fs::path& folder, const KeptTake& kept) {
    const fs::path name(kept.file);
    const bool leavesIt =
        name.is_absolute() || std::find(name.begin(), name.end(), fs::path("..")) != name.end();
    if (kept.file.empty() || leavesIt) {
        return Problem{"Take " + text::quoted(nameOf(kept)),
                       "its file " + text::quoted(kept.file) + " is no name in the folder of takes",
                       "put the file into " + folder.string() + " and name it without its folders"};
    }
    std::error_code error;
    const fs::path beside = folder.parent_path() / name;
    if (name.has_parent_path() && !fs::exists(folder / name, error) && fs::exists(beside, error))
        return beside;
    // Carried along under another name of the document, it lies in the folder that this has now.
    const fs::path carried = folder / name.filename();
    if (!fs::exists(folder / name, error) && fs::exists(carried, error)) return carried;
    return folder / name;
}

Result<std::vector<std::uint8_t>> readTakeBytes(const fs::path& folder, const KeptTake& kept) {
    const auto path = takePath(folder, kept);
    if (!path) return path.problem();
    std::error_code error;
    if (!fs::exists(*path, error)) {
        return Problem{"Take " + text::quoted(nameOf(kept)), "its file " + path->string() + " is not there",
                       "put it back, or remove the take"};
    }
    return files::readFile(*path);
}

std::vector<Problem> doubtsAbout(const KeptTake& kept, const fs::path& file, midi::Bytes bytes,
                                 const std::vector<smf::Warning>& warnings) {
    std::vector<Problem> doubts;
    const auto sameSum = [](std::string_view one, std::string_view other) {
        return text::sameButForCase(one, other);
    };
    if (!kept.sha256.empty() && !sameSum(kept.sha256, sha256Of(bytes))) {
        doubts.push_back({file.string(), "it is not the file that was recorded: somebody changed it",
                          "put the old one back, or import this one as a take of its own"});
    }
    for (const smf::Warning& warning : warnings) {
        std::string where = file.string();
        where += ", byte ";
        where += std::to_string(warning.offset);
        doubts.push_back({std::move(where), warning.what, ""});
    }
    return doubts;
}

namespace {

constexpr std::string_view midiHead = "MThd";

std::string_view asText(const std::vector<std::uint8_t>& bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

bool isSame(const std::string& text, const std::vector<std::uint8_t>& bytes) {
    return text == asText(bytes);
}

/// "storm-2.mid" for "storm.mid".
std::string anotherName(const std::string& name, int number) {
    const fs::path path(name);
    return path.stem().string() + "-" + std::to_string(number) + path.extension().string();
}

}  // namespace

Result<KeptTake> storeTake(const fs::path& folder, KeptTake kept, const Take& take, bool* wrote) {
    if (wrote != nullptr) *wrote = false;
    const auto bytes = printTake(take);
    if (!bytes) return bytes.problem();
    kept.sha256 = sha256Of(*bytes);
    const std::string name = takeFileName(kept.name, kept.sha256);
    std::erase_if(kept.ports, [&take](const auto& each) {
        return std::find(take.ports.begin(), take.ports.end(), each.first) == take.ports.end();
    });
    if (const auto made = files::makeOwnFolder(folder); !made) return made.problem();
    // What somebody made of a take by its name is theirs, and stays.
    constexpr int mostOthers = 100;
    for (int others = 0; others < mostOthers; ++others) {
        kept.file = others == 0 ? name : anotherName(name, others + 1);
        const fs::path path = folder / kept.file;
        std::error_code error;
        if (fs::exists(fs::symlink_status(path, error))) {
            const auto there = files::readOwn(path);
            if (there && *there && isSame(**there, *bytes)) return kept;
            continue;
        }
        const auto written = files::writeOwn(path, asText(*bytes), midiHead);
        if (!written) return written.problem();
        if (wrote != nullptr) *wrote = true;
        return kept;
    }
    return Problem{(folder / name).string(), "is there a hundred times, and each time another file",
                   "move them away; they were left as they are"};
}

Outcome carryTake(const fs::path& from, const fs::path& to, const KeptTake& kept, bool* wrote) {
    if (wrote != nullptr) *wrote = false;
    const auto source = takePath(from, kept);
    if (!source) return source.problem();
    const fs::path target = to / source->filename();
    std::error_code error;
    if (fs::exists(target, error) && files::isSameFile(*source, target)) return Done{};
    const auto bytes = readTakeBytes(from, kept);
    if (!bytes) return bytes.problem();
    if (auto made = files::makeOwnFolder(to); !made) return made;
    if (fs::exists(fs::symlink_status(target, error))) {
        const auto there = files::readOwn(target);
        if (!there) return there.problem();
        if (*there && isSame(**there, *bytes)) return Done{};
        return Problem{target.string(), "is another file than the take of that name",
                       "move it away; it was left as it is"};
    }
    auto written = files::writeOwn(target, asText(*bytes), midiHead);
    if (wrote != nullptr) *wrote = static_cast<bool>(written);
    return written;
}

namespace {

constexpr std::string_view listHead = "mellow-lever take list 1\n";

/// Whether another document beside one speaks of a file. Too large to look at: it may.
bool isNamedBeside(const fs::path& document, const std::string& file) {
    constexpr std::uintmax_t mostLookedAt = std::uintmax_t{64} << 20;
    std::error_code error;
    for (const fs::path& other : files::listed(document.parent_path(), "", documentEnding)) {
        if (other.filename() == document.filename() || !fs::is_regular_file(other, error)) continue;
        if (fs::file_size(other, error) > mostLookedAt) return true;
        const auto text = files::readTextFile(other);
        if (text && text->find(file) != std::string::npos) return true;
    }
    return false;
}

}  // namespace

TakeList TakeList::of(const fs::path& document) {
    TakeList list;
    const auto text = files::readOwn(files::takeListOf(document));
    if (!text || !*text || !(*text)->starts_with(listHead)) return list;
    std::string_view left = **text;
    left.remove_prefix(listHead.size());
    while (!left.empty()) {
        const std::string_view line = left.substr(0, left.find('\n'));
        left.remove_prefix(std::min(left.size(), line.size() + 1));
        const std::size_t apart = line.find(' ');
        if (apart != std::string_view::npos)
            list.sums_[std::string(line.substr(apart + 1))] = std::string(line.substr(0, apart));
    }
    return list;
}

void TakeList::add(const KeptTake& kept) {
    sums_[fs::path(kept.file).filename().string()] = kept.sha256;
}

Outcome TakeList::write(const fs::path& document) const {
    std::string text(listHead);
    for (const auto& [file, sum] : sums_) {
        text += sum;
        text += ' ';
        text += file;
        text += '\n';
    }
    return files::writeOwn(files::takeListOf(document), text, listHead);
}

std::vector<fs::path> unnamedTakes(const fs::path& document, const TakeList& list,
                                   const std::set<std::string>& named) {
    std::vector<fs::path> found;
    const fs::path folder = takesFolderOf(document);
    if (files::strangeFolderAt(folder)) return found;
    for (const auto& [file, sum] : list.sums()) {
        if (named.contains(file) || fs::path(file).filename() != file) continue;
        const auto bytes = files::readOwn(folder / file);
        const bool isAsWritten =
            bytes && *bytes &&
            sha256Of({reinterpret_cast<const std::uint8_t*>((*bytes)->data()), (*bytes)->size()}) == sum;
        if (isAsWritten && !isNamedBeside(document, file)) found.push_back(folder / file);
    }
    return found;
}

void nameTakes(const Ensemble& ensemble, std::set<std::string>& names) {
    for (const KeptTake& kept : ensemble.takes) names.insert(fs::path(kept.file).filename().string());
}

const KeptTake* findTake(const Ensemble& ensemble, std::string_view nameOrId) {
    if (const KeptTake* found = findById(ensemble.takes, nameOrId)) return found;
    for (const KeptTake& kept : ensemble.takes) {
        if (nameOf(kept) == nameOrId) return &kept;
    }
    return nullptr;
}

}  // namespace mellow
