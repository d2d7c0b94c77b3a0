// Files that a document names and that lie in a folder beside it: takes, measurements.
//
// Files there are made and never changed, so undo is undo of a name. Which of them a document needs, its
// versions say; what none of them names any more is the business of whoever saves. A list beside the
// document, a line a file with its sum, says which the program wrote for it, and only what is in it can ever
// go to the wastebasket.
//
// A document may come from anywhere, so a file that it names is only looked for in its folder, or, for one
// that names the folder too, beside the document.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"

namespace mellow::files {

/// What kind of thing is kept.
struct KeptKind {
    std::string_view thing;     ///< in sentences: "take"
    std::string_view ending;    ///< of its folder: ".takes"
    std::string_view head;      ///< with which its files begin
    std::string_view listHead;  ///< with which its list begins
    std::string_view mendGone;  ///< what to do where a file is gone
};

/// One of them, as a document names it.
struct KeptFile {
    std::string name;    ///< for people
    std::string file;    ///< in the folder
    std::string sha256;  ///< in hexadecimal; empty: nobody said
};

/// NAME.takes beside NAME.lever; of a document with another ending its whole name and .takes, so that no two
/// documents share a folder.
std::filesystem::path keptFolderOf(const KeptKind& kind, const std::filesystem::path& document);
/// Where a file should be. Error: it names a place outside the folder.
Result<std::filesystem::path> keptPath(const KeptKind& kind, const std::filesystem::path& folder,
                                       const KeptFile& kept);
/// Error: it is not there, or cannot be read.
Result<std::vector<std::uint8_t>> readKept(const KeptKind& kind, const std::filesystem::path& folder,
                                           const KeptFile& kept);
/// Writes bytes by a name into a folder, which is made where it is not there. The name that they have then: a
/// file that is there already is left alone, and where it is not the same they get another. wrote: whether
/// they were written now.
Result<std::string> storeKept(const KeptKind& kind, const std::filesystem::path& folder,
                              const std::string& name, const std::vector<std::uint8_t>& bytes,
                              bool* wrote = nullptr);
/// Copies a file into another folder, unless it is there. Error: another file has its name there.
Outcome carryKept(const KeptKind& kind, const std::filesystem::path& from, const std::filesystem::path& to,
                  const KeptFile& kept, bool* wrote = nullptr);

/// Where the list of a document is.
std::filesystem::path keptListOf(const KeptKind& kind, const std::filesystem::path& document);
/// The files that the program wrote for a document, by name, with their sums.
class KeptList {
 public:
    /// Of a document; nothing is in a list that is not there, or cannot be read.
    static KeptList of(const KeptKind& kind, const std::filesystem::path& document);
    void add(const KeptFile& kept);
    void remove(const std::string& file) { sums_.erase(file); }
    [[nodiscard]] const std::map<std::string, std::string>& sums() const { return sums_; }
    /// Writes it beside a document.
    [[nodiscard]] Outcome write(const KeptKind& kind, const std::filesystem::path& document) const;

 private:
    std::map<std::string, std::string> sums_;
};

/// Files in a document's folder that the program wrote for it, that are as it wrote them, and that are not
/// among the names; none where the folder, or a file, is a link. What another document in the same folder
/// names is not among them either.
std::vector<std::filesystem::path> unnamedKept(const KeptKind& kind, const std::filesystem::path& document,
                                               const KeptList& list, const std::set<std::string>& named);

}  // namespace mellow::files
