// How all widgets of the window behave towards the keyboard and the wheel, said once.
//
// A window that is played by the letters of the keyboard, by Space and by Esc wants these for itself most of
// the time. So what is open above it (a list, a menu, a finder) has the keyboard until it is closed; a button
// that was clicked, and a list from which something was chosen by the mouse, give it back; and the wheel
// scrolls, unless a field was clicked or come to by Tab first.
#pragma once

#include <QObject>
#include <QPointer>
#include <QWidget>
#include <functional>

namespace mellow::app {

/// Whether a key that comes to a widget is not for playing: text is typed there, or something is open that
/// has the keyboard.
bool keepsKeys(const QObject* watched);

/// Marks a widget that is there for a moment, and that Esc closes.
/// close: closes it, wherever the keyboard is.
void closeOnEscape(QWidget& widget, const std::function<void()>& close);

/// Holds for one window and all that is in it, for as long as it lives; what is a window of its own (a
/// dialog) keeps its own focus.
class Manners : public QObject {
    Q_OBJECT

 public:
    explicit Manners(QWidget& window);

    /// Who has the keyboard where nobody else wants it.
    void giveKeyboardTo(QWidget* home) { home_ = home; }
    /// It has it now.
    void goHome();
    /// Lets what is there for a moment have Esc. False when nothing is.
    bool closeWhatEscapeCloses();

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    void takeOn(QWidget& widget);
    void giveBack();

    QWidget& window_;
    QPointer<QWidget> home_;
    bool byMouse_ = false;  ///< the newest input was
};

}  // namespace mellow::app
