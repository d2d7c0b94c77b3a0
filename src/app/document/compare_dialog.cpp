#include "app/document/compare_dialog.h"

#include <QDateTime>
#include <QDialogButtonBox>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QLocale>
#include <QVBoxLayout>
#include <set>

#include "app/document/kept_beside.h"
#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/balance/curve_folder.h"
#include "core/files/sidecars.h"
#include "core/takes/take_folder.h"

namespace mellow::app {

namespace {

/// A choice that is no file yet.
const QString another = QStringLiteral("?");

/// Files that a list names now and did not before.
template<class List, class FileOf>
std::vector<files::KeptFile> newFiles(const List& before, const List& now, FileOf&& fileOf) {
    std::set<std::string> known;
    for (const auto& kept : before) known.insert(kept.file);
    std::vector<files::KeptFile> found;
    for (const auto& kept : now) {
        if (known.insert(kept.file).second) found.push_back(fileOf(kept));
    }
    return found;
}

/// To where a document's files are, or wait until it is saved.
Outcome bringAlong(const files::KeptKind& kind, const std::vector<files::KeptFile>& kept, const QString& from,
                   const QString& to) {
    const auto folder = folderNow(kind, from);
    if (!to.isEmpty()) return carryAll(kind, kept, folder, filePathOf(to));
    for (const files::KeptFile& each : kept) {
        const auto source = files::keptPath(kind, folder, each);
        std::error_code error;
        if (!source || !std::filesystem::exists(*source, error)) continue;
        if (Outcome carried = files::carryKept(kind, folder, waitingFolder(kind), each); !carried)
            return carried;
    }
    return Done{};
}

}  // namespace

CompareDialog::CompareDialog(Document& document, QWidget* parent)
    : QDialog(parent),
      document_(document),
      with_(new QComboBox),
      said_(new QLabel),
      list_(new TickList(QStringLiteral("compareList"), tr("Differences"))) {
    setObjectName(QStringLiteral("compareDialog"));
    setWindowTitle(tr("Compare"));
    resize(scaled(680), scaled(480));
    askPath_ = [](QWidget* window) {
        return QFileDialog::getOpenFileName(window, tr("Compare with"), {},
                                            tr("Ensembles (*.lever);;All files (*)"));
    };
    with_->setObjectName(QStringLiteral("compareWith"));
    with_->setAccessibleName(tr("Compare this ensemble with"));
    said_->setObjectName(QStringLiteral("compareSaid"));
    said_->setWordWrap(true);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    take_ = buttons->addButton(tr("Take over what is ticked"), QDialogButtonBox::ActionRole);
    take_->setObjectName(QStringLiteral("compareTake"));
    auto* all = buttons->addButton(tr("Tick all"), QDialogButtonBox::ActionRole);
    all->setObjectName(QStringLiteral("compareAll"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(8));
    column->addWidget(with_);
    column->addWidget(said_);
    column->addWidget(list_, 1);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(take_, &QPushButton::clicked, this, &CompareDialog::takeOver);
    connect(all, &QPushButton::clicked, list_, &TickList::tickAll);
    connect(with_, &QComboBox::activated, this, &CompareDialog::choose);
    connect(list_, &TickList::tickedChanged, this,
            [this] { take_->setEnabled(!list_->ticked().empty() && !document_.isReadOnly()); });
    fillChoices();
    choose(0);
}

void CompareDialog::fillChoices() {
    if (!document_.path().isEmpty()) {
        with_->addItem(tr("What is on the disk: %1").arg(QFileInfo(document_.path()).fileName()),
                       document_.path());
        const auto versions = doneUnlessLeft({tr("Looking for earlier versions")}, [path = document_.path()] {
            return files::versions(QFile::encodeName(path).toStdString());
        });
        if (versions) {
            for (const files::Version& version : *versions) {
                const QDateTime when = QDateTime::fromMSecsSinceEpoch(version.time);
                with_->addItem(tr("As it was saved on %1")
                                   .arg(QLocale().toString(when, QStringLiteral("ddd d MMM, HH:mm:ss"))),
                               QFile::decodeName(version.path.c_str()));
            }
        }
    }
    with_->addItem(tr("Another ensemble…"), another);
}

void CompareDialog::choose(int choice) {
    QString path = with_->itemData(choice).toString();
    if (path != another) return compareWith(path);
    // What was never saved has nothing to be compared with until a person says what.
    if (!isVisible()) {
        said_->setText(tr("This ensemble was never saved. Choose another one to compare it with."));
        take_->setEnabled(false);
        return;
    }
    path = askPath_(this);
    if (!path.isEmpty()) compareWith(path);
}

void CompareDialog::compareWith(const QString& path) {
    other_.reset();
    otherPath_ = path;
    auto read = doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())},
                               [path] { return Document::read(path); });
    if (!read) {
        said_->setText(tr("Not read: it was left."));
    } else if (!*read) {
        said_->setText(toQt(read->problem().sentence()) + QLatin1Char('.'));
    } else {
        other_ = std::move(**read);
    }
    if (with_->findData(path) < 0) with_->insertItem(with_->count() - 1, QFileInfo(path).fileName(), path);
    with_->setCurrentIndex(with_->findData(path));
    show();
}

void CompareDialog::show() {
    list_->clear();
    differences_.clear();
    take_->setEnabled(false);
    if (!other_) return;
    differences_ = compare::differences(document_.ensemble(), *other_);
    std::vector<TickList::Line> lines;
    for (const compare::Difference& each : differences_)
        lines.push_back({nameToShow(each.group), toQt(each.words)});
    list_->show(lines);
    said_->setText(differences_.empty() ? tr("It is the same as this ensemble.")
                                        : tr("%n difference(s): what it says here, and there.", nullptr,
                                             static_cast<int>(differences_.size())));
}

void CompareDialog::takeOver() {
    const std::vector<std::size_t> places = list_->ticked();
    const std::shared_ptr<const Ensemble> before = document_.shared();
    document_.edit(tr("Take over %n difference(s)", nullptr, static_cast<int>(places.size())),
                   [&](Ensemble& ensemble) {
                       for (const std::size_t place : places) differences_[place].take(ensemble);
                   });
    const Outcome brought = bringFiles(*before);
    show();
    if (!brought) said_->setText(toQt(brought.problem().sentence()) + QLatin1Char('.'));
}

/// Takes and measurements that were taken over lie in files beside the other ensemble, and come along.
Outcome CompareDialog::bringFiles(const Ensemble& before) {
    const Ensemble& now = document_.ensemble();
    const auto takes = newFiles(before.takes, now.takes, [](const KeptTake& kept) { return fileOf(kept); });
    const auto curves = newFiles(before.measurements, now.measurements, balance::fileOf);
    if (takes.empty() && curves.empty()) return Done{};
    return doneAside({tr("Bringing takes and measurements along")},
                     [&, from = otherPath_, to = document_.path()]() -> Outcome {
                         const Outcome brought = bringAlong(takeKind, takes, from, to);
                         return brought ? bringAlong(balance::measurements, curves, from, to) : brought;
                     });
}

}  // namespace mellow::app
