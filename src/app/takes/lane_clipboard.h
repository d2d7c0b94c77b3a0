// Copying what lanes do, to be put into lanes elsewhere; and taking it out. What cannot be is said in a
// sentence, empty where it was done.
#pragma once

#include <QCoreApplication>
#include <utility>
#include <vector>

#include "app/takes/take_work.h"

namespace mellow::app {

class LaneClipboard {
    Q_DECLARE_TR_FUNCTIONS(TakesPage)

 public:
    explicit LaneClipboard(TakeWork& work) : work_(work) {}

    /// Copies the selection of the chosen lanes.
    QString copy();
    /// Puts it at the playhead, into the chosen lanes: one lane goes into every lane that is chosen; several
    /// go into those of the same control, or in their order.
    QString paste();
    /// Removes the chosen notes, or else the selection of the chosen lanes.
    QString remove();

 private:
    /// Which of the copied lanes goes into the i-th of the chosen; their number where none does.
    [[nodiscard]] std::size_t sourceFor(const Subject& subject, std::size_t i) const;

    TakeWork& work_;
    std::vector<std::pair<Subject, std::vector<LanePoint>>> lanes_;
    std::int64_t length_ = 0;
};

}  // namespace mellow::app
