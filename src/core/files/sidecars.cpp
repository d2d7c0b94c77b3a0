// A version's name is the time at which it was written, in milliseconds since 1970, so that names sort as
// times do and one state is kept once.
#include "core/files/sidecars.h"

#include <algorithm>
#include <charconv>
#include <string>

#include "core/files/files.h"
#include "core/files/own.h"

namespace mellow::files {

namespace {

namespace fs = std::filesystem;

constexpr std::int64_t nanosecondsAMillisecond = 1000000;
constexpr const char* ending = ".lever";

fs::path beside(const fs::path& document, const char* what) {
    return document.parent_path() / ("." + document.filename().string() + what);
}

}  // namespace

fs::path journalOf(const fs::path& document) {
    return beside(document, ".journal");
}
fs::path lockOf(const fs::path& document) {
    return beside(document, ".lock");
}
fs::path recordingsOf(const fs::path& document) {
    return beside(document, ".recording");
}
fs::path versionsOf(const fs::path& document) {
    return beside(document, ".versions");
}

std::vector<Version> versions(const fs::path& document) {
    std::vector<Version> found;
    if (strangeFolderAt(versionsOf(document))) return found;
    std::error_code error;
    for (fs::directory_iterator at(versionsOf(document), error), end; !error && at != end;
         at.increment(error)) {
        const std::string name = at->path().stem().string();
        Version version{at->path(), 0};
        const auto [last, wrong] = std::from_chars(name.data(), name.data() + name.size(), version.time);
        if (wrong == std::errc() && last == name.data() + name.size() && at->path().extension() == ending &&
            !strangerAt(at->path()))
            found.push_back(version);
    }
    std::sort(found.begin(), found.end(),
              [](const Version& one, const Version& other) { return one.time > other.time; });
    return found;
}

Outcome keepVersion(const fs::path& document) {
    const auto stamp = stampOf(document);
    if (!stamp) return Done{};
    const fs::path folder = versionsOf(document);
    const fs::path kept = folder / (std::to_string(stamp->written / nanosecondsAMillisecond) + ending);
    if (auto made = makeOwnFolder(folder); !made) return made;
    std::error_code error;
    if (fs::exists(fs::symlink_status(kept, error))) return Done{};
    auto bytes = readFile(document);
    if (!bytes) return bytes.problem();
    if (auto written = writeFile(kept, *bytes); !written) return written;
    const auto all = versions(document);
    for (std::size_t i = versionsKept; i < all.size(); ++i) fs::remove(all[i].path, error);
    return Done{};
}

}  // namespace mellow::files
