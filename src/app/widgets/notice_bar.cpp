// Hidden it takes no room; what it offered is forgotten once it has been done.
#include "app/widgets/notice_bar.h"

#include <QHBoxLayout>
#include <utility>

#include "app/theme/theme.h"

namespace mellow::app {

NoticeBar::NoticeBar(QWidget* parent) : QFrame(parent), text_(new QLabel), act_(new QPushButton) {
    setObjectName(QStringLiteral("notice"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(14), scaled(6), scaled(8), scaled(6));
    text_->setWordWrap(true);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    act_->setObjectName(QStringLiteral("noticeAction"));
    auto* close = new QPushButton(tr("Dismiss"));
    row->addWidget(text_, 1);
    row->addWidget(act_);
    row->addWidget(close);
    connect(close, &QPushButton::clicked, this, &QWidget::hide);
    connect(act_, &QPushButton::clicked, this, [this] {
        hide();
        if (const auto act = std::exchange(action_, {})) act();
    });
    hide();
}

void NoticeBar::say(const QString& sentence, const QString& action, std::function<void()> act) {
    text_->setText(sentence);
    act_->setText(action);
    act_->setVisible(!action.isEmpty());
    action_ = std::move(act);
    show();
}

}  // namespace mellow::app
