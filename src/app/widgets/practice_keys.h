// The practice keys: a keyboard, wheels and pedals on the screen, for hands that have no others nearby.
//
// Keys are struck harder towards their front edge, and by the computer keyboard (the letter rows are two rows
// of keys, Page Up and Page Down move them by an octave). What other hands play, a take for instance, is
// shown on the same widgets.
#pragma once

#include <QWidget>
#include <array>
#include <map>
#include <vector>

#include "app/widgets/accessible.h"
#include "app/widgets/still_picture.h"
#include "core/midi/message.h"

class QTouchEvent;

namespace mellow::app {

/// True of the letters that play.
bool letterPlays(int keyCode);

/// A piano keyboard. Pressed keys are shown whoever pressed them.
class Keyboard : public QWidget {
    Q_OBJECT

 public:
    explicit Keyboard(QWidget* parent = nullptr);

    /// What keys mean to who is in hand, as a hand plays them.
    struct Meaning {
        std::map<int, QString> switches;  ///< key switches, with a word for each
        int low = 0;                      ///< the keys that sound
        int high = 127;
        bool operator==(const Meaning&) const = default;
    };
    void show(const Meaning& meaning);
    /// Which keys are drawn; key switches below them are drawn too.
    void setKeys(int lowest, int highest);
    [[nodiscard]] const Meaning& meaning() const { return meaning_; }
    void showKey(int key, bool down);
    [[nodiscard]] bool isDown(int key) const { return down_[static_cast<std::size_t>(key)]; }
    /// A letter of the computer keyboard: true when it is one that plays.
    bool pressLetter(int keyCode);
    bool releaseLetter(int keyCode);
    void moveOctave(int octaves);
    void letGo();
    /// Where a key is drawn.
    [[nodiscard]] QRectF keyRect(int key) const;
    /// Where the octave that begins with a key, a C, is named.
    [[nodiscard]] QRectF octaveRect(int key) const;
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;

 signals:
    void played(const mellow::midi::Short& message);

 protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void hideEvent(QHideEvent* event) override;

 private:
    static constexpr int mouse = -1;  ///< a finger like those that touch
    void fingerAt(int finger, const QPointF& at);
    void fingerUp(int finger);
    bool touch(QTouchEvent& event);
    void findLowest();
    void paintKey(QPainter& painter, int key) const;
    void nameOctave(QPainter& painter, int key) const;
    [[nodiscard]] int keyAt(const QPointF& point) const;
    void strike(int key, int velocity);
    void release(int key);

    [[nodiscard]] int whitesBefore(int key) const;
    Meaning meaning_;
    int first_;    ///< the first key that was asked for
    int lowest_;   ///< the first key that is drawn
    int highest_;  ///< and the last
    std::array<bool, 128> down_{};
    std::map<int, int> fingers_;  ///< the key that each finger holds, −1: none
    std::map<int, int> letters_;  ///< key code to key
    int firstLetterKey_ = 48;
};

/// A wheel, lever or pedal: a value of 0..127 or 0..16383 that is dragged.
class PracticeControl : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    [[nodiscard]] double spokenValue() const override { return value_; }
    [[nodiscard]] double spokenHigh() const override { return max_; }
    [[nodiscard]] QString spokenWords() const override { return QString::number(value_); }
    [[nodiscard]] bool canBeSet() const override { return true; }
    void setSpokenValue(double value) override { play(static_cast<int>(value)); }

    enum class Look { slider, pedal };
    enum class Spring { none, toLow, toMiddle };

    PracticeControl(const QString& name, Look look, Spring spring, int max, QWidget* parent = nullptr);

    void showValue(int value);
    [[nodiscard]] int value() const { return value_; }
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override { return sizeHint(); }

 signals:
    void played(int value);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    [[nodiscard]] QRectF track() const;
    [[nodiscard]] double trackRadius() const;
    void paintStill(QPainter& painter) const;
    [[nodiscard]] int rest() const;
    void play(int value);

    StillPicture still_;
    QString name_;
    Look look_;
    Spring spring_;
    int max_;
    int value_;
};

/// The whole panel. Sends on channel 1.
class PracticeKeys : public QWidget {
    Q_OBJECT

 public:
    explicit PracticeKeys(QWidget* parent = nullptr);

    /// Shows a message that came in, from whatever hands.
    void showMessage(midi::Bytes message);
    [[nodiscard]] Keyboard& keyboard() { return *keyboard_; }
    [[nodiscard]] PracticeControl* control(const QString& name) const;
    /// Lets go of everything that is held here.
    void letGo();

 signals:
    void played(const mellow::midi::Short& message);

 private:
    PracticeControl* add(const QString& name, PracticeControl::Look look, PracticeControl::Spring spring,
                         int status, int number);

    Keyboard* keyboard_;
    struct Entry {
        PracticeControl* control;
        int status;
        int number;
    };
    std::vector<Entry> controls_;
};

}  // namespace mellow::app
