// A control that is chosen by moving it, or from a list.
#pragma once

#include <QComboBox>
#include <QTimer>
#include <QWidget>
#include <optional>

#include "app/acts/workspace.h"
#include "core/learning/learner.h"

namespace mellow::app {

class SourcePick : public QWidget {
    Q_OBJECT

 public:
    SourcePick(Workspace& workspace, const QString& name, QWidget* parent = nullptr);

    [[nodiscard]] const Source& source() const { return sources_[static_cast<std::size_t>(shown())]; }
    void set(const Source& source);
    /// While it listens, whatever is moved is taken, besides what another has taken, which may still be
    /// moving. One of a dialog does at a time.
    void listen(bool on, std::optional<Source> besides = {});

 signals:
    void changed();
    /// Something was moved and taken.
    void heard();

 private:
    [[nodiscard]] int shown() const { return std::max(0, box_->currentIndex()); }
    void consider();

    Workspace& workspace_;
    QComboBox* box_;
    QTimer considering_;
    learning::Learner learner_;
    std::vector<Source> sources_;
    std::optional<Source> besides_;
};

}  // namespace mellow::app
