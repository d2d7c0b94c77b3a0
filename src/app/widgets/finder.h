// Finding something by typing: a field, and below it what fits, with what it is and a sentence.
//
// Whoever opens a finder says how to search; what is taken says itself what it does. Enter takes the first,
// arrows walk, Esc leaves.
#pragma once

#include <QAbstractListModel>
#include <QFrame>
#include <QLineEdit>
#include <QListView>
#include <functional>
#include <vector>

namespace mellow::app {

/// One thing that was found.
struct Found {
    QString text;
    QString detail;              ///< behind it, smaller
    QString help;                ///< below it; empty: nothing
    std::function<void()> take;  ///< what happens when it is chosen
};

using Search = std::function<std::vector<Found>(const QString& typed)>;

class FinderModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { detail = Qt::UserRole + 1, help };
    using QAbstractListModel::QAbstractListModel;

    void show(std::vector<Found> found);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] const Found& at(int row) const { return found_[static_cast<std::size_t>(row)]; }

 private:
    std::vector<Found> found_;
};

class Finder : public QFrame {
    Q_OBJECT

 public:
    /// Opens one beside a widget, within its window.
    static Finder* open(QWidget* at, const QString& placeholder, Search search);

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    Finder(const QString& placeholder, Search search, QWidget* parent);
    void look();
    void take(const QModelIndex& at);

    Search search_;
    FinderModel model_;
    QLineEdit* words_;
    QListView* list_;
};

/// Moves a popup beside what it belongs to, above it where there is room, and within its window.
void placePopup(QWidget& popup, const QWidget& at);

/// True when every word of what is typed occurs in a text, whatever the case.
/// How well a name fits what was typed: 0 is it, 1 begins with it, 2 has it, 3 has its words if at all.
int rankOf(const QString& name, const QString& typed);
bool hasWords(const QString& text, const QString& typed);

}  // namespace mellow::app
