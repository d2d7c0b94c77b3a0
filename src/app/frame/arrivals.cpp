#include "app/frame/arrivals.h"

#include <QApplication>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>
#include <QTimer>
#include <QWindow>

#include "app/acts/reuse/keep_dialog.h"
#include "app/acts/reuse/reuse.h"
#include "app/frame/dropping.h"
#include "app/frame/main_window.h"
#include "app/ground/words.h"
#include "core/library/shelf.h"

namespace mellow::app {

namespace {

Arrivals::PartAnswer askPerson(QWidget* parent, const QString& what) {
    QMessageBox box(
        QMessageBox::NoIcon, Arrivals::tr("A part for an ensemble"),
        Arrivals::tr("%1 can be put into this ensemble, where the selection is, or be kept in the "
                     "library for later.")
            .arg(what),
        QMessageBox::NoButton, parent);
    const auto* put = box.addButton(Arrivals::tr("Put it here"), QMessageBox::AcceptRole);
    const auto* keep = box.addButton(Arrivals::tr("Keep it in the library"), QMessageBox::AcceptRole);
    box.addButton(Arrivals::tr("Go back"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == put) return Arrivals::PartAnswer::put;
    return box.clickedButton() == keep ? Arrivals::PartAnswer::keep : Arrivals::PartAnswer::cancel;
}

bool isSameFile(const QString& one, const QString& other) {
    const QString path = QFileInfo(one).canonicalFilePath();
    return !path.isEmpty() && path == QFileInfo(other).canonicalFilePath();
}

}  // namespace

Arrivals::Arrivals(MainWindow& window) : QObject(&window), window_(window), askPart_(askPerson) {}

void Arrivals::take(const Request& request) {
    waiting_.push_back(request);
    takeNext();
}

/// One after the other, and none while something is asked.
void Arrivals::takeNext() {
    constexpr int again = 150;  // ms
    if (taking_ || waiting_.empty()) return;
    if (QWidget* asking = QApplication::activeModalWidget()) {
        asking->raise();
        asking->activateWindow();
        QTimer::singleShot(again, this, &Arrivals::takeNext);
        return;
    }
    const Request request = waiting_.front();
    waiting_.erase(waiting_.begin());
    taking_ = true;
    takeNow(request);
    taking_ = false;
    if (!waiting_.empty()) QTimer::singleShot(0, this, &Arrivals::takeNext);
}

void Arrivals::takeNow(const Request& request) {
    comeToFront(request.token);
    if (request.begin) window_.newEnsemble();
    if (request.demo && window_.files().mayLose()) window_.openDemo();
    for (const QString& path : request.paths) takeFile(path);
}

void Arrivals::comeToFront(const QString& token) {
    if (!window_.isVisible()) return;
    // Where the desktop wants to be asked, this is how (XDG activation).
    if (!token.isEmpty()) qputenv("XDG_ACTIVATION_TOKEN", token.toUtf8());
    if (window_.isMinimized()) window_.showNormal();
    window_.raise();
    window_.activateWindow();
}

void Arrivals::takeFile(const QString& path) {
    if (path.endsWith(toQt(library::ending), Qt::CaseInsensitive)) return takePart(path);
    if (isSameFile(path, window_.document().path())) return;
    window_.dropping().takeFile(path);
}

void Arrivals::takePart(const QString& path) {
    const auto part = window_.dropping().readPart(path);
    if (!part) return;
    const QString name = part->name.empty() ? QFileInfo(path).completeBaseName() : nameToShow(part->name);
    switch (askPart_(&window_, tr("“%1” (%2)").arg(name, toQt(library::contents(*part))))) {
        case PartAnswer::put:
            return window_.workspace().reuse.put(*part);
        case PartAnswer::keep:
            KeepDialog::ask(&window_, *part);
            return;
        case PartAnswer::cancel:
            return;
    }
}

}  // namespace mellow::app
