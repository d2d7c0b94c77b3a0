// A document is only replaced once another has been read whole, so that what was open is still there after
// any error.
#include "app/document/files.h"

#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLocale>
#include <QMessageBox>
#include <QPushButton>
#include <QRegularExpression>

#include "app/document/library_folder.h"
#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "app/widgets/finder.h"
#include "core/files/files.h"
#include "core/model/edit.h"
#include "core/store/ensemble_json.h"

namespace mellow::app {

namespace {

constexpr int mostRecent = 8;

Files::Answer askPerson(QWidget* parent) {
    QMessageBox box(QMessageBox::NoIcon, Files::tr("Unsaved work"),
                    Files::tr("This ensemble has changes that are not saved."), QMessageBox::NoButton,
                    parent);
    QPushButton* save = box.addButton(Files::tr("Save"), QMessageBox::AcceptRole);
    QPushButton* drop = box.addButton(Files::tr("Leave them"), QMessageBox::DestructiveRole);
    box.addButton(Files::tr("Go back"), QMessageBox::RejectRole);
    box.setDefaultButton(save);
    box.exec();
    if (box.clickedButton() == save) return Files::Answer::save;
    return box.clickedButton() == drop ? Files::Answer::discard : Files::Answer::cancel;
}

/// Asks one of three things. The answer's place, the last where it is dismissed.
int askOneOf(QWidget* parent, const QString& title, const QString& text, const QStringList& answers) {
    QMessageBox box(QMessageBox::NoIcon, title, text, QMessageBox::NoButton, parent);
    QList<QAbstractButton*> buttons;
    for (const QString& answer : answers)
        buttons << box.addButton(
            answer, answer == answers.last() ? QMessageBox::RejectRole : QMessageBox::AcceptRole);
    box.exec();
    const auto chosen = buttons.indexOf(box.clickedButton());
    return static_cast<int>(chosen < 0 ? answers.size() - 1 : chosen);
}

Files::Shared askAboutShared(QWidget* parent) {
    return static_cast<Files::Shared>(
        askOneOf(parent, Files::tr("Open elsewhere"),
                 Files::tr("This ensemble is open in another window of Mellow Lever."),
                 {Files::tr("Only look"), Files::tr("Take it over"), Files::tr("Go back")}));
}

Files::Changed askAboutChanged(QWidget* parent) {
    return static_cast<Files::Changed>(
        askOneOf(parent, Files::tr("Changed on disk"),
                 Files::tr("This file was changed by something else since it was opened. What it holds now "
                           "is kept among its versions when it is written over."),
                 {Files::tr("Write over it"), Files::tr("Save as…"), Files::tr("Go back")}));
}

/// What a file holds; nothing where a person would not wait for it any longer.
std::optional<Result<Ensemble>> readAside(const QString& path) {
    return doneUnlessLeft({Files::tr("Opening %1").arg(QFileInfo(path).fileName())},
                          [path] { return Document::read(path); });
}

QString askSavePath(QWidget* parent, const QString& suggestion) {
    QString path = QFileDialog::getSaveFileName(parent, Files::tr("Save the ensemble"), suggestion,
                                                Files::tr("Ensembles (*.lever)"));
    if (!path.isEmpty() && QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".lever");
    return path;
}

}  // namespace

Files::Files(Document& document, Keeper& keeper, NoticeBar& notice, QWidget* window)
    : QObject(window),
      document_(document),
      keeper_(keeper),
      notice_(notice),
      window_(window),
      ask_(askPerson),
      askShared_(askAboutShared),
      askChanged_(askAboutChanged),
      askPath_(askSavePath) {
    watchKeeper();
}

void Files::watchKeeper() {
    connect(&keeper_, &Keeper::troubled, this,
            [this](const QString& sentence) { notice_.say(sentence + QStringLiteral(".")); });
    connect(&keeper_, &Keeper::takenOver, this, [this] {
        notice_.say(tr("Another window has taken this ensemble over; here it can be looked at."),
                    tr("Take it back"), [this] { takeOver(); });
    });
    connect(&document_, &Document::editRefused, this, [this] {
        notice_.say(tr("Another window has this ensemble; here it can be looked at."), tr("Take it over"),
                    [this] { takeOver(); });
    });
    connect(&keeper_, &Keeper::changedOnDisk, this, [this] {
        notice_.say(tr("%1 was changed by something else.").arg(QFileInfo(document_.path()).fileName()),
                    tr("Read it again"), [this] { open(document_.path()); });
    });
}

bool Files::mayLose() {
    emit aboutToLose();
    if (!document_.isModified()) return true;
    switch (ask_(window_)) {
        case Answer::save:
            return save();
        case Answer::discard:
            emit discarded();
            return true;
        case Answer::cancel:
            return false;
    }
    return false;
}

/// A session's document stays where it is.
bool Files::mayLeave() {
    if (isInSession())
        notice_.say(tr("The session “%1” keeps this ensemble: File, Take in an ensemble… brings another into "
                       "it. mellow-lever --another opens a window beside it.")
                        .arg(session_));
    return !isInSession() && mayLose();
}

bool Files::beginAt(const QString& path, const QString& title) {
    Ensemble ensemble;
    ensemble.title = title.toStdString();
    keeper_.release();
    document_.replace(std::move(ensemble), {});
    emit opened();
    emit settled();
    return saveTo(path);
}

void Files::takeIn() {
    const QString path = QFileDialog::getOpenFileName(window_, tr("Take in an ensemble"), {},
                                                      tr("Ensembles (*.lever);;All files (*)"));
    if (!path.isEmpty()) takeIn(path);
}

/// It is opened and saved where the document was, which brings along what lies beside it.
bool Files::takeIn(const QString& path) {
    const QString home = document_.path();
    if (home.isEmpty() || !mayLose() || !replaceFrom(path)) return false;
    if (saveTo(home)) return true;
    replaceFrom(home);
    return false;
}

bool Files::begin() {
    if (!mayLeave()) return false;
    Ensemble ensemble;
    ensemble.title = tr("Untitled ensemble").toStdString();
    keeper_.release();
    document_.replace(std::move(ensemble), {});
    emit opened();
    emit settled();
    return true;
}

void Files::findTemplate(QWidget* at) {
    Finder::open(at, tr("Begin with which template?"), [this](const QString& typed) {
        std::vector<Found> found;
        const QDir folder(templatesFolder());
        for (const QFileInfo& file :
             folder.entryInfoList({QStringLiteral("*.lever")}, QDir::Files, QDir::Name)) {
            if (!hasWords(file.completeBaseName(), typed)) continue;
            found.push_back({file.completeBaseName(), tr("template"), {}, [this, path = file.filePath()] {
                                 beginFrom(path);
                             }});
        }
        if (hasWords(tr("Empty ensemble"), typed))
            found.push_back({tr("Empty ensemble"),
                             {},
                             tr("File, Keep as a template adds your own to this list."),
                             [this] { begin(); }});
        return found;
    });
}

bool Files::beginFrom(const QString& path) {
    if (!mayLeave()) return false;
    auto read = readAside(path);
    if (!read) return false;
    Result<Ensemble>& ensemble = *read;
    if (!ensemble) {
        notice_.say(toQt(ensemble.problem().sentence()) + tr(". What was open is still here."));
        return false;
    }
    // What was played for another piece stays with that.
    ensemble->takes.clear();
    ensemble->measurements.clear();
    keeper_.release();
    document_.replace(std::move(*ensemble), {});
    emit opened();
    emit settled();
    return true;
}

void Files::keepTemplate() {
    bool given = false;
    const QString name = QInputDialog::getText(window_, tr("Keep as a template"), tr("Name"),
                                               QLineEdit::Normal, toQt(document_.ensemble().title), &given);
    if (given && keepTemplate(name)) notice_.say(tr("Kept: %1.").arg(name.trimmed()));
}

bool Files::keepTemplate(const QString& name) {
    QString file = name.trimmed();
    file.replace(QRegularExpression(QStringLiteral("[/\\\\:*?\"<>|]")), QStringLiteral("-"));
    if (file.isEmpty() || file.startsWith(QLatin1Char('.'))) {
        notice_.say(tr("A template needs a name of letters."));
        return false;
    }
    QDir().mkpath(templatesFolder());
    Ensemble withoutTakes = document_.ensemble();
    withoutTakes.takes.clear();
    withoutTakes.measurements.clear();
    const QString path = QDir(templatesFolder()).filePath(file + QStringLiteral(".lever"));
    const Outcome written = doneAside({tr("Keeping a template")}, [&] {
        return files::writeFile(QFile::encodeName(path).toStdString(),
                                std::string_view(store::printEnsemble(withoutTakes)));
    });
    if (!written) notice_.say(toQt(written.problem().sentence()) + QLatin1Char('.'));
    return static_cast<bool>(written);
}

void Files::open() {
    const QString path = QFileDialog::getOpenFileName(window_, tr("Open an ensemble"), {},
                                                      tr("Ensembles (*.lever);;All files (*)"));
    if (!path.isEmpty()) open(path);
}

bool Files::open(const QString& path) {
    return (path == document_.path() ? mayLose() : mayLeave()) && replaceFrom(path);
}

/// The document of a file takes the place of the one that was open, which may be lost.
bool Files::replaceFrom(const QString& path) {
    auto read = readAside(path);
    if (!read) return false;
    Result<Ensemble>& ensemble = *read;
    if (!ensemble) {
        notice_.say(toQt(ensemble.problem().sentence()) + tr(". What was open is still here."));
        return false;
    }
    bool readOnly = false;
    if (keeper_.claim(path) == Keeper::Taken::byAnother) {
        const Shared answer = unattended_ ? Shared::cancel : askShared_(window_);
        if (unattended_) notice_.say(tr("%1 is open in another window.").arg(QFileInfo(path).fileName()));
        if (answer == Shared::cancel) return false;
        readOnly = answer == Shared::look || !keeper_.takeOver(path);
        if (readOnly && answer == Shared::takeOver)
            notice_.say(tr("The other window does not answer; here the ensemble can be looked at."));
    }
    auto work = readOnly ? std::nullopt : Keeper::leftBehind(path);
    notice_.hide();
    document_.replace(std::move(*ensemble), path);
    document_.setReadOnly(readOnly);
    remember(path);
    emit opened();
    if (work) bringBack(std::move(*work));
    emit settled();
    return true;
}

/// One step, so that undo leads to what was saved.
void Files::bringBack(store::Journaled work) {
    if (work.ensemble == document_.ensemble()) {
        if (!document_.path().isEmpty()) Keeper::forget(document_.path());
        return;
    }
    const bool wasNeverSaved = document_.path().isEmpty();
    document_.edit(tr("Bring back unsaved work"), [&](Ensemble& e) {
        // Recordings that came back before it are the same piece's.
        const SharedList<KeptTake> recorded = wasNeverSaved ? e.takes : SharedList<KeptTake>();
        e = std::move(work.ensemble);
        for (KeptTake take : recorded) {
            if (findById(e.takes, take.id) != nullptr) take.id = newId(e.takes, take.name);
            e.takes.push_back(std::move(take));
        }
    });
    const QString when = QLocale().toString(QDateTime::fromMSecsSinceEpoch(work.time), QLocale::ShortFormat);
    notice_.say(tr("Unsaved work of %1 is back.").arg(when), tr("Back to what was saved"), [this] {
        document_.undoStack().setIndex(0);
        notice_.hide();
    });
}

void Files::bringBack() {
    const auto orphans = Keeper::orphans();
    for (const auto& orphan : orphans) {
        auto work = Keeper::read(orphan);
        if (!work) continue;
        keeper_.continueIn(orphan);
        bringBack(std::move(*work));
        return;
    }
    const QStringList paths = settings_.value(QStringLiteral("recent")).toStringList();
    for (const QString& path : paths) {
        if (!Keeper::leftBehind(path)) continue;
        notice_.say(tr("%1 has unsaved work.").arg(QFileInfo(path).fileName()), tr("Open it"),
                    [this, path] { open(path); });
        return;
    }
}

void Files::takeOver() {
    if (document_.path().isEmpty()) return;
    const QString path = document_.path();
    if (!keeper_.takeOver(path))
        return notice_.say(tr("The other window does not answer; save under another name instead."),
                           tr("Save as…"), [this] { saveAs(); });
    document_.setReadOnly(false);
    auto read = readAside(path);
    if (!read) return;
    Result<Ensemble>& ensemble = *read;
    if (!ensemble) return notice_.say(toQt(ensemble.problem().sentence()) + QStringLiteral("."));
    auto work = Keeper::leftBehind(path);
    notice_.hide();
    document_.replace(std::move(*ensemble), path);
    emit opened();
    if (work) bringBack(std::move(*work));
    emit settled();
}

bool Files::save() {
    return document_.path().isEmpty() ? saveAs() : saveTo(document_.path());
}

/// What saving comes to where the file must not simply be written; nothing where it may.
std::optional<bool> Files::insteadOfWriting(const QString& path) {
    if (path != document_.path()) return std::nullopt;
    if (document_.isReadOnly()) {
        emit document_.editRefused();
        return false;
    }
    if (!document_.isChangedOnDisk()) return std::nullopt;
    switch (unattended_ ? Changed::overwrite : askChanged_(window_)) {
        case Changed::overwrite:
            return std::nullopt;
        case Changed::elsewhere:
            return saveAs();
        case Changed::cancel:
            return false;
    }
    return false;
}

bool Files::saveTo(const QString& path) {
    if (const auto instead = insteadOfWriting(path)) return *instead;
    if (path != document_.path() && keeper_.claim(path) == Keeper::Taken::byAnother) {
        notice_.say(tr("%1 is open in another window.").arg(QFileInfo(path).fileName()), tr("Save as…"),
                    [this] { saveAs(); });
        return false;
    }
    Outcome saved = Done{};
    for (Beside* beside : beside_) {
        if (saved) saved = beside->carryTo(path);
    }
    if (saved) saved = document_.save(path);
    if (!saved) {
        if (!document_.path().isEmpty()) keeper_.claim(document_.path());
        notice_.say(toQt(saved.problem().sentence()) + QStringLiteral("."), tr("Save as…"),
                    [this] { saveAs(); });
        return false;
    }
    for (Beside* beside : beside_) beside->clearOut();
    emit wasSaved();
    notice_.hide();
    remember(path);
    return true;
}

bool Files::saveAs() {
    if (isInSession() || unattended_) {
        notice_.say(tr("The session “%1” keeps this ensemble, which stays where it is.").arg(session_));
        return false;
    }
    const QString suggestion = document_.path().isEmpty()
                                   ? toQt(idFrom(document_.ensemble().title)) + QStringLiteral(".lever")
                                   : document_.path();
    const QString path = askPath_(window_, suggestion);
    return !path.isEmpty() && saveTo(path);
}

void Files::remember(const QString& path) {
    QStringList paths = settings_.value(QStringLiteral("recent")).toStringList();
    const QString whole = QFileInfo(path).absoluteFilePath();
    paths.removeAll(whole);
    paths.prepend(whole);
    settings_.setValue(QStringLiteral("recent"), paths.mid(0, mostRecent));
}

void Files::fillRecent(QMenu& menu) {
    menu.clear();
    const QStringList paths = settings_.value(QStringLiteral("recent")).toStringList();
    for (const QString& path : paths) {
        auto* action = menu.addAction(QFileInfo(path).fileName());
        action->setToolTip(path);
        connect(action, &QAction::triggered, this, [this, path] { open(path); });
    }
    if (paths.isEmpty()) menu.addAction(tr("Nothing opened yet"))->setEnabled(false);
    menu.setToolTipsVisible(true);
}

}  // namespace mellow::app
