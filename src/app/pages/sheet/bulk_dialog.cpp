// The proposal is made anew a moment after an answer changed, so that typing is never slowed by it.
#include "app/pages/sheet/bulk_dialog.h"

#include <QDialogButtonBox>
#include <QLabel>
#include <QListWidget>
#include <QVBoxLayout>
#include <memory>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

namespace {
constexpr int settleMs = 60;
}  // namespace

BulkDialog::BulkDialog(Document& document, const BulkKind& kind, std::vector<AssignmentId> rows,
                       QWidget* window)
    : QDialog(window),
      document_(document),
      rows_(std::move(rows)),
      acts_(kind.acts(document.ensemble(), rows_)),
      which_(new QComboBox),
      form_(new QFormLayout),
      view_(new ProposalView),
      make_(new QPushButton(tr("Make it"))) {
    setObjectName(QStringLiteral("bulkDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(
        tr("%1: %n row(s)", nullptr, static_cast<int>(rows_.size())).arg(kind.title().remove(QChar(0x2026))));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    which_->setObjectName(QStringLiteral("bulkWhich"));
    which_->setAccessibleName(tr("How"));
    for (const BulkAct& act : acts_) which_->addItem(act.title);
    // Where there is one way only there is nothing to choose.
    if (acts_.size() > 1) {
        column->addWidget(which_);
    } else {
        which_->setParent(this);
        which_->hide();
    }
    form_->setHorizontalSpacing(scaled(12));
    column->addLayout(form_);
    column->addWidget(view_, 1);
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(make_, QDialogButtonBox::AcceptRole);
    make_->setObjectName(QStringLiteral("bulkMake"));
    make_->setDefault(true);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &BulkDialog::make);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(which_, &QComboBox::currentIndexChanged, this, &BulkDialog::buildAct);
    settle_.setSingleShot(true);
    settle_.setInterval(settleMs);
    connect(&settle_, &QTimer::timeout, this, &BulkDialog::propose);
    connect(&document_, &Document::changed, this, &BulkDialog::propose);
    resize(scaled(720), scaled(460));
    buildAct();
}

void BulkDialog::chooseAct(int act) {
    which_->setCurrentIndex(act);
}

void BulkDialog::buildAct() {
    while (form_->rowCount() > 0) form_->removeRow(0);
    fields_.clear();
    const BulkAct& act = acts_.at(static_cast<std::size_t>(std::max(0, which_->currentIndex())));
    for (const BulkAsk& ask : act.asks) {
        QWidget* field = buildAsk(ask, static_cast<int>(fields_.size()));
        field->setAccessibleName(ask.label);
        fields_.push_back(field);
        form_->addRow(ask.label, field);
    }
    if (!fields_.empty()) fields_.front()->setFocus(Qt::OtherFocusReason);
    propose();
}

QWidget* BulkDialog::buildAsk(const BulkAsk& ask, int place) {
    const auto later = [this] { settle_.start(); };
    const QString name = QStringLiteral("bulkAsk%1").arg(place);
    switch (ask.type) {
        case BulkAsk::Type::number: {
            auto* field = new NumberField;
            field->setObjectName(name);
            field->setUnit(ask.unit);
            field->setBounds(ask.low, ask.high, ask.step);
            field->setWhole(ask.whole);
            field->setValue(ask.start);
            connect(field, &NumberField::entered, this, later);
            connect(field, &NumberField::textEdited, this, later);
            return field;
        }
        case BulkAsk::Type::text: {
            auto* field = new QLineEdit(ask.text);
            field->setObjectName(name);
            connect(field, &QLineEdit::textChanged, this, later);
            return field;
        }
        case BulkAsk::Type::choice: {
            auto* field = new QComboBox;
            field->setObjectName(name);
            field->addItems(ask.choices);
            field->setCurrentIndex(ask.chosen);
            connect(field, &QComboBox::currentIndexChanged, this, later);
            return field;
        }
        case BulkAsk::Type::several:
            break;
    }
    auto* list = new QListWidget;
    list->setObjectName(name);
    list->setMaximumHeight(scaled(130));
    for (const QString& choice : ask.choices) {
        auto* item = new QListWidgetItem(choice, list);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Unchecked);
    }
    connect(list, &QListWidget::itemChanged, this, later);
    return list;
}

QVariant BulkDialog::answerOf(const BulkAsk& ask, const QWidget& field) const {
    if (ask.type == BulkAsk::Type::number) {
        const auto& number = static_cast<const NumberField&>(field);
        return std::clamp(number.typed().value_or(number.value()), ask.low, ask.high);
    }
    if (ask.type == BulkAsk::Type::text) return static_cast<const QLineEdit&>(field).text();
    if (ask.type == BulkAsk::Type::choice) return static_cast<const QComboBox&>(field).currentIndex();
    QVariantList ticked;
    const auto& list = static_cast<const QListWidget&>(field);
    for (int i = 0; i < list.count(); ++i) {
        if (list.item(i)->checkState() == Qt::Checked) ticked << i;
    }
    return ticked;
}

void BulkDialog::propose() {
    settle_.stop();
    proposed_.reset();
    const BulkAct& act = acts_.at(static_cast<std::size_t>(std::max(0, which_->currentIndex())));
    QVariantList answers;
    for (std::size_t i = 0; i < fields_.size(); ++i) answers << answerOf(act.asks[i], *fields_[i]);
    const auto bulk = act.make(answers);
    if (!bulk) {
        view_->show(tr("Answer what is asked above, and see here what would change."));
        make_->setEnabled(false);
        return;
    }
    of_ = document_.shared();
    name_ = toQt(bulk->name);
    proposed_ = sheet::proposalOf(*of_, rows_, *bulk);
    view_->show(*proposed_);
    make_->setEnabled(proposed_->changed > 0 && !document_.isReadOnly());
}

/// An answer that was given within the last moment, or an edit that came between, counts.
void BulkDialog::make() {
    if (settle_.isActive() || of_ != document_.shared()) propose();
    if (!proposed_ || proposed_->changed == 0) return;
    const Ensemble after = proposed_->after;
    disconnect(&document_, nullptr, this, nullptr);
    document_.edit(name_, [&after](Ensemble& ensemble) { ensemble = after; });
    accept();
}

}  // namespace mellow::app
