// What a controller with motors or lights is told: a row for each control, with where it stands, or why what
// other controls do cannot be told to it.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QWidget>
#include <optional>
#include <vector>

#include "app/acts/workspace.h"
#include "app/widgets/moving_text.h"
#include "core/engine/program/feedback.h"

namespace mellow::app {

class FeedbackRows : public QWidget {
    Q_OBJECT

 public:
    /// controller: its place in the ensemble, whose controls stay what they are as long as this lives.
    FeedbackRows(const Workspace& workspace, std::uint32_t controller, QWidget* parent = nullptr);

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void follow();

    struct Row {
        MovingText* stands;
        QLabel* note;
        std::optional<engine::NoWayBack> reason;  ///< that the note gives
    };
    const Live& live_;
    std::uint32_t controller_;
    std::vector<Row> rows_;  ///< by the controller's controls
};

/// A choice of the port by which a controller, by its place, is told where its controls stand.
QComboBox* makeFeedbackChoice(const Workspace& workspace, std::size_t controller);

/// Why what other controls do to its target cannot be told to a control; empty where it can.
QString sentenceOf(engine::NoWayBack reason);

}  // namespace mellow::app
