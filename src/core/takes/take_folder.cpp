// A document may come from anywhere, so a file that it names is only looked for in its folder, or, for one
// that names the folder too, beside the document.
#include "core/takes/take_folder.h"

#include <algorithm>

#include "core/files/files.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow {

namespace fs = std::filesystem;

fs::path takesFolderOf(const fs::path& document) {
    fs::path folder = document;
    folder.replace_extension(".takes");
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

Result<KeptTake> storeTake(const fs::path& folder, KeptTake kept, const Take& take) {
    const auto bytes = printTake(take);
    if (!bytes) return bytes.problem();
    kept.sha256 = sha256Of(*bytes);
    kept.file = takeFileName(kept.name, kept.sha256);
    std::erase_if(kept.ports, [&take](const auto& each) {
        return std::find(take.ports.begin(), take.ports.end(), each.first) == take.ports.end();
    });
    std::error_code error;
    const fs::path path = folder / kept.file;
    if (fs::exists(path, error)) {
        const auto there = files::readFile(path);
        if (there && *there == *bytes) return kept;
    }
    fs::create_directories(folder, error);
    if (error) {
        return Problem{folder.string(), "the folder cannot be made: " + error.message(),
                       "save the document where you may write"};
    }
    const auto written = files::writeFile(path, *bytes);
    if (!written) return written.problem();
    return kept;
}

Outcome carryTake(const fs::path& from, const fs::path& to, const KeptTake& kept) {
    const auto source = takePath(from, kept);
    if (!source) return source.problem();
    const fs::path target = to / source->filename();
    std::error_code error;
    if (fs::exists(target, error) && files::isSameFile(*source, target)) return Done{};
    const auto bytes = readTakeBytes(from, kept);
    if (!bytes) return bytes.problem();
    if (fs::exists(target, error)) {
        const auto there = files::readFile(target);
        if (there && *there == *bytes) return Done{};
    }
    fs::create_directories(to, error);
    return files::writeFile(target, *bytes);
}

std::vector<fs::path> unnamedTakes(const fs::path& folder, const std::set<std::string>& named) {
    std::vector<fs::path> found;
    std::error_code error;
    for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
        const bool isTake = at->path().extension() == ".mid" && at->is_regular_file(error);
        if (isTake && !named.contains(at->path().filename().string())) found.push_back(at->path());
    }
    std::sort(found.begin(), found.end());
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
