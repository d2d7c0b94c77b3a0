// Just now: what came in and what went out, newest first. Repeated movement of one control is one line whose
// number changes, so that a swell does not push everything else away.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QTimer>
#include <deque>
#include <string>
#include <variant>

#include "app/live/live.h"

namespace mellow::app {

class JustNowModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { out = Qt::UserRole + 1, number, detail };

    JustNowModel(Document& document, Live& live, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

    /// Only lines in whose words all that is typed occurs are taken; empty: all. What is shown and does not
    /// fit goes.
    void setFilter(const QString& words);
    /// While it pauses, what is shown stays, and what comes is not listed.
    void pause(bool paused);
    /// What is shown, a line each.
    [[nodiscard]] QString text() const;

 private:
    /// What moves: all that shares it is one line.
    struct Mover {
        int message = 0;  ///< its kind and number; first, since most differ by it
        int channel = 0;
        std::uint32_t instrument = 0;
        bool out = false;
        bool made = false;    ///< by a chain
        std::string address;  ///< of one by OSC, where it goes
        friend bool operator==(const Mover&, const Mover&) = default;
    };
    struct Line {
        Mover mover;
        QString name;
        QString number;
        QString detail;
    };

    struct Waiting {
        Mover mover;
        std::variant<io::Happening, io::OscHappening> newest;
    };

    static Mover moverOf(const io::Happening& happening);
    static Mover moverOf(const io::OscHappening& happening);
    void clear();
    /// Everything that a filter looks at.
    [[nodiscard]] static QString words(const Line& line);
    template<class Happened>
    void take(const Happened& happening);
    void flush();
    [[nodiscard]] Line lineFor(const Waiting& waiting) const;
    void describe(const io::Happening& happening, Line& line) const;
    void describe(const io::OscHappening& happening, Line& line) const;
    [[nodiscard]] const Instrument* instrumentOf(std::uint32_t interned) const;

    Document& document_;
    Live& live_;
    std::deque<Line> lines_;
    std::deque<Waiting> waiting_;
    QTimer rhythm_;
    QString filter_;
    bool paused_ = false;
};

/// The list of a model.
class JustNowList : public QListView {
    Q_OBJECT

 public:
    explicit JustNowList(JustNowModel& model, QWidget* parent = nullptr);

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    JustNowModel& model_;
};

/// With what one does to it.
class JustNow : public QWidget {
    Q_OBJECT

 public:
    JustNow(Document& document, Live& live, QWidget* parent = nullptr);
    [[nodiscard]] JustNowModel* model() const { return model_; }

 private:
    JustNowModel* model_;
};

}  // namespace mellow::app
