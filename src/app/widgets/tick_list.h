// A list in groups in which each line can be ticked: what of it is to be done.
#pragma once

#include <QTreeWidget>
#include <vector>

namespace mellow::app {

class TickList : public QTreeWidget {
    Q_OBJECT

 public:
    struct Line {
        QString group;
        QString words;
    };
    explicit TickList(const QString& name, const QString& title, QWidget* parent = nullptr);

    /// Lines of one group stand together, in the order in which they come.
    void show(const std::vector<Line>& lines);
    /// The places of lines that are ticked, rising.
    [[nodiscard]] std::vector<std::size_t> ticked() const;
    void tickAll();

 signals:
    void tickedChanged();
};

}  // namespace mellow::app
