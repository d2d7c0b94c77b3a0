// Walking through a controller: each control is moved once, and its profile writes itself.
//
// What moved is told by its shape, as in learning (core/learning). A control is written down once the hand
// has let it rest, with a name of its own; one that is there already is only pointed at. All of a walk is one
// undo step.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <optional>

#include "app/document/document.h"
#include "app/live/live.h"
#include "core/learning/learner.h"

namespace mellow::app {

class WalkThrough : public QObject {
    Q_OBJECT

 public:
    WalkThrough(Document& document, Live& live, QObject* parent = nullptr);

    void start(const std::string& controller);
    void stop();
    [[nodiscard]] bool isOn() const { return !controller_.empty(); }
    [[nodiscard]] const std::string& controller() const { return controller_; }
    /// What it has come to, in a sentence.
    [[nodiscard]] QString says() const;
    /// The control that was moved last: its place in the profile.
    [[nodiscard]] std::optional<std::size_t> last() const { return last_; }

 signals:
    void changed();

 private:
    void hear(const io::Happening& happening);
    void consider();
    void note(const learning::Candidate& candidate);
    void notePad(int key);
    void write(const Message& message, std::optional<Rest> rest,
               const std::function<bool(const ControllerControl&)>& isIt);

    Document& document_;
    Live& live_;
    learning::Learner learner_;
    QTimer considering_;
    QElapsedTimer rest_;
    std::string controller_;
    std::uint32_t stood_ = 0;  ///< messages of the likeliest, when it was last considered
    std::optional<std::size_t> last_;
    int added_ = 0;
    Gesture gesture_ = 0;
};

}  // namespace mellow::app
