// A document is only replaced once another has been read whole, so that what was open is still there after
// any error.
#include "app/files.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>

#include "app/words.h"
#include "core/model/edit.h"

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

QString askSavePath(QWidget* parent, const QString& suggestion) {
    QString path = QFileDialog::getSaveFileName(parent, Files::tr("Save the ensemble"), suggestion,
                                                Files::tr("Ensembles (*.lever)"));
    if (!path.isEmpty() && QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".lever");
    return path;
}

}  // namespace

Files::Files(Document& document, NoticeBar& notice, QWidget* window)
    : QObject(window),
      document_(document),
      notice_(notice),
      window_(window),
      ask_(askPerson),
      askPath_(askSavePath) {}

bool Files::mayLose() {
    if (!document_.isModified()) return true;
    switch (ask_(window_)) {
        case Answer::save:
            return save();
        case Answer::discard:
            return true;
        case Answer::cancel:
            return false;
    }
    return false;
}

bool Files::begin() {
    if (!mayLose()) return false;
    Ensemble ensemble;
    ensemble.title = tr("Untitled ensemble").toStdString();
    document_.replace(std::move(ensemble), {});
    emit opened();
    return true;
}

void Files::open() {
    const QString path = QFileDialog::getOpenFileName(window_, tr("Open an ensemble"), {},
                                                      tr("Ensembles (*.lever);;All files (*)"));
    if (!path.isEmpty()) open(path);
}

bool Files::open(const QString& path) {
    if (!mayLose()) return false;
    const auto outcome = document_.open(path);
    if (!outcome) {
        notice_.say(toQt(outcome.problem().sentence()) + tr(". What was open is still here."));
        return false;
    }
    notice_.hide();
    remember(path);
    emit opened();
    return true;
}

bool Files::save() {
    return document_.path().isEmpty() ? saveAs() : saveTo(document_.path());
}

bool Files::saveTo(const QString& path) {
    const auto saved = document_.save(path);
    if (!saved) {
        notice_.say(toQt(saved.problem().sentence()) + QStringLiteral("."), tr("Save as…"),
                    [this] { saveAs(); });
        return false;
    }
    notice_.hide();
    remember(path);
    return true;
}

bool Files::saveAs() {
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
