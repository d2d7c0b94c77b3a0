// What comes to the window from outside: from its own command line, from another start, from a file manager.
//
// A person may be in the middle of something. So while a question is on the screen what comes waits; a window
// that has the document already is only shown; and a part, which could go anywhere, is asked about first.
#pragma once

#include <QObject>
#include <functional>
#include <vector>

#include "app/frame/only_program.h"

namespace mellow::app {

class MainWindow;

class Arrivals : public QObject {
    Q_OBJECT

 public:
    enum class PartAnswer { put, keep, cancel };
    /// What to do with a part: what it is, in words.
    using AskPart = std::function<PartAnswer(QWidget*, const QString& what)>;

    explicit Arrivals(MainWindow& window);
    void onAskPart(AskPart ask) { askPart_ = std::move(ask); }

    /// Takes it now, or once nothing is asked of the person any more.
    void take(const Request& request);

 private:
    void takeNext();
    void takeNow(const Request& request);
    void takeFile(const QString& path);
    void takePart(const QString& path);
    void comeToFront(const QString& token);

    MainWindow& window_;
    AskPart askPart_;
    std::vector<Request> waiting_;
    bool taking_ = false;
};

}  // namespace mellow::app
