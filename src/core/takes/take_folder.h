// The folder of a document's takes: NAME.takes beside NAME.lever (core/files/kept.h).
#pragma once

#include <filesystem>
#include <set>
#include <string>
#include <vector>

#include "core/files/kept.h"
#include "core/model/ensemble.h"
#include "core/takes/take_file.h"

namespace mellow {

extern const files::KeptKind takeKind;
files::KeptFile fileOf(const KeptTake& kept);

std::filesystem::path takesFolderOf(const std::filesystem::path& document);
/// Where a take's file should be. Error: it names a place outside the folder.
Result<std::filesystem::path> takePath(const std::filesystem::path& folder, const KeptTake& kept);

/// A take's file, read. Error: it is not there, or no MIDI file; where says which file.
Result<std::vector<std::uint8_t>> readTakeBytes(const std::filesystem::path& folder, const KeptTake& kept);
/// What speaks against believing a file that could be read: it is not what the document says, or damaged.
/// Empty: nothing.
std::vector<Problem> doubtsAbout(const KeptTake& kept, const std::filesystem::path& file, midi::Bytes bytes,
                                 const std::vector<smf::Warning>& warnings);

/// Writes a take into a folder, which is made where it is not there. Gives `kept` with its file and sum, and
/// no more ports than the take's own. A file that is there already is left alone; where it is not the same,
/// the take gets another name. wrote: whether it was written now.
Result<KeptTake> storeTake(const std::filesystem::path& folder, KeptTake kept, const Take& take,
                           bool* wrote = nullptr);
/// Copies the file of a take into another folder, unless it is there. Error: another file has its name there.
Outcome carryTake(const std::filesystem::path& from, const std::filesystem::path& to, const KeptTake& kept,
                  bool* wrote = nullptr);

/// The names of the files of an ensemble's takes.
void nameTakes(const Ensemble& ensemble, std::set<std::string>& names);

/// The take with a name or an id; an id goes before a name. nullptr: there is none.
const KeptTake* findTake(const Ensemble& ensemble, std::string_view nameOrId);

}  // namespace mellow
