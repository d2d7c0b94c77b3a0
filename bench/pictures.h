// The pictures that a window paints, counted.
#pragma once

#include <QApplication>
#include <QElapsedTimer>
#include <QEvent>
#include <QWidget>
#include <algorithm>

namespace mellow::bench {

/// Counts the pictures of a window, and the time between them.
class Pictures : public QObject {
 public:
    explicit Pictures(QWidget* window) : window_(window) { qApp->installEventFilter(this); }
    void begin() {
        count = 0;
        longest = 0;
        since_.start();
    }
    int count = 0;
    double longest = 0;  ///< ms between two

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (watched == window_ && event->type() == QEvent::UpdateRequest) {
            const double took = static_cast<double>(since_.nsecsElapsed()) / 1e6;
            since_.start();
            if (count++ > 0) longest = std::max(longest, took);
        }
        return false;
    }

 private:
    QWidget* window_;
    QElapsedTimer since_;
};

}  // namespace mellow::bench
