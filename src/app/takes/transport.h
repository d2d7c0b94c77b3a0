// The transport: the take in hand, where it stands, and whether it plays or something is recorded. There is
// one in the window, whatever page is shown.
#pragma once

#include <QFrame>
#include <QPushButton>

#include "app/document/document.h"
#include "app/takes/take_work.h"
#include "app/widgets/moving_text.h"

namespace mellow::app {

class Transport : public QFrame {
    Q_OBJECT

 public:
    Transport(Document& document, TakeWork& work, QWidget* parent = nullptr);

    /// Plays the take or stops it, or ends the recording; where there is no take it says how one comes to be.
    void toggle();
    /// Where there is little room, the name of the take is in the tooltip only.
    void showName(bool shown);
    [[nodiscard]] QString nameText() const { return name_->text(); }
    [[nodiscard]] QString timeText() const { return time_->text(); }
    /// What button it is now: "Play", "Stop" or "End recording".
    [[nodiscard]] QString actText() const { return act_->accessibleName(); }

 protected:
    void changeEvent(QEvent* event) override;

 private:
    void follow();
    void showTime();
    void showTakes();
    enum class Act { play, stop, end };
    [[nodiscard]] Act act() const;
    /// What the button and the name say.
    struct Shown {
        Act act = Act::play;
        QString take;
        double ratio = 1;  ///< of the screen's pixels
        bool operator==(const Shown&) const = default;
    };

    Document& document_;
    TakeWork& work_;
    QPushButton* act_;
    QPushButton* name_;
    MovingText* time_;
    std::optional<Shown> shown_;
};

}  // namespace mellow::app
