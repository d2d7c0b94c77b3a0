// Just now: what came in and what went out, newest first. Repeated movement of one control is one line whose
// number changes, so that a swell does not push everything else away.
#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <QTimer>
#include <deque>

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
        int key = 0;  ///< what makes it the same line: the kind and number of the message
        QString name;
        QString number;
        QString detail;
    };

    void take(const io::Happening& happening);
    void flush();
    [[nodiscard]] Line lineFor(const io::Happening& happening) const;

    Document& document_;
    Live& live_;
    std::deque<Line> lines_;
    std::deque<io::Happening> waiting_;
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
