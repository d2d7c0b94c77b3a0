// What is imported is merged: what has the same name and message takes the place of what was there, so that
// chains find it again. Files are read, understood and written aside; nothing is taken in before a person has
// seen what it would be.
#include "app/pages/gear/profile_files.h"

#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <memory>

#include "app/acts/reuse/table_dialog.h"
#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "core/model/edit.h"
#include "core/profiles/name_document.h"
#include "core/reuse/parts.h"
#include "core/text/utf8.h"

namespace mellow::app {

namespace {

constexpr std::size_t largestImport = std::size_t{16} << 20;

bool isNames(const QString& path) {
    return path.endsWith(QLatin1String(".midnam"), Qt::CaseInsensitive);
}

struct Imported {
    std::string text;
    bool isGuess = false;  ///< it is not UTF-8
};

Result<Imported> importedText(const QString& path) {
    const std::string file = QFile::encodeName(path).toStdString();
    auto text = files::readTextFile(file);
    if (!text) return text.problem();
    if (text->size() > largestImport)
        return Problem{file, "it is larger than 16 MB", "import a profile, or a part of it"};
    const bool isGuess = text::toUtf8(*text).isGuess();
    return Imported{std::move(*text), isGuess};
}

}  // namespace

ProfileFiles::ProfileFiles(Workspace& workspace, ProfileModel& model, QWidget* window)
    : QObject(window), workspace_(workspace), model_(model), window_(window) {}

/// Says so where there is none.
bool ProfileFiles::hasOwner() const {
    if (model_.controller() != nullptr || model_.instrument() != nullptr) return true;
    workspace_.tell(tr("Choose first whose profile the table is."));
    return false;
}

void ProfileFiles::tellAll(const std::vector<std::string>& remarks) {
    QStringList all;
    for (const std::string& remark : remarks) all << toQt(remark);
    if (!all.isEmpty()) workspace_.tell(TableDialog::listed(all));
}

void ProfileFiles::takeIn(const QString& title, profiles::Table table) {
    if (hasOwner()) TableDialog::takeIn(window_->window(), title, model_, std::move(table), workspace_.tell);
}

void ProfileFiles::read() {
    const QString path = QFileDialog::getOpenFileName(
        window_, tr("Import a profile"), {}, tr("Tables and name documents (*.csv *.tsv *.txt *.midnam)"));
    if (!path.isEmpty()) readFrom(path);
}

void ProfileFiles::readFrom(const QString& path) {
    const QString saying = tr("Importing %1").arg(QFileInfo(path).fileName());
    const auto read = doneUnlessLeft({saying}, [path] { return importedText(path); });
    if (!read) return;
    if (!*read) return workspace_.tell(toQt(read->problem().sentence()));
    const auto& [text, isGuess] = **read;
    if (isGuess)
        workspace_.tell(tr("%1 is not UTF-8, and was read as Windows-1252; look at its letters.").arg(path));
    if (isNames(path)) return readNames(path, text);
    if (!hasOwner()) return;
    auto table = doneUnlessLeft({saying}, [text = text] { return profiles::parseTable(text); });
    if (!table) return;
    if (table->empty()) return workspace_.tell(tr("%1 holds no table.").arg(path));
    takeIn(saying, std::move(*table));
}

/// The controls of the document's only device join the instrument that is shown; several become instruments.
void ProfileFiles::readNames(const QString& path, const std::string& text) {
    const QString saying = tr("Importing %1").arg(QFileInfo(path).fileName());
    const auto parsed = doneUnlessLeft({saying}, [text] { return profiles::parseNames(text); });
    if (!parsed) return;
    const auto& named = *parsed;
    if (!named) return workspace_.tell(tr("%1: %2").arg(path, toQt(named.problem().sentence())));
    const std::string shown = model_.instrument() != nullptr ? model_.instrument()->id : std::string();
    const auto made = std::make_shared<ProfilePlace>(ProfilePlace::parameters(shown));
    const bool done =
        workspace_.document.editAside(tr("Import names"), saying, [shown, made, named](Ensemble& e) {
            Instrument* into = findById(e.instruments, shown);
            if (into != nullptr && named->instruments.size() == 1) {
                profiles::merge(into->parameters, named->instruments.front().parameters);
                return;
            }
            mellow::Part part;
            part.instruments = named->instruments;
            made->id = reuse::putInstruments(e, part).front();
        });
    if (!done) return;
    emit brought(*made);
    tellAll(named->remarks);
}

void ProfileFiles::write(const QString& suggestion) {
    const QString path =
        QFileDialog::getSaveFileName(window_, tr("Export the profile"), suggestion + QStringLiteral(".csv"),
                                     tr("Table (*.csv);;MIDI name document (*.midnam)"));
    if (!path.isEmpty()) writeTo(path);
}

void ProfileFiles::writeTo(const QString& path) {
    std::string text;
    std::vector<std::string> remarks;
    if (isNames(path)) {
        if (model_.instrument() == nullptr)
            return workspace_.tell(tr("A name document is of an instrument; choose one, or export as CSV."));
        const auto printed = profiles::printNames(*model_.instrument());
        text = printed.text;
        remarks = printed.remarks;
    } else {
        text = profiles::printCsv(model_.wholeTable());
    }
    const Outcome written = doneAside({tr("Writing %1").arg(QFileInfo(path).fileName())}, [&] {
        return files::writeFile(QFile::encodeName(path).toStdString(), std::string_view(text));
    });
    if (!written) return workspace_.tell(toQt(written.problem().sentence()));
    tellAll(remarks);
}

}  // namespace mellow::app
