#include "core/takes/take_folder.h"

#include <algorithm>

#include "core/text/numbers.h"

namespace mellow {

namespace fs = std::filesystem;

const files::KeptKind takeKind{
    .thing = "take",
    .ending = ".takes",
    .head = "MThd",
    .listHead = "mellow-lever take list 1\n",
    .mendGone = "put it back, or remove the take",
};

files::KeptFile fileOf(const KeptTake& kept) {
    return {nameOf(kept), kept.file, kept.sha256};
}

fs::path takesFolderOf(const fs::path& document) {
    return files::keptFolderOf(takeKind, document);
}

Result<fs::path> takePath(const fs::path& folder, const KeptTake& kept) {
    return files::keptPath(takeKind, folder, fileOf(kept));
}

Result<std::vector<std::uint8_t>> readTakeBytes(const fs::path& folder, const KeptTake& kept) {
    return files::readKept(takeKind, folder, fileOf(kept));
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

Result<KeptTake> storeTake(const fs::path& folder, KeptTake kept, const Take& take, bool* wrote) {
    const auto bytes = printTake(take);
    if (!bytes) return bytes.problem();
    kept.sha256 = sha256Of(*bytes);
    std::erase_if(kept.ports, [&take](const auto& each) {
        return std::find(take.ports.begin(), take.ports.end(), each.first) == take.ports.end();
    });
    auto name = files::storeKept(takeKind, folder, takeFileName(kept.name, kept.sha256), *bytes, wrote);
    if (!name) return name.problem();
    kept.file = std::move(*name);
    return kept;
}

Outcome carryTake(const fs::path& from, const fs::path& to, const KeptTake& kept, bool* wrote) {
    return files::carryKept(takeKind, from, to, fileOf(kept), wrote);
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
