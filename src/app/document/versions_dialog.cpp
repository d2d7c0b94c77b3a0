// Going back is an edit like any other: one step, undone by undo, and saved when a person saves.
#include "app/document/versions_dialog.h"

#include <QDateTime>
#include <QDialogButtonBox>
#include <QFile>
#include <QHBoxLayout>
#include <QLabel>
#include <QLocale>
#include <QVBoxLayout>

#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/compare/compare.h"

namespace mellow::app {

VersionsDialog::VersionsDialog(Document& document, QWidget* parent)
    : QDialog(parent), document_(document), list_(new QListWidget), differences_(new QListWidget) {
    setWindowTitle(tr("Earlier versions"));
    resize(scaled(760), scaled(420));
    list_->setObjectName(QStringLiteral("versions"));
    differences_->setObjectName(QStringLiteral("differences"));
    differences_->setSelectionMode(QAbstractItemView::NoSelection);
    differences_->setWordWrap(true);
    auto* lists = new QHBoxLayout;
    const auto addColumn = [lists](const QString& title, QListWidget* list, int stretch) {
        auto* column = new QVBoxLayout;
        auto* label = new QLabel(title);
        label->setProperty("role", "section");
        column->addWidget(label);
        column->addWidget(list);
        lists->addLayout(column, stretch);
    };
    addColumn(tr("Saved"), list_, 3);
    addColumn(tr("What is other now"), differences_, 4);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    back_ = buttons->addButton(tr("Go back to this"), QDialogButtonBox::ActionRole);
    back_->setObjectName(QStringLiteral("goBack"));
    auto* column = new QVBoxLayout(this);
    column->addLayout(lists, 1);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(back_, &QPushButton::clicked, this, &VersionsDialog::goBack);
    connect(list_, &QListWidget::currentRowChanged, this, &VersionsDialog::show);
    fill();
}

void VersionsDialog::fill() {
    if (!document_.path().isEmpty()) {
        auto entries = doneUnlessLeft({tr("Reading earlier versions")}, [path = document_.path()] {
            std::vector<Entry> found;
            for (files::Version& version : files::versions(QFile::encodeName(path).toStdString())) {
                auto read = Document::read(QFile::decodeName(version.path.c_str()));
                found.push_back({std::move(version), read ? std::optional(std::move(*read)) : std::nullopt});
            }
            return found;
        });
        if (entries) entries_ = std::move(*entries);
    }
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        const QDateTime when = QDateTime::fromMSecsSinceEpoch(entries_[i].version.time);
        const Ensemble* next = i == 0                                 ? &document_.ensemble()
                               : entries_[i - 1].ensemble.has_value() ? &*entries_[i - 1].ensemble
                                                                      : nullptr;
        QString text = QLocale().toString(when, QStringLiteral("ddd d MMM, HH:mm:ss"));
        if (!entries_[i].ensemble) {
            text += QStringLiteral("\n") + tr("cannot be read");
        } else if (next != nullptr) {
            const std::string changed = compare::inShort(compare::differences(*entries_[i].ensemble, *next));
            text += QStringLiteral("\n") +
                    (changed.empty() ? tr("nothing changed after it") : tr("then: %1").arg(toQt(changed)));
        }
        list_->addItem(text);
    }
    back_->setEnabled(false);
    if (entries_.empty()) {
        differences_->addItem(document_.path().isEmpty()
                                  ? tr("This ensemble was never saved. From the second time on, saving keeps "
                                       "what was there before, ten times over.")
                                  : tr("Saving again will keep what is on the disk now."));
    } else {
        list_->setCurrentRow(0);
    }
}

void VersionsDialog::show(int row) {
    differences_->clear();
    const bool there = row >= 0 && row < static_cast<int>(entries_.size());
    const auto* ensemble = there ? &entries_[static_cast<std::size_t>(row)].ensemble : nullptr;
    const bool readable = ensemble != nullptr && ensemble->has_value();
    const bool differs = readable && !(**ensemble == document_.ensemble());
    back_->setEnabled(differs && !document_.isReadOnly());
    if (!readable) return;
    for (const compare::Difference& each : compare::differences(**ensemble, document_.ensemble()))
        differences_->addItem(toQt(each.group + ": " + each.words));
    if (!differs) differences_->addItem(tr("It is the same as now."));
}

void VersionsDialog::goBack() {
    const Entry& entry = entries_[static_cast<std::size_t>(list_->currentRow())];
    const QDateTime when = QDateTime::fromMSecsSinceEpoch(entry.version.time);
    document_.edit(tr("Go back to %1").arg(QLocale().toString(when, QStringLiteral("HH:mm:ss"))),
                   [&entry](Ensemble& e) { e = *entry.ensemble; });
    accept();
}

}  // namespace mellow::app
