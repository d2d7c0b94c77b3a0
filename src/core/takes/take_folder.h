// The folder of a document's takes: NAME.takes beside NAME.lever.
//
// Files there are made and never changed. Which of them a document needs, its versions say; what none of them
// names any more is the business of whoever saves.
#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/takes/take_file.h"

namespace mellow {

/// NAME.takes beside NAME.lever; of a document with another ending its whole name and .takes, so that no two
/// documents share a folder.
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

/// The files of takes that the program wrote for a document, by name, with their sums. It lies beside the
/// document (files/sidecars.h), a line a file, and only what is in it can ever go to the wastebasket.
class TakeList {
 public:
    /// Of a document; nothing is in a list that is not there, or cannot be read.
    static TakeList of(const std::filesystem::path& document);
    void add(const KeptTake& kept);
    void remove(const std::string& file) { sums_.erase(file); }
    [[nodiscard]] const std::map<std::string, std::string>& sums() const { return sums_; }
    /// Writes it beside a document.
    [[nodiscard]] Outcome write(const std::filesystem::path& document) const;

 private:
    std::map<std::string, std::string> sums_;
};

/// Files in a document's folder of takes that the program wrote for it, that are as it wrote them, and that
/// are not among the names; none where the folder, or a file, is a link. What another document in the same
/// folder names is not among them either.
std::vector<std::filesystem::path> unnamedTakes(const std::filesystem::path& document, const TakeList& list,
                                                const std::set<std::string>& named);
/// The names of the files of an ensemble's takes.
void nameTakes(const Ensemble& ensemble, std::set<std::string>& names);

/// The take with a name or an id; an id goes before a name. nullptr: there is none.
const KeptTake* findTake(const Ensemble& ensemble, std::string_view nameOrId);

}  // namespace mellow
