// The controls of an input port, or the instruments of an output port: what the document knows of them, and
// what they just did.
#pragma once

#include <QAbstractTableModel>
#include <vector>

#include "app/document/document.h"
#include "app/pages/gear/port_activity.h"

namespace mellow::app {

class ControlsModel : public QAbstractTableModel {
    Q_OBJECT

 public:
    enum Column { name, message, channel, detail, travel, now, usedBy, columns };

    ControlsModel(const Document& document, const PortActivity& activity, QObject* parent = nullptr);

    void show(const PortName& port);
    void refresh();

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
    using Row = std::vector<QString>;  ///< a text a column
    [[nodiscard]] std::vector<Row> rows() const;
    [[nodiscard]] Row sentRow(const midi::HeardControl& control) const;
    [[nodiscard]] QString usersOf(const midi::HeardControl& control) const;

    const Document& document_;
    const PortActivity& activity_;
    PortName port_;
    std::vector<Row> rows_;
};

}  // namespace mellow::app
