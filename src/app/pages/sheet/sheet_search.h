// The field in which the sheet is searched as one types, with what was searched before.
//
// Esc takes back what is typed, and only then is the window's; Down shows what was searched before where
// nothing is typed, and else goes to the rows, as Enter does.
#pragma once

#include <QLineEdit>

namespace mellow::app {

class SheetSearch : public QLineEdit {
    Q_OBJECT

 public:
    explicit SheetSearch(QWidget* parent = nullptr);

 signals:
    /// Somebody wants to go on to what was found.
    void rowsAsked();

 protected:
    bool event(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

 private:
    void keep() const;
    void showKept();
};

}  // namespace mellow::app
