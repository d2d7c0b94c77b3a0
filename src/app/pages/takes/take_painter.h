// The picture of a take: lanes, ruler and band as they lie, and what is laid over them.
#pragma once

#include <QCoreApplication>
#include <memory>
#include <vector>

#include "app/pages/takes/take_hands.h"
#include "app/pages/takes/take_layout.h"
#include "app/takes/take_work.h"

class QPainter;

namespace mellow::app {

/// What came of a take by the chains as they were.
struct ResultsThen {
    std::shared_ptr<const Results> results;  ///< nullptr: nothing is compared
    std::vector<Peaks> peaks;                ///< by its lanes
};

class TakePainter {
    Q_DECLARE_TR_FUNCTIONS(TakeView)

 public:
    TakePainter(QPainter& painter, const TakeLayout& layout, const TakeWork& work, const TakeHands& hands,
                const ResultsThen& then)
        : painter_(painter), layout_(layout), work_(work), hands_(hands), then_(then) {}

    /// What stands until something is edited or scrolled.
    void lanes();
    /// What moves over it: the selection, what is previewed, values, the playhead, what is under the pointer.
    void over();

 private:
    void row(const TakeRow& row);
    void gutter(const TakeRow& row, std::int64_t time);
    void ruler();
    void band();
    void selection();
    void preview();
    void playhead();
    void hover();
    void more();
    void nothingBelow();
    void empty();

    QPainter& painter_;
    const TakeLayout& layout_;
    const TakeWork& work_;
    const TakeHands& hands_;
    const ResultsThen& then_;
};

}  // namespace mellow::app
