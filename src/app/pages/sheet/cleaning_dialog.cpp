#include "app/pages/sheet/cleaning_dialog.h"

#include <QDialogButtonBox>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

CleaningDialog::CleaningDialog(Document& document, QWidget* window)
    : QDialog(window),
      document_(document),
      said_(new QLabel),
      list_(new TickList(QStringLiteral("unused"), tr("What nobody uses"))) {
    setObjectName(QStringLiteral("cleaningDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("Clean up"));
    resize(scaled(560), scaled(460));
    said_->setObjectName(QStringLiteral("cleaningSaid"));
    said_->setWordWrap(true);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    remove_ = buttons->addButton(tr("Remove what is ticked"), QDialogButtonBox::ActionRole);
    remove_->setObjectName(QStringLiteral("cleaningRemove"));
    auto* all = buttons->addButton(tr("Tick all"), QDialogButtonBox::ActionRole);
    all->setObjectName(QStringLiteral("cleaningAll"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(8));
    column->addWidget(said_);
    column->addWidget(list_, 1);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(all, &QPushButton::clicked, list_, &TickList::tickAll);
    connect(remove_, &QPushButton::clicked, this, &CleaningDialog::remove);
    connect(list_, &TickList::tickedChanged, this,
            [this] { remove_->setEnabled(!list_->ticked().empty() && !document_.isReadOnly()); });
    connect(&document_, &Document::changed, this, &CleaningDialog::show);
    show();
}

void CleaningDialog::show() {
    unused_ = sheet::unusedIn(document_.ensemble());
    std::vector<TickList::Line> lines;
    for (const sheet::Unused& each : unused_) lines.push_back({toQt(each.group), nameToShow(each.words)});
    list_->show(lines);
    remove_->setEnabled(false);
    said_->setText(unused_.empty()
                       ? tr("Everything here is used by something.")
                       : tr("%n thing(s) that nobody uses. Whatever of it goes, what is sent stays the same.",
                            nullptr, static_cast<int>(unused_.size())));
}

void CleaningDialog::remove() {
    const std::vector<std::size_t> places = list_->ticked();
    const std::vector<sheet::Unused> unused = unused_;
    document_.edit(tr("Clean up %n thing(s)", nullptr, static_cast<int>(places.size())),
                   [&](Ensemble& ensemble) {
                       for (const std::size_t place : places) unused[place].remove(ensemble);
                   });
}

}  // namespace mellow::app
