#include "app/frame/strip.h"

#include <QHBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

Strip::Strip(Workspace& workspace, NoticeBar* notice, QWidget* parent)
    : QWidget(parent), workspace_(workspace), stack_(new QStackedLayout(this)), nothing_(new QWidget) {
    setObjectName(QStringLiteral("strip"));
    setAttribute(Qt::WA_StyledBackground);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    auto* learning = new LearnBanner(workspace);
    QWidget* reach = makeReach();
    for (QWidget* page : std::initializer_list<QWidget*>{nothing_, notice, learning, reach})
        stack_->addWidget(page);
    connect(notice, &NoticeBar::said, this, [this, notice] { bring(notice, true); });
    connect(notice, &NoticeBar::dismissed, this, [this, notice] { bring(notice, false); });
    connect(&workspace.learn, &Learn::began, this, [this, learning] { bring(learning, true); });
    connect(&workspace.learn, &Learn::changed, this, [this, learning] {
        if (!workspace_.learn.isOn()) bring(learning, false);
    });
    connect(&workspace.reach, &PlayedReach::changed, this,
            [this, reach] { bring(reach, workspace_.reach.isOn()); });
}

QSize Strip::sizeHint() const {
    return {0, 2 * QFontMetrics(bodyFont()).lineSpacing() + scaled(4)};
}

void Strip::bring(QWidget* page, bool holds) {
    const bool isLast = !newest_.empty() && newest_.back() == page;
    if (isLast && holds) return;
    std::erase(newest_, page);
    if (holds) newest_.push_back(page);
    stack_->setCurrentWidget(newest_.empty() ? nothing_ : newest_.back());
    emit changed();
}

/// What is being set by playing, for as long as its key is held.
QWidget* Strip::makeReach() {
    auto* banner = new QFrame;
    banner->setObjectName(QStringLiteral("reachBanner"));
    auto* row = new QHBoxLayout(banner);
    row->setContentsMargins(scaled(12), 0, scaled(12), 0);
    auto* words = new FewLines(2, FewLines::Role::body);
    words->setCentred();
    words->setObjectName(QStringLiteral("reachGoal"));
    row->addWidget(words);
    connect(&workspace_.reach, &PlayedReach::changed, words,
            [this, words] { words->setText(workspace_.reach.says()); });
    return banner;
}

}  // namespace mellow::app
