// MIDI is written at once; a sound takes a while, is told of, and can be ended.
#include "app/pages/takes/export_dialog.h"

#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLocale>
#include <QRadioButton>
#include <QVBoxLayout>

#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "core/takes/export_take.h"

namespace mellow::app {

ExportDialog::ExportDialog(Workspace& workspace, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      kinds_(new QButtonGroup(this)),
      instruments_(new QListWidget),
      selection_(new QCheckBox(tr("The selected time alone"))),
      apart_(new QCheckBox(tr("A file for each instrument"))),
      said_(new QLabel),
      progress_(new QProgressBar),
      write_(new QPushButton(tr("Write…"))),
      close_(new QPushButton(tr("Close"))) {
    setObjectName(QStringLiteral("exportDialog"));
    setWindowTitle(tr("Export a take"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(16), scaled(16), scaled(16));
    column->setSpacing(scaled(8));
    const auto kind = [&](What what, const char* name, const QString& text, const QString& about) {
        auto* button = new QRadioButton(text);
        button->setObjectName(QLatin1String(name));
        kinds_->addButton(button, static_cast<int>(what));
        column->addWidget(button);
        auto* label = new QLabel(about);
        label->setProperty("role", "caption");
        label->setIndent(scaled(22));
        column->addWidget(label);
    };
    kind(What::result, "exportResult", tr("What comes of it"),
         tr("A MIDI file with a track for each instrument, as the chains are now"));
    kind(What::hands, "exportHands", tr("The hands"),
         tr("A MIDI file with a track for each port, as they were played"));
    kind(What::sound, "exportSound", tr("How it sounds"),
         tr("A WAV or FLAC file of the practice rack, faster than it plays"));
    instruments_->setObjectName(QStringLiteral("exportInstruments"));
    instruments_->setAccessibleName(tr("Instruments"));
    for (const Instrument& instrument : std::as_const(workspace_.document.ensemble().instruments)) {
        auto* item = new QListWidgetItem(nameToShow(nameOf(instrument)), instruments_);
        item->setData(Qt::UserRole, toQt(instrument.id));
        item->setFlags(Qt::ItemIsUserCheckable | Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        item->setCheckState(Qt::Checked);
    }
    column->addWidget(instruments_, 1);
    selection_->setObjectName(QStringLiteral("exportSelection"));
    selection_->setEnabled(!workspace_.takes.choice.span().empty());
    column->addWidget(selection_);
    apart_->setObjectName(QStringLiteral("exportApart"));
    column->addWidget(apart_);
    progress_->setObjectName(QStringLiteral("exportProgress"));
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    progress_->hide();
    column->addWidget(progress_);
    said_->setObjectName(QStringLiteral("exportSaid"));
    said_->setProperty("role", "help");
    said_->setWordWrap(true);
    column->addWidget(said_);
    auto* row = new QHBoxLayout;
    row->addStretch(1);
    write_->setObjectName(QStringLiteral("exportWrite"));
    write_->setDefault(true);
    close_->setObjectName(QStringLiteral("exportClose"));
    row->addWidget(write_);
    row->addWidget(close_);
    column->addLayout(row);
    connect(write_, &QPushButton::clicked, this, &ExportDialog::write);
    connect(close_, &QPushButton::clicked, this, [this] {
        if (run_ != nullptr) return run_->cancel();
        reject();
    });
    connect(kinds_, &QButtonGroup::idToggled, this, &ExportDialog::refresh);
    askPath_ = [this](const QString& suggestion, const QString& kinds) {
        return QFileDialog::getSaveFileName(this, tr("Write"), suggestion, kinds);
    };
    choose(What::result);
    resize(scaled(460), scaled(520));
}

void ExportDialog::choose(What what) {
    kinds_->button(static_cast<int>(what))->setChecked(true);
    refresh();
}

void ExportDialog::refresh() {
    const bool busy = run_ != nullptr;
    instruments_->setEnabled(what() != What::hands && !busy);
    apart_->setEnabled(what() == What::sound && !busy);
    write_->setEnabled(!busy);
    close_->setText(busy ? tr("End it") : tr("Close"));
    progress_->setVisible(busy);
}

/// Empty: all.
std::vector<std::string> ExportDialog::instruments() const {
    std::vector<std::string> chosen;
    for (int i = 0; i < instruments_->count(); ++i) {
        const QListWidgetItem* item = instruments_->item(i);
        if (item->checkState() == Qt::Checked)
            chosen.push_back(item->data(Qt::UserRole).toString().toStdString());
    }
    if (static_cast<int>(chosen.size()) == instruments_->count()) chosen.clear();
    return chosen;
}

std::optional<TimeSpan> ExportDialog::range() const {
    if (!selection_->isChecked() || workspace_.takes.choice.span().empty()) return std::nullopt;
    return workspace_.takes.choice.span();
}

void ExportDialog::write() {
    const KeptTake* kept = workspace_.takes.choice.kept();
    if (kept == nullptr) return;
    const bool sound = what() == What::sound;
    const QString suggestion =
        toQt(nameOf(*kept)) + (sound ? QStringLiteral(".wav") : QStringLiteral(".mid"));
    const QString path = askPath_(suggestion, sound ? tr("Sound (*.wav *.flac)") : tr("MIDI files (*.mid)"));
    if (!path.isEmpty()) writeTo(path);
}

bool ExportDialog::writeTo(const QString& path) {
    bool none = what() != What::hands && instruments_->count() > 0;
    for (int i = 0; i < instruments_->count(); ++i)
        none = none && instruments_->item(i)->checkState() != Qt::Checked;
    if (none) {
        said_->setText(tr("Choose an instrument at least."));
        return false;
    }
    if (what() != What::sound) return writeMidi(path);
    if (!isMeant(path)) return false;
    bounce(path);
    return run_ != nullptr;
}

/// What would be rendered for the better part of a day, or is more than a plain WAV holds, is asked for
/// twice.
bool ExportDialog::isMeant(const QString& path) {
    constexpr double usual = 12;
    constexpr double microsecondsAnHour = 3600e6;
    const auto span = range();
    const std::int64_t length = span ? span->to - span->from : workspace_.takes.choice.stored()->length;
    const double hours = static_cast<double>(length) / microsecondsAnHour;
    const int rate = io::BounceOptions{}.sampleRate;
    const bool isLong = io::isLongWav(QFile::encodeName(path).toStdString(), length, rate);
    if ((hours <= usual && !isLong) || asked_ == path) return true;
    asked_ = path;
    constexpr double aGigabyte = 1e9;
    QString says = tr("This lasts %1 hours.").arg(QLocale().toString(hours, 'f', 1));
    if (isLong)
        says += QLatin1Char(' ') +
                tr("It makes %1 GB, and is written as RF64, which not every program reads; FLAC is smaller.")
                    .arg(QLocale().toString(io::bytesOfSound(length, rate) / aGigabyte, 'f', 1));
    says += QLatin1Char(' ') + tr("Press Write again to render all of it, or choose a part of it.");
    said_->setText(says);
    return false;
}

bool ExportDialog::writeMidi(const QString& path) {
    const KeptTake* kept = workspace_.takes.choice.kept();
    if (kept == nullptr) return false;
    const auto fail = [this](const Problem& problem) {
        said_->setText(toQt(problem.sentence()) + QLatin1Char('.'));
        return false;
    };
    const auto bytes =
        doneAside({tr("Reading %1").arg(nameToShow(nameOf(*kept)))},
                  [&, folder = workspace_.takeFiles.folder()] { return readTakeBytes(folder, *kept); });
    if (!bytes) return fail(bytes.problem());
    const auto file = smf::read(*bytes);
    if (!file) return fail(file.problem());
    std::optional<TakeRange> part;
    if (const auto span = range()) part = TakeRange{span->from, span->to};
    const auto made = what() == What::hands
                          ? (part ? partOf(file->file, part) : Result<std::vector<std::uint8_t>>(*bytes))
                          : renderedTake(workspace_.document.ensemble(), file->file,
                                         trackPorts(*kept, file->file), instruments(), part);
    if (!made) return fail(made.problem());
    const auto written = doneAside({tr("Writing %1").arg(QFileInfo(path).fileName())}, [&] {
        return files::writeFile(QFile::encodeName(path).toStdString(), *made);
    });
    if (!written) return fail(written.problem());
    said_->setText(tr("Written: %1.").arg(QFileInfo(path).fileName()));
    emit this->written({path});
    return true;
}

void ExportDialog::bounce(const QString& path) {
    BounceRun::Job job;
    job.ensemble = workspace_.document.shared();
    job.take = workspace_.takes.choice.stored();
    job.output = QFile::encodeName(path).toStdString();
    job.options.instruments = instruments();
    job.apart = apart_->isChecked();
    if (const auto span = range()) {
        job.options.from = span->from;
        job.options.to = span->to;
    }
    run_ = new BounceRun(std::move(job), this);
    progress_->setValue(0);
    said_->setText(tr("Rendering…"));
    connect(run_, &BounceRun::progressed, this,
            [this](double done) { progress_->setValue(static_cast<int>(done * 1000)); });
    connect(run_, &BounceRun::finished, this, [this](const QStringList& files, const QString& problem) {
        run_->deleteLater();
        run_ = nullptr;
        said_->setText(!problem.isEmpty() ? problem + QLatin1Char('.')
                       : files.isEmpty()  ? tr("Ended; nothing was written.")
                                          : tr("Written: %1.").arg([&files] {
                                               QStringList names;
                                               for (const QString& file : files)
                                                   names << QFileInfo(file).fileName();
                                               return names.join(QStringLiteral(", "));
                                           }()));
        refresh();
        emit written(files);
    });
    refresh();
}

}  // namespace mellow::app
