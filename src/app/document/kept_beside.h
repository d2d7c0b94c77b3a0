// What becomes of files in a folder beside the document (core/files/kept.h) when it is saved.
#pragma once

#include <QString>
#include <filesystem>
#include <functional>
#include <set>
#include <string>
#include <vector>

#include "app/document/document.h"
#include "core/files/kept.h"
#include "core/model/ensemble.h"

namespace mellow::app {

/// A path of a document as a file's.
std::filesystem::path filePathOf(const QString& document);
/// The folder in the settings where files of documents that were never saved wait.
std::filesystem::path waitingFolder(const files::KeptKind& kind);
/// Where a document's files are now; path: of the document, empty: never saved.
std::filesystem::path folderNow(const files::KeptKind& kind, const QString& path);

/// What the document, or anything that undo leads to, names in a list of the ensemble's, each file once.
template<class List, class FileOf>
std::vector<files::KeptFile> everyKept(const Document& document, List Ensemble::*list, FileOf&& fileOf) {
    std::vector<files::KeptFile> all;
    std::set<std::string> seen;
    document.forEachState([&](const Ensemble& ensemble) {
        for (const auto& kept : ensemble.*list) {
            if (seen.insert(kept.file).second) all.push_back(fileOf(kept));
        }
    });
    return all;
}

/// Copies files from one folder into a document's, and notes them there; what is missing is passed over.
Outcome carryAll(const files::KeptKind& kind, const std::vector<files::KeptFile>& kept,
                 const std::filesystem::path& from, const std::filesystem::path& document);
/// Notes in a document's list a file that was written. A list that cannot be written costs a file that stays
/// where it is for ever, and no more.
void noteWritten(const files::KeptKind& kind, const std::filesystem::path& document,
                 const files::KeptFile& kept);
/// Puts files into the wastebasket that a document's list has, and neither names nor its versions name.
/// add: adds the names that an ensemble has.
void clearUnnamed(const files::KeptKind& kind, const std::filesystem::path& document,
                  std::set<std::string> names,
                  const std::function<void(const Ensemble&, std::set<std::string>&)>& add);

}  // namespace mellow::app
