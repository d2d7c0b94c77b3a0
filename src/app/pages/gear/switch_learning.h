// Learning key switches: each key that is played selects the articulation of the next row, and rows that are
// not there are made.
#pragma once

#include <QObject>
#include <string>

#include "app/document/document.h"
#include "app/live/live.h"

namespace mellow::app {

class SwitchLearning : public QObject {
    Q_OBJECT

 public:
    SwitchLearning(Document& document, Live& live, QObject* parent = nullptr);

    void start(const std::string& instrument, std::size_t row);
    void stop();
    [[nodiscard]] bool isOn() const { return !instrument_.empty(); }
    /// The row whose key is waited for.
    [[nodiscard]] std::size_t row() const { return row_; }
    /// What to do now, in a sentence.
    [[nodiscard]] QString says() const;

 signals:
    void changed();

 private:
    void hear(const io::Happening& happening);

    Document& document_;
    Live& live_;
    std::string instrument_;
    std::size_t row_ = 0;
    int last_ = -1;
    Gesture gesture_ = 0;
};

}  // namespace mellow::app
