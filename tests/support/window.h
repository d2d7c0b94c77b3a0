// A real window with the demo ensemble, on settings of its own, and hands to use it with.
#pragma once

#include <QTemporaryDir>
#include <QtTest/QtTest>
#include <memory>

#include "app/acts/findings_view.h"
#include "app/frame/main_window.h"
#include "app/pages/chains/chains_page.h"
#include "app/pages/chains/details_panel.h"

namespace mellow::test {

/// Nothing of the machine is used.
app::Live::Options alone();
/// The JACK server is, that JACK_DEFAULT_SERVER names.
app::Live::Options overJack();

/// A window that is alone unless asked for more, shown and active. What a person would be asked is answered
/// as set.
class Window {
 public:
    /// size: of the window; fontScale: as the theme takes it.
    explicit Window(QSize size = {1280, 800}, double fontScale = 1.0, bool linen = false,
                    const app::Live::Options& options = alone());
    explicit Window(const app::Live::Options& options) : Window({1280, 800}, 1.0, false, options) {}

    /// The page of a type, which is made whether it is shown or not.
    template<class OfType>
    OfType& pageOf() {
        return *window_->findChild<OfType*>();
    }
    app::ChainsPage& page() { return pageOf<app::ChainsPage>(); }
    app::DetailsPanel& details() { return pageOf<app::DetailsPanel>(); }

    app::MainWindow* operator->() { return window_.get(); }
    app::MainWindow& operator*() { return *window_; }

    const Ensemble& ensemble() { return window_->document().ensemble(); }
    const Instrument& instrument(const std::string& id);
    const Chain& chain(const std::string& instrument, const std::string& id);
    void select(const std::string& instrument, const std::string& chain, app::Part part = app::Part::source,
                int index = 0, int inner = 0);

    /// Adds a step by its name, typed into the choice of steps that a button opens.
    void pickStep(const char* button, const QString& name);
    /// Leads the selected chain to the first target that is offered.
    void addTarget();

    /// The visible child of a type with an object name; fails the test when there is none.
    template<class Widget>
    Widget* find(const char* name) {
        for (Widget* each : window_->findChildren<Widget*>(QLatin1String(name))) {
            if (each->isVisible()) return each;
        }
        qFatal("no visible widget named %s", name);
    }
    void click(const char* button);
    /// Runs a menu entry by its text, without the mark for its letter.
    void menu(const QString& text);
    QAction* action(const QString& text);
    /// Runs an edit that is one undo step, then undoes and redoes it, comparing the document each time.
    void editsOnce(const std::function<void()>& edit);

    app::MainWindow::Answer answer = app::MainWindow::Answer::discard;
    int asked = 0;
    QString savePath;
    QTemporaryDir folder;

 private:
    std::unique_ptr<app::MainWindow> window_;
};

/// The sentences that are shown of what checks found, a line each.
QString findingsText(Window& window);

/// Presses, moves in a few steps, and lets go.
void drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers = {});
/// Moves an edit field's text to something typed, and Enter.
void type(QWidget* field, const QString& text);

/// A level that is a number.
inline double numberAt(const Level& level) {
    return std::get<double>(level);
}

}  // namespace mellow::test
