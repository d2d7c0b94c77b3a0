// A window that a session manager has started (io/managing/session_manager.h): it has the manager's file
// open, saves when it is told to, says whether there is something to save, and hides instead of closing,
// since the session goes on playing without being looked at.
#pragma once

#include <QEventLoop>
#include <QObject>
#include <memory>
#include <optional>

#include "io/managing/session_manager.h"

namespace mellow::app {

class MainWindow;

class Managed : public QObject {
    Q_OBJECT

 public:
    /// Announces the program to the manager that NSM_URL names, and waits a moment for its answer. Nothing:
    /// there is no such manager, or none answers, which `trouble` then says.
    static std::unique_ptr<Managed> begin(QString& trouble);

    /// By which JACK's graph is to show the program.
    [[nodiscard]] std::string clientId() const { return first_ ? first_->clientId : std::string(); }
    /// Opens the file in a window, and answers from then on. The window must outlive this.
    void lead(MainWindow& window);

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    explicit Managed(QObject* parent = nullptr) : QObject(parent) {}
    [[nodiscard]] QString whyNothingCame(const QString& url) const;
    void take(const io::SessionManager::Call& call);
    void open(const io::SessionManager::Open& asked);
    bool openIn(const io::SessionManager::Open& asked);
    void save();
    void show(bool shown);
    void tellUnsaved();

    std::unique_ptr<io::SessionManager> manager_;
    MainWindow* window_ = nullptr;
    QEventLoop awaiting_;  ///< until the file is known
    std::optional<io::SessionManager::Open> first_;
    std::optional<io::SessionManager::Welcome> welcome_;
    QString refusal_;
    bool opened_ = false;
    std::optional<bool> unsaved_;  ///< as the manager was told
};

}  // namespace mellow::app
