// The desk on tablets: every surface that moved an element by OSC is told where the elements stand, what they
// are called and in which colour, and again whenever that changes.
#pragma once

#include <QObject>
#include <QTimer>
#include <set>
#include <string>

#include "app/document/document.h"
#include "app/live/live.h"
#include "core/desk/scene.h"

namespace mellow::app {

class DeskMirror : public QObject {
    Q_OBJECT

 public:
    DeskMirror(Document& document, Live& live, QObject* parent = nullptr);

 private:
    void followDesk();
    void tellAll();
    void tellMoved();
    void tell(const std::string& address, double position);
    void tell(const desk::SceneChange& change);
    void tellAgain();

    Document& document_;
    Live& live_;
    std::size_t greetings_ = 0;
    bool isStale_ = false;  ///< the document was edited since the scene followed it
    desk::Scene scene_;
    std::set<std::string> untold_;  ///< addresses on which some finger was
    QTimer later_;                  ///< until fingers that could not be told have left
};

}  // namespace mellow::app
