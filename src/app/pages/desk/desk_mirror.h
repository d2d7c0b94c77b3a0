// The desk on tablets: every surface that moved an element by OSC is told where the elements stand, what they
// are called and in which colour, and again whenever that changes.
#pragma once

#include <QObject>
#include <QTimer>
#include <map>
#include <string>

#include "app/acts/element_targets.h"
#include "app/document/document.h"
#include "app/live/live.h"

namespace mellow::app {

class DeskMirror : public QObject {
    Q_OBJECT

 public:
    DeskMirror(Document& document, Live& live, QObject* parent = nullptr);

 private:
    void tellAll();
    void tellMoved();
    void tellReading(const DeskElement& element, Axis axis);

    Document& document_;
    Live& live_;
    std::size_t greetings_ = 0;
    ElementTargets targets_;
    std::map<std::string, double> told_;        ///< by address
    std::map<std::string, std::string> reads_;  ///< what the elements lead to, in units, likewise
    QTimer later_;                              ///< until fingers that could not be told have left
};

}  // namespace mellow::app
