// Finding something by typing: a field, and below it what fits, with what it is and a sentence.
//
// Whoever opens a finder says how to search; what is taken says itself what it does. Enter takes the first,
// arrows walk, Esc leaves. Where several can be taken Space ticks what an arrow went to (or the first, as
// long as nothing is typed: there it is a letter like others), Ctrl and a click tick as well, and Enter takes
// all that is ticked.
#pragma once

#include <QAbstractListModel>
#include <QFrame>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <algorithm>
#include <functional>
#include <string>
#include <vector>

namespace mellow::app {

/// One thing that was found.
struct Found {
    QString text;
    QString detail;              ///< behind it, smaller
    QString help;                ///< below it; empty: nothing
    std::function<void()> take;  ///< what happens when it is chosen
    std::string key = {};        ///< by which it is told apart where several are taken; empty: only alone
};
using TakeAll = std::function<void(const std::vector<std::string>& keys)>;

using Search = std::function<std::vector<Found>(const QString& typed)>;

class FinderModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { detail = Qt::UserRole + 1, help };
    using QAbstractListModel::QAbstractListModel;

    void show(std::vector<Found> found);
    /// Ticks what has a key, or takes its tick away. What was ticked stays so when it is found no more.
    void tick(const QModelIndex& index);
    /// In the order in which they were ticked.
    [[nodiscard]] const std::vector<std::string>& ticked() const { return ticked_; }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] const Found& at(int row) const { return found_[static_cast<std::size_t>(row)]; }

 private:
    [[nodiscard]] bool isTicked(const Found& found) const {
        return std::find(ticked_.begin(), ticked_.end(), found.key) != ticked_.end();
    }

    std::vector<Found> found_;
    std::vector<std::string> ticked_;
};

class Finder : public QFrame {
    Q_OBJECT

 public:
    /// Opens one beside a widget, within its window. takeAll: what happens when several are taken; none: only
    /// one can be.
    static Finder* open(QWidget* at, const QString& placeholder, Search search, TakeAll takeAll = {});

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    Finder(const QString& placeholder, Search search, TakeAll takeAll, QWidget* parent);
    void look();
    void tick(const QModelIndex& at);
    void sayTicked();
    void take(const QModelIndex& at);

    Search search_;
    TakeAll takeAll_;
    bool walked_ = false;  ///< an arrow was used since something was typed
    FinderModel model_;
    QLineEdit* words_;
    QListView* list_;
    QLabel* hint_;
};

/// Moves a popup beside what it belongs to, above it where there is room, and within its window.
void placePopup(QWidget& popup, const QWidget& at);

/// True when every word of what is typed occurs in a text, whatever the case.
/// How well a name fits what was typed: 0 is it, 1 begins with it, 2 has it, 3 has its words if at all.
int rankOf(const QString& name, const QString& typed);
bool hasWords(const QString& text, const QString& typed);

}  // namespace mellow::app
