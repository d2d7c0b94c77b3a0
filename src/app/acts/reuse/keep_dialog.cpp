// The dialog stays until the part is kept, so that what was typed is not lost where the folder is full.
#include "app/acts/reuse/keep_dialog.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/document/library_folder.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

KeepDialog::KeepDialog(mellow::Part part, QWidget* window)
    : QDialog(window),
      part_(std::move(part)),
      name_(new QLineEdit(toQt(part_.name))),
      about_(new QLineEdit(toQt(part_.about))),
      trouble_(new QLabel),
      replace_(new QCheckBox(tr("Replace the one that is there"))) {
    setObjectName(QStringLiteral("keepDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("Keep in the library"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    column->addWidget(new QLabel(toQt(library::contents(part_))));
    auto* form = new QFormLayout;
    name_->setObjectName(QStringLiteral("keepName"));
    about_->setObjectName(QStringLiteral("keepAbout"));
    about_->setPlaceholderText(tr("One sentence: what it is for"));
    form->addRow(tr("Name"), name_);
    form->addRow(tr("What it is for"), about_);
    column->addLayout(form);
    trouble_->setWordWrap(true);
    trouble_->setProperty("role", "trouble");
    trouble_->setObjectName(QStringLiteral("keepTrouble"));
    trouble_->hide();
    replace_->setObjectName(QStringLiteral("keepReplace"));
    replace_->hide();
    column->addWidget(trouble_);
    column->addWidget(replace_);
    column->addStretch(1);
    auto* buttons = new QDialogButtonBox;
    auto* go = buttons->addButton(tr("Keep"), QDialogButtonBox::AcceptRole);
    go->setObjectName(QStringLiteral("acceptKeep"));
    go->setDefault(true);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &KeepDialog::keep);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    resize(scaled(460), scaled(220));
    name_->selectAll();
    about_->setCursorPosition(0);
}

void KeepDialog::keep() {
    part_.name = name_->text().trimmed().toStdString();
    part_.about = about_->text().trimmed().toStdString();
    const auto kept = library::write(libraryFolder(), part_, replace_->isChecked());
    if (kept) return accept();
    trouble_->setText(toQt(kept.problem().sentence()));
    trouble_->show();
    replace_->setVisible(!part_.name.empty());
}

KeepDialog* KeepDialog::ask(QWidget* window, mellow::Part part) {
    auto* dialog = new KeepDialog(std::move(part), window);
    dialog->open();
    return dialog;
}

}  // namespace mellow::app
