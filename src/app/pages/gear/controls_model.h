// The controls of an input port, or the instruments of an output port: what the document knows of them, and
// what they just did.
#pragma once

#include <vector>

#include "app/document/document.h"
#include "app/pages/gear/port_activity.h"
#include "app/widgets/cell_model.h"

namespace mellow::app {

class ControlsModel : public CellModel {
    Q_OBJECT

 public:
    enum Column { name, message, channel, detail, travel, now, usedBy, columns };

    ControlsModel(const Document& document, const PortActivity& activity, QObject* parent = nullptr);

    void show(const PortName& port);
    void refresh();

 protected:
    [[nodiscard]] int cellRows() const override { return static_cast<int>(rows_.size()); }
    [[nodiscard]] std::vector<CellModel::Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;

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
