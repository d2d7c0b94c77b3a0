// What it offered is forgotten once it has been done.
#include "app/widgets/notice_bar.h"

#include <QHBoxLayout>
#include <QLabel>
#include <utility>

#include "app/ground/theme.h"
#include "app/widgets/popover.h"

namespace mellow::app {

NoticeBar::NoticeBar(QWidget* parent)
    : QFrame(parent), text_(new FewLines(2, FewLines::Role::body)), act_(new QPushButton) {
    setObjectName(QStringLiteral("notice"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(12), 0, scaled(6), 0);
    row->setSpacing(scaled(6));
    act_->setObjectName(QStringLiteral("noticeAction"));
    act_->setProperty("role", "compact");
    auto* close = new QPushButton(tr("Dismiss"));
    close->setObjectName(QStringLiteral("noticeDismiss"));
    close->setProperty("role", "compact");
    text_->setCentred();
    text_->setObjectName(QStringLiteral("noticeText"));
    text_->setCursor(Qt::PointingHandCursor);
    row->addWidget(text_, 1);
    row->addWidget(act_);
    row->addWidget(close);
    connect(text_, &FewLines::clicked, this, &NoticeBar::showAll);
    connect(close, &QPushButton::clicked, this, &NoticeBar::dismiss);
    connect(act_, &QPushButton::clicked, this, [this] {
        const auto act = std::exchange(action_, {});
        dismiss();
        if (act) act();
    });
}

void NoticeBar::say(const QString& sentence, const QString& action, std::function<void()> act) {
    text_->setText(sentence);
    act_->setText(action);
    act_->setVisible(!action.isEmpty());
    action_ = std::move(act);
    isOn_ = true;
    isHint_ = false;
    emit said();
}

void NoticeBar::hint(const QString& sentence) {
    say(sentence);
    isHint_ = true;
}

void NoticeBar::dropHint() {
    if (isOn_ && isHint_) dismiss();
}

void NoticeBar::dismiss() {
    isOn_ = false;
    emit dismissed();
}

/// The whole sentence, to be read and copied.
void NoticeBar::showAll() {
    constexpr int wide = 420;
    auto* all = new Popover(this);
    auto* words = new QLabel(text_->text());
    words->setTextFormat(Qt::PlainText);
    words->setWordWrap(true);
    words->setFixedWidth(scaled(wide));
    words->setTextInteractionFlags(Qt::TextSelectableByMouse);
    all->column()->addWidget(words);
    all->openAt(*text_, text_->rect());
}

}  // namespace mellow::app
