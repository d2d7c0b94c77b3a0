// Just now: what came in and what went out, newest first. Repeated movement of one control is one line whose
// number changes, so that a swell does not push everything else away.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QTimer>
#include <deque>
#include <variant>

#include "app/live.h"

namespace mellow::app {

class JustNowModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { out = Qt::UserRole + 1, number, detail };

    JustNowModel(Document& document, Live& live, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

 private:
    struct Line {
        bool out = false;
        std::uint32_t instrument = 0;
        int channel = 0;
        int key = 0;      ///< what makes it the same line: the kind and number of the message
        QString address;  ///< and of one by OSC, where it goes
        QString name;
        QString number;
        QString detail;
    };

    using Waiting = std::variant<io::Happening, io::OscHappening>;

    void clear();
    void take(const Waiting& happening);
    void flush();
    [[nodiscard]] Line lineFor(const io::Happening& happening) const;
    [[nodiscard]] Line lineFor(const io::OscHappening& happening) const;
    [[nodiscard]] const Instrument* instrumentOf(std::uint32_t interned) const;

    Document& document_;
    Live& live_;
    std::deque<Line> lines_;
    std::deque<Waiting> waiting_;
    QTimer rhythm_;
};

class JustNow : public QListView {
    Q_OBJECT

 public:
    JustNow(Document& document, Live& live, QWidget* parent = nullptr);

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    JustNowModel model_;
};

}  // namespace mellow::app
