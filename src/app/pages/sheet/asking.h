// What does this do? While it is asked, whatever is moved, touched or pointed at is followed: to all that it
// leads to, and back to where it comes from.
//
// It only listens: nothing is learned from it and nothing is edited.
#pragma once

#include <QEvent>
#include <optional>
#include <set>

#include "app/acts/workspace.h"
#include "core/sheet/leading.h"
#include "core/sheet/proposal.h"

namespace mellow::app {

class Asking : public QObject {
    Q_OBJECT

 public:
    explicit Asking(Workspace& workspace, QObject* parent = nullptr);

    /// By its key, which then stays down, it is on until the key comes up.
    void setOn(bool on);
    [[nodiscard]] bool isOn() const { return on_; }
    /// Asks of a row: what it leads to, and what moves it.
    void askRow(const AssignmentId& row);
    /// What is asked of has an answer.
    [[nodiscard]] bool hasAsked() const { return !about_.isEmpty(); }
    /// Rows that belong to it.
    [[nodiscard]] const std::set<AssignmentId>& rows() const { return *rows_; }
    [[nodiscard]] const std::shared_ptr<const std::set<AssignmentId>>& sharedRows() const { return rows_; }
    /// The one that is nearest to what is asked of; naming nothing: there is none.
    [[nodiscard]] AssignmentId nearest() const {
        return !down_.empty() ? down_.front().row : up_.empty() ? AssignmentId{} : up_.front().row;
    }
    /// What is asked of, and how much belongs to it: "Mod wheel: 9 rows".
    [[nodiscard]] QString about() const;
    /// The way through a row with what stands at each joint: "Mod wheel 107 → Swell 84 % → Expression 107".
    [[nodiscard]] QString wayOf(const AssignmentId& row) const;

 signals:
    /// Another thing is asked of, or its rows are others.
    void changed();

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    void followKey(QEvent::Type type, quint64 when);
    void hear(const io::Happening& happening);
    void hearOsc(const io::OscHappening& happening);
    void follow();
    void answer();
    void take(std::vector<sheet::Reached> down, std::vector<sheet::Reached> up);
    [[nodiscard]] std::vector<AssignmentId> joints(const AssignmentId& row) const;
    [[nodiscard]] QString sourceWords(const Assignment& row) const;

    Workspace& workspace_;
    bool on_ = false;
    using Pressed = std::optional<quint64>;
    Pressed keyIsDown_;   ///< since when, in milliseconds of the system that says so
    Pressed keyHoldsIt_;  ///< the same, where that press has switched it on
    std::variant<std::monostate, sheet::Cause, AssignmentId, std::string> asked_;
    QString about_;
    std::shared_ptr<const std::set<AssignmentId>> rows_ = std::make_shared<std::set<AssignmentId>>();
    std::vector<sheet::Reached> down_;
    std::vector<sheet::Reached> up_;
};

}  // namespace mellow::app
