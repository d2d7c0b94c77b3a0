#include "core/files/kept.h"

#include <algorithm>

#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sum.h"
#include "core/text/printable.h"

namespace mellow::files {

namespace fs = std::filesystem;

namespace {

constexpr const char* documentEnding = ".lever";

std::string aThing(const KeptKind& kind) {
    std::string thing(kind.thing);
    thing.front() = static_cast<char>(thing.front() - 'a' + 'A');
    return thing;
}

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

/// Whether another document beside one speaks of a file. Too large to look at: it may.
bool isNamedBeside(const fs::path& document, const std::string& file) {
    constexpr std::uintmax_t mostLookedAt = std::uintmax_t{64} << 20;
    std::error_code error;
    for (const fs::path& other : listed(document.parent_path(), "", documentEnding)) {
        if (other.filename() == document.filename() || !fs::is_regular_file(other, error)) continue;
        if (fs::file_size(other, error) > mostLookedAt) return true;
        const auto text = readTextFile(other);
        if (text && text->find(file) != std::string::npos) return true;
    }
    return false;
}

}  // namespace

fs::path keptListOf(const KeptKind& kind, const fs::path& document) {
    std::string name = ".";
    name += document.filename().string();
    name += kind.ending;
    return document.parent_path() / name;
}

fs::path keptFolderOf(const KeptKind& kind, const fs::path& document) {
    fs::path folder = document;
    if (folder.extension() == documentEnding) {
        folder.replace_extension(kind.ending);
    } else {
        folder += kind.ending;
    }
    return folder;
}

Result<fs::path> keptPath(const KeptKind& kind, const fs::path& folder, const KeptFile& kept) {
    const fs::path name(kept.file);
    const bool leavesIt =
        name.is_absolute() || std::find(name.begin(), name.end(), fs::path("..")) != name.end();
    if (kept.file.empty() || leavesIt) {
        return Problem{aThing(kind) + " " + text::quoted(kept.name),
                       "its file " + text::quoted(kept.file) + " is no name in the folder of " +
                           std::string(kind.thing) + "s",
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

Result<std::vector<std::uint8_t>> readKept(const KeptKind& kind, const fs::path& folder,
                                           const KeptFile& kept) {
    const auto path = keptPath(kind, folder, kept);
    if (!path) return path.problem();
    std::error_code error;
    if (!fs::exists(*path, error)) {
        return Problem{aThing(kind) + " " + text::quoted(kept.name),
                       "its file " + path->string() + " is not there", std::string(kind.mendGone)};
    }
    return readFile(*path);
}

Result<std::string> storeKept(const KeptKind& kind, const fs::path& folder, const std::string& name,
                              const std::vector<std::uint8_t>& bytes, bool* wrote) {
    if (wrote != nullptr) *wrote = false;
    if (const auto made = makeOwnFolder(folder); !made) return made.problem();
    // What somebody made of one by its name is theirs, and stays.
    constexpr int mostOthers = 100;
    for (int others = 0; others < mostOthers; ++others) {
        std::string file = others == 0 ? name : anotherName(name, others + 1);
        const fs::path path = folder / file;
        std::error_code error;
        if (fs::exists(fs::symlink_status(path, error))) {
            const auto there = readOwn(path);
            if (there && *there && isSame(**there, bytes)) return file;
            continue;
        }
        const auto written = writeOwn(path, asText(bytes), kind.head);
        if (!written) return written.problem();
        if (wrote != nullptr) *wrote = true;
        return file;
    }
    return Problem{(folder / name).string(), "is there a hundred times, and each time another file",
                   "move them away; they were left as they are"};
}

Outcome carryKept(const KeptKind& kind, const fs::path& from, const fs::path& to, const KeptFile& kept,
                  bool* wrote) {
    if (wrote != nullptr) *wrote = false;
    const auto source = keptPath(kind, from, kept);
    if (!source) return source.problem();
    const fs::path target = to / source->filename();
    std::error_code error;
    if (fs::exists(target, error) && isSameFile(*source, target)) return Done{};
    const auto bytes = readKept(kind, from, kept);
    if (!bytes) return bytes.problem();
    if (auto made = makeOwnFolder(to); !made) return made;
    if (fs::exists(fs::symlink_status(target, error))) {
        const auto there = readOwn(target);
        if (!there) return there.problem();
        if (*there && isSame(**there, *bytes)) return Done{};
        return Problem{target.string(),
                       "is another file than the " + std::string(kind.thing) + " of that name",
                       "move it away; it was left as it is"};
    }
    auto written = writeOwn(target, asText(*bytes), kind.head);
    if (wrote != nullptr) *wrote = static_cast<bool>(written);
    return written;
}

KeptList KeptList::of(const KeptKind& kind, const fs::path& document) {
    KeptList list;
    const auto text = readOwn(keptListOf(kind, document));
    if (!text || !*text || !(*text)->starts_with(kind.listHead)) return list;
    std::string_view left = **text;
    left.remove_prefix(kind.listHead.size());
    while (!left.empty()) {
        const std::string_view line = left.substr(0, left.find('\n'));
        left.remove_prefix(std::min(left.size(), line.size() + 1));
        const std::size_t apart = line.find(' ');
        if (apart != std::string_view::npos)
            list.sums_[std::string(line.substr(apart + 1))] = std::string(line.substr(0, apart));
    }
    return list;
}

void KeptList::add(const KeptFile& kept) {
    sums_[fs::path(kept.file).filename().string()] = kept.sha256;
}

Outcome KeptList::write(const KeptKind& kind, const fs::path& document) const {
    std::string text(kind.listHead);
    for (const auto& [file, sum] : sums_) {
        text += sum;
        text += ' ';
        text += file;
        text += '\n';
    }
    return writeOwn(keptListOf(kind, document), text, kind.listHead);
}

std::vector<fs::path> unnamedKept(const KeptKind& kind, const fs::path& document, const KeptList& list,
                                  const std::set<std::string>& named) {
    std::vector<fs::path> found;
    const fs::path folder = keptFolderOf(kind, document);
    if (strangeFolderAt(folder)) return found;
    for (const auto& [file, sum] : list.sums()) {
        if (named.contains(file) || fs::path(file).filename() != file) continue;
        const auto bytes = readOwn(folder / file);
        const bool isAsWritten =
            bytes && *bytes &&
            sha256Of({reinterpret_cast<const std::uint8_t*>((*bytes)->data()), (*bytes)->size()}) == sum;
        if (isAsWritten && !isNamedBeside(document, file)) found.push_back(folder / file);
    }
    return found;
}

}  // namespace mellow::files
