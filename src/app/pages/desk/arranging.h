// Arranging: a layer over the board on which elements are drawn, moved, sized, copied and aligned.
//
// The layer takes every press, so nothing sounds while one arranges; the grid is drawn, and all but what is
// selected is dimmed. A place that is taken is refused where one tries it, so that nothing ever overlaps.
#pragma once

#include <QWidget>
#include <optional>
#include <set>
#include <string>

#include "app/pages/desk/desk_board.h"

namespace mellow::app {

/// What an element of a kind is called before anything else is known of it.
QString nameOfKind(ElementKind kind);

class Arranging : public QWidget {
    Q_OBJECT

 public:
    Arranging(Workspace& workspace, DeskBoard& board);

    /// Of which kind an element is that is drawn next.
    void draw(ElementKind kind) { kind_ = kind; }
    [[nodiscard]] ElementKind kind() const { return kind_; }
    void select(std::set<std::string> elements);
    [[nodiscard]] const std::set<std::string>& selected() const { return selected_; }

    void removeSelected();
    void duplicateSelected();
    /// What is selected, as text that any ensemble takes.
    void copySelected();
    /// Copies of what was copied come onto the page that is shown; here, with chains of their own.
    void paste();
    /// Keeps what is selected in the library.
    void keepSelected();
    enum class Edge { left, top, width, height };
    /// Gives all that are selected the edge or size of the first.
    void align(Edge edge);

 signals:
    void selectionChanged();
    /// What was done, or why it cannot be.
    void says(const QString& sentence);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

 private:
    enum class Doing { nothing, drawing, moving, sizing };
    [[nodiscard]] const DeskElement* elementAt(const QPointF& at) const;
    [[nodiscard]] QRectF gripOf(const DeskElement& element) const;
    [[nodiscard]] GridPlace drawn() const;
    /// Where what is selected would be, moved or sized by so many squares; nothing where that is taken.
    [[nodiscard]] std::optional<std::map<std::string, GridPlace>> shifted(QPoint by, bool size) const;
    void shift(QPoint by, bool size);
    void make(const GridPlace& place);
    void putCopies(const QString& words, const std::set<std::string>& of);
    void selectNext(int by);
    [[nodiscard]] std::vector<const DeskElement*> chosen() const;

    Workspace& workspace_;
    DeskBoard& board_;
    ElementKind kind_ = ElementKind::slider;
    std::set<std::string> selected_;
    std::set<std::string> copied_;
    QString copiedText_;  ///< as which they are in the clipboard
    Doing doing_ = Doing::nothing;
    QPoint from_;           ///< the square on which it began
    QPointF pressed_;       ///< where the button went down
    bool dragged_ = false;  ///< and the pointer has gone from there
    QPoint to_;
};

}  // namespace mellow::app
