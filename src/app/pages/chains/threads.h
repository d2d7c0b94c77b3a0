// The lines from the source to the response and on to each target, which lie under all of them.
#pragma once

#include <QColor>
#include <QPainter>
#include <QPainterPath>
#include <utility>
#include <vector>

#include "app/pages/chains/rail.h"
#include "app/pages/chains/response_picture.h"

namespace mellow::app {

/// A line from one part of the picture to the next.
struct Thread {
    QPainterPath path;
    QColor color;
    bool operator==(const Thread&) const = default;
};

/// As things stand now, in the coordinates of a widget that they all lie in.
std::vector<Thread> threadsBetween(const QWidget& over, const Rail& source, const ResponsePicture& picture,
                                   const std::vector<Rail*>& targets);

class Threads {
 public:
    /// Shows others, and has painted anew where threads were and where they are now, as far as they moved.
    void show(std::vector<Thread> now, QWidget& over);
    void paint(QPainter& painter) const;

 private:
    std::vector<Thread> threads_;
};

}  // namespace mellow::app
