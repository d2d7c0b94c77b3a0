// Whatever the manager calls comes on a thread of its own, and is taken up in the window's.
#include "app/frame/managed.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QFileInfo>
#include <QTimer>

#include "app/frame/main_window.h"
#include "app/ground/words.h"

namespace mellow::app {

using io::SessionManager;

namespace {

/// The manager gives a name that is the session's alone; the ending is ours.
QString fileOf(const SessionManager::Open& asked) {
    return toQt(asked.path) + QStringLiteral(".lever");
}

}  // namespace

std::unique_ptr<Managed> Managed::begin(QString& trouble) {
    constexpr int patience = 3000;  // ms; one that is there answers within a few
    const QByteArray url = qgetenv("NSM_URL");
    if (url.isEmpty()) return nullptr;
    std::unique_ptr<Managed> managed(new Managed);
    auto manager = SessionManager::at(url.toStdString(), [raw = managed.get()](const auto& call) {
        QMetaObject::invokeMethod(
            raw, [raw, call] { raw->take(call); }, Qt::QueuedConnection);
    });
    if (!manager) {
        trouble = toQt(manager.problem().sentence());
        return nullptr;
    }
    managed->manager_ = std::move(*manager);
    if (!managed->manager_->isThere()) {
        trouble = tr("The session manager at %1 is not there any more").arg(QString::fromUtf8(url));
        return nullptr;
    }
    managed->manager_->announce(QCoreApplication::applicationName().toStdString(),
                                QFileInfo(QCoreApplication::arguments().value(0)).fileName().toStdString());
    QTimer::singleShot(patience, &managed->awaiting_, &QEventLoop::quit);
    managed->awaiting_.exec(QEventLoop::ExcludeUserInputEvents);
    if (managed->first_) return managed;
    trouble = managed->whyNothingCame(QString::fromUtf8(url));
    return nullptr;
}

QString Managed::whyNothingCame(const QString& url) const {
    if (!refusal_.isEmpty()) return tr("The session manager does not take this program in: %1").arg(refusal_);
    if (!welcome_) return tr("The session manager at %1 does not answer").arg(url);
    const QString name = nameToShow(welcome_->manager.empty() ? url.toStdString() : welcome_->manager);
    return tr("The session manager “%1” took this program in, and did not say what it is to open").arg(name);
}

void Managed::take(const SessionManager::Call& call) {
    if (const auto* refusal = std::get_if<SessionManager::Refusal>(&call)) {
        refusal_ = nameToShow(refusal->reason);
        awaiting_.quit();
    } else if (const auto* asked = std::get_if<SessionManager::Open>(&call)) {
        if (window_ != nullptr) return open(*asked);
        first_ = *asked;
        awaiting_.quit();
    } else if (const auto* welcome = std::get_if<SessionManager::Welcome>(&call)) {
        welcome_ = *welcome;
    } else if (window_ != nullptr && std::holds_alternative<SessionManager::Save>(call)) {
        save();
    } else if (window_ != nullptr && std::holds_alternative<SessionManager::Show>(call)) {
        show(true);
    } else if (window_ != nullptr && std::holds_alternative<SessionManager::Hide>(call)) {
        show(false);
    }
}

void Managed::lead(MainWindow& window) {
    window_ = &window;
    // A session that is hidden goes on.
    QApplication::setQuitOnLastWindowClosed(false);
    window.installEventFilter(this);
    const Document& document = window.document();
    connect(&document, &Document::changed, this, &Managed::tellUnsaved);
    connect(&document, &Document::stateChanged, this, &Managed::tellUnsaved);
    connect(&window.document().undoStack(), &QUndoStack::cleanChanged, this, &Managed::tellUnsaved);
    open(*first_);
}

void Managed::open(const SessionManager::Open& asked) {
    // It has said that it cannot go from one session to another, so the manager starts it anew for that.
    if (opened_) return manager_->failed(asked, SessionManager::Failure::general, "another session is open");
    window_->files().setUnattended(true);
    const QString before = window_->noticeText();
    const bool isNew = !QFileInfo::exists(fileOf(asked));
    opened_ = openIn(asked);
    window_->files().setUnattended(false);
    if (!opened_) {
        const QString why = window_->noticeText();
        return manager_->failed(
            asked, isNew ? SessionManager::Failure::createFailed : SessionManager::Failure::badProject,
            (why == before ? tr("the ensemble cannot be opened") : why).toStdString());
    }
    window_->files().stayIn(toQt(asked.sessionName));
    window_->menusFor(toQt(asked.sessionName));
    manager_->done(asked);
    manager_->tellShown(window_->isVisible());
    tellUnsaved();
}

bool Managed::openIn(const SessionManager::Open& asked) {
    const QString path = fileOf(asked);
    if (QFileInfo::exists(path)) return window_->openFile(path);
    QDir().mkpath(QFileInfo(path).path());
    return window_->files().beginAt(path, toQt(asked.sessionName));
}

void Managed::save() {
    window_->files().setUnattended(true);
    const bool saved = window_->files().save();
    window_->files().setUnattended(false);
    if (saved) return manager_->done(SessionManager::Save{});
    manager_->failed(SessionManager::Save{}, SessionManager::Failure::general,
                     window_->noticeText().toStdString());
}

void Managed::show(bool shown) {
    window_->setVisible(shown);
    if (shown) {
        window_->raise();
        window_->activateWindow();
    }
    manager_->tellShown(shown);
}

void Managed::tellUnsaved() {
    const bool unsaved = window_->document().isModified();
    if (!opened_ || unsaved_ == unsaved) return;
    unsaved_ = unsaved;
    manager_->tellUnsaved(unsaved);
}

/// Closing hides, as long as there is somebody who can have it shown again.
bool Managed::eventFilter(QObject* watched, QEvent* event) {
    if (watched != window_ || event->type() != QEvent::Close) return QObject::eventFilter(watched, event);
    if (!opened_ || !manager_->isThere()) {
        QApplication::setQuitOnLastWindowClosed(true);
        return false;
    }
    event->ignore();
    show(false);
    return true;
}

}  // namespace mellow::app
