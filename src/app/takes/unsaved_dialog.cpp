// A row keeps the path of its file. Clearing goes by the wastebasket, as everywhere; what another window that
// was not saved either still plays can be had back from there.
#include "app/takes/unsaved_dialog.h"

#include <QDateTime>
#include <QDialogButtonBox>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QVBoxLayout>
#include <set>

#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/wastebasket.h"
#include "app/ground/words.h"
#include "app/takes/take_store.h"
#include "core/files/files.h"
#include "core/takes/take_file.h"

namespace mellow::app {

namespace {

enum Column { recorded, length, events, file, columns };

Result<TakeReading> readingOf(const QString& path) {
    return doneAside({UnsavedDialog::tr("Reading recordings")}, [&path]() -> Result<TakeReading> {
        const auto bytes = files::readFile(QFile::encodeName(path).toStdString());
        if (!bytes) return bytes.problem();
        return readTake(*bytes, {});
    });
}

}  // namespace

UnsavedDialog::UnsavedDialog(Document& document, TakeWork& takes, QWidget* parent)
    : QDialog(parent), document_(document), takes_(takes), list_(new QTreeWidget) {
    setWindowTitle(tr("Recordings never saved"));
    resize(scaled(620), scaled(360));
    auto* says =
        new QLabel(tr("Played into ensembles that were closed without being saved. Take one in, or clear "
                      "it away; what is cleared goes to the wastebasket."));
    says->setProperty("role", "help");
    says->setWordWrap(true);
    list_->setObjectName(QStringLiteral("neverSaved"));
    list_->setAccessibleName(windowTitle());
    list_->setColumnCount(columns);
    list_->setHeaderLabels({tr("Recorded"), tr("Length"), tr("Events"), tr("File")});
    list_->setRootIsDecorated(false);
    list_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    bring_ = buttons->addButton(tr("Take in"), QDialogButtonBox::ActionRole);
    bring_->setObjectName(QStringLiteral("takeIn"));
    bring_->setToolTip(tr("As takes of the ensemble that is open"));
    clear_ = buttons->addButton(tr("Clear away"), QDialogButtonBox::ActionRole);
    clear_->setObjectName(QStringLiteral("clearAway"));
    auto* column = new QVBoxLayout(this);
    column->addWidget(says);
    column->addWidget(list_, 1);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(bring_, &QPushButton::clicked, this, &UnsavedDialog::bringIn);
    connect(clear_, &QPushButton::clicked, this, &UnsavedDialog::clearAway);
    connect(list_, &QTreeWidget::itemSelectionChanged, this, &UnsavedDialog::follow);
    fill();
}

/// Files of the folder that belong to the ensemble that is open.
std::set<std::string> UnsavedDialog::named() const {
    std::set<std::string> names;
    if (!document_.path().isEmpty()) return names;
    document_.forEachState([&names](const Ensemble& ensemble) {
        for (const KeptTake& kept : ensemble.takes) names.insert(kept.file);
    });
    return names;
}

void UnsavedDialog::fill() {
    const std::set<std::string> ours = named();
    list_->clear();
    const QDir folder(QFile::decodeName(TakeStore::waitingFolder().c_str()));
    for (const QFileInfo& info : folder.entryInfoList({QStringLiteral("*.mid")}, QDir::Files, QDir::Time)) {
        if (ours.contains(info.fileName().toStdString())) continue;
        auto* row = new QTreeWidgetItem(list_);
        row->setText(recorded, QLocale().toString(info.lastModified(), QLocale::ShortFormat));
        row->setText(file, info.fileName());
        row->setData(file, Qt::UserRole, info.filePath());
        row->setToolTip(file, info.filePath());
        const auto reading = readingOf(info.filePath());
        if (reading) {
            const std::int64_t seconds = reading->take.length / 1'000'000;
            row->setText(
                length, QStringLiteral("%1:%2").arg(seconds / 60).arg(seconds % 60, 2, 10, QLatin1Char('0')));
            row->setText(events, QLocale().toString(static_cast<qlonglong>(reading->take.events.size())));
        } else {
            row->setText(length, tr("cannot be read"));
            row->setToolTip(length, toQt(reading.problem().sentence()));
        }
    }
    if (list_->topLevelItemCount() == 0) {
        auto* none = new QTreeWidgetItem(list_, {tr("There are none.")});
        none->setFlags(Qt::NoItemFlags);
    }
    for (int i = 0; i < file; ++i) list_->resizeColumnToContents(i);
    list_->header()->setStretchLastSection(true);
    follow();
}

void UnsavedDialog::follow() {
    const bool any = !list_->selectedItems().isEmpty();
    clear_->setEnabled(any);
    bring_->setEnabled(any && !document_.isReadOnly());
}

void UnsavedDialog::bringIn() {
    for (const QTreeWidgetItem* row : list_->selectedItems()) {
        const QFileInfo info(row->data(file, Qt::UserRole).toString());
        auto reading = readingOf(info.filePath());
        if (!reading) continue;
        const bool isIn =
            takes_.changing.add(tr("Take in a recording"), info.completeBaseName(), std::move(reading->take),
                                0, info.lastModified().toUTC().toString(Qt::ISODate));
        // The ensemble has it in a file of its own, unless that is this one.
        if (isIn && !named().contains(info.fileName().toStdString())) toWastebasket(info.filePath());
    }
    fill();
}

void UnsavedDialog::clearAway() {
    for (const QTreeWidgetItem* row : list_->selectedItems())
        toWastebasket(row->data(file, Qt::UserRole).toString());
    fill();
}

}  // namespace mellow::app
