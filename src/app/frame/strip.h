// The strip beside the menus: what is told, learned or set by playing lies here, at a place that is always
// there. What appears by itself moves nothing that is under the hand.
//
// The newest has the place; when it goes, what was there before it is seen again, as long as it still holds.
// While a page has the whole screen, the strip lies over its upper edge.
#pragma once

#include <QLabel>
#include <QStackedLayout>

#include "app/frame/learn_banner.h"
#include "app/widgets/notice_bar.h"

namespace mellow::app {

class Strip : public QWidget {
    Q_OBJECT

 public:
    Strip(Workspace& workspace, NoticeBar* notice, QWidget* parent = nullptr);

    /// How high it is, which depends on the fonts alone.
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override { return {0, sizeHint().height()}; }
    [[nodiscard]] bool saysNothing() const { return stack_->currentWidget() == nothing_; }

 signals:
    /// There is something to be seen now, or nothing any more.
    void changed();

 private:
    void bring(QWidget* page, bool holds);
    QWidget* makeReach();

    Workspace& workspace_;
    QStackedLayout* stack_;
    QWidget* nothing_;
    std::vector<QWidget*> newest_;  ///< what holds, the newest last
};

}  // namespace mellow::app
