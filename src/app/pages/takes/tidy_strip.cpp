#include "app/pages/takes/tidy_strip.h"

#include <QKeyEvent>
#include <set>
#include <utility>

#include "app/ground/theme.h"
#include "app/widgets/manners.h"

namespace mellow::app {

TidyStrip::TidyStrip(TakeWork& work, TakeView& view, QWidget* parent)
    : QWidget(parent),
      work_(work),
      view_(view),
      title_(new QLabel),
      numbers_(new QHBoxLayout),
      said_(new ElidedLabel),
      make_(new QPushButton(tr("Make it"))) {
    setObjectName(QStringLiteral("tidyStrip"));
    closeOnEscape(*this, [this] { close(); });
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(14), 0, scaled(14), 0);
    row->setSpacing(scaled(8));
    title_->setProperty("role", "title");
    row->addWidget(title_);
    numbers_->setSpacing(scaled(6));
    row->addLayout(numbers_);
    said_->setObjectName(QStringLiteral("tidySaid"));
    said_->setProperty("role", "help");
    row->addWidget(said_, 1);
    make_->setObjectName(QStringLiteral("tidyMake"));
    make_->setToolTip(tr("Change the selection as the faint line shows (Ctrl+Enter)"));
    row->addWidget(make_);
    auto* leave = new QPushButton(tr("Leave it"));
    leave->setObjectName(QStringLiteral("tidyLeave"));
    leave->setToolTip(tr("Change nothing"));
    row->addWidget(leave);
    connect(make_, &QPushButton::clicked, this, &TidyStrip::make);
    connect(leave, &QPushButton::clicked, this, &TidyStrip::close);
    connect(&work_.choice, &TakeChoice::choiceChanged, this, &TidyStrip::refresh);
    connect(&work_.choice, &TakeChoice::takeChanged, this, &TidyStrip::refresh);
    hide();
}

void TidyStrip::open(const TidyOp& op) {
    if (op_ == &op) return close();
    close();
    op_ = &op;
    title_->setText(op.title());
    title_->setToolTip(op.tip());
    const auto numbers = op.numbers();
    std::vector<double>& values = remembered_[op.id];
    for (std::size_t i = 0; i < numbers.size(); ++i) {
        const TidyNumber& number = numbers[i];
        if (values.size() <= i) values.push_back(number.start);
        auto* label = new QLabel(number.label);
        auto* field = new NumberField;
        field->setObjectName(QStringLiteral("tidy%1").arg(i));
        field->setAccessibleName(number.label);
        field->setUnit(number.unit);
        field->setBounds(number.low, number.high, number.step);
        field->setWhole(number.whole);
        field->setValue(values[i]);
        field->setFixedWidth(scaled(76));
        numbers_->addWidget(label);
        numbers_->addWidget(field);
        labels_.push_back(label);
        fields_.push_back(field);
        connect(field, &NumberField::entered, this, [this, i](double value) {
            remembered_[op_->id][i] = value;
            refresh();
        });
    }
    show();
    choseAll_ = work_.choice.chosenLanes().empty();
    if (choseAll_) chooseAllLanes();
    refresh();
    if (!fields_.empty()) fields_.front()->setFocus(Qt::OtherFocusReason);
    emit opened(QString::fromLatin1(op.id));
}

/// Who has chosen nothing means all that the hands did.
void TidyStrip::chooseAllLanes() {
    std::set<Subject> all;
    for (const TakeLane& lane : work_.choice.lanes()->lanes) all.insert(lane.subject);
    work_.choice.chooseLanes(all);
}

void TidyStrip::close() {
    if (op_ == nullptr) return;
    op_ = nullptr;
    if (std::exchange(choseAll_, false)) work_.choice.chooseLanes({});
    for (QWidget* field : fields_) field->deleteLater();
    for (QWidget* label : labels_) label->deleteLater();
    fields_.clear();
    labels_.clear();
    hide();
    view_.hands().preview({});
    view_.setFocus(Qt::OtherFocusReason);
    emit opened({});
}

std::vector<LaneEdit> TidyStrip::edits() const {
    std::vector<LaneEdit> all;
    if (op_ == nullptr) return all;
    const auto& values = remembered_.at(op_->id);
    for (const LaneStretch& stretch : work_.choice.stretches()) {
        if (stretch.points.empty()) continue;
        for (LaneEdit& edit : op_->edits(*work_.choice.take(), stretch, values))
            all.push_back(std::move(edit));
    }
    return all;
}

/// What would become of it, in numbers.
void TidyStrip::refresh() {
    if (op_ == nullptr) return;
    std::size_t before = 0;
    for (const LaneStretch& stretch : work_.choice.stretches()) before += stretch.points.size();
    const auto made = edits();
    std::size_t after = 0;
    for (const LaneEdit& edit : made) after += edit.points.size();
    view_.hands().preview(made);
    make_->setEnabled(!made.empty());
    if (work_.choice.chosenLanes().empty()) {
        said_->setText(tr("Choose lanes of the hands: drag over them, or click their names."));
    } else if (made.empty()) {
        said_->setText(tr("Nothing was played there."));
    } else if (after <= before) {
        said_->setText(tr("%1 of %2 events go, %3 stay.").arg(before - after).arg(before).arg(after));
    } else {
        said_->setText(tr("%1 events become %2.").arg(before).arg(after));
    }
}

void TidyStrip::make() {
    if (op_ == nullptr) return;
    const auto made = edits();
    const QString text = op_->title();
    close();
    if (!made.empty()) work_.changing.edit(text, made);
}

void TidyStrip::keyPressEvent(QKeyEvent* event) {
    const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    if (enter && (event->modifiers() & Qt::ControlModifier) != 0) return make();
    if (event->key() == Qt::Key_Escape) return close();
    if (enter) return;
    QWidget::keyPressEvent(event);
}

}  // namespace mellow::app
