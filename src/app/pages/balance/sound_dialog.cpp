#include "app/pages/balance/sound_dialog.h"

#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "io/balance/rack_measuring.h"
#include "io/balance/sound_reading.h"

namespace mellow::app {

namespace {

constexpr double longest = 7200;  // s

std::filesystem::path fileAt(const QString& path) {
    return QFile::encodeName(path).toStdString();
}

/// The sweep that is chosen on the page, as it would be written.
Result<std::pair<balance::Sweep, balance::KnownSweep>> chosenSweep(const Ensemble& ensemble,
                                                                   balance::SweepPlan plan) {
    plan.click = true;
    auto sweep = balance::sweepOf(ensemble, plan);
    if (!sweep) return sweep.problem();
    balance::KnownSweep known = balance::knownOf(ensemble, plan, *sweep);
    return std::pair(std::move(*sweep), std::move(known));
}

}  // namespace

void writeSweep(Workspace& workspace, Balancing& balancing, const QString& path) {
    const auto sweep = chosenSweep(workspace.document.ensemble(), balancing.plan());
    if (!sweep) return workspace.tell(toQt(sweep.problem().sentence()) + QLatin1Char('.'));
    const Outcome written = doneAside({SoundDialog::tr("Writing the sweep")}, [&]() -> Outcome {
        const auto bytes = balance::printSweep(sweep->first, sweep->second);
        if (!bytes) return bytes.problem();
        return files::writeFile(fileAt(path), *bytes);
    });
    if (!written) return workspace.tell(toQt(written.problem().sentence()) + QLatin1Char('.'));
    workspace.hint(SoundDialog::tr("%1 is written. Render it with your instrument, and read its sound back.")
                       .arg(QFileInfo(path).fileName()));
}

SoundDialog::SoundDialog(Workspace& workspace, Balancing& balancing, QWidget* parent)
    : QDialog(parent),
      workspace_(workspace),
      balancing_(balancing),
      sweepName_(new QLabel),
      soundName_(new QLabel(tr("none yet"))),
      wave_(new WaveView),
      begins_(new NumberField),
      said_(new QLabel),
      use_(new QPushButton(tr("Use it"))) {
    setObjectName(QStringLiteral("soundDialog"));
    setWindowTitle(tr("Read the sound of a sweep"));
    setAttribute(Qt::WA_DeleteOnClose);
    build();
    const auto sweep = chosenSweep(workspace_.document.ensemble(), balancing_.plan());
    if (sweep) {
        known_ = sweep->second;
        sweepName_->setText(tr("as chosen on the page"));
    } else {
        sweepName_->setText(tr("none"));
        say(toQt(sweep.problem().sentence()));
    }
}

void SoundDialog::build() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(18), scaled(16), scaled(18), scaled(16));
    column->setSpacing(scaled(10));
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(scaled(12));
    const auto row = [&](const QString& label, QLabel* name, const char* id, const QString& button,
                         auto act) {
        auto* line = new QHBoxLayout;
        auto* choose = new QPushButton(button);
        choose->setObjectName(QLatin1String(id));
        connect(choose, &QPushButton::clicked, this, act);
        line->addWidget(choose);
        line->addWidget(name, 1);
        form->addRow(label, line);
    };
    row(tr("The sweep"), sweepName_, "chooseSweep", tr("Another MIDI file…"), [this] { chooseSweep(); });
    row(tr("Its sound"), soundName_, "chooseSound", tr("Choose…"), [this] { chooseSound(); });
    begins_->setObjectName(QStringLiteral("soundBegins"));
    begins_->setUnit(QStringLiteral("s"));
    begins_->setBounds(-longest, longest, 0.01);
    begins_->setMaximumWidth(scaled(100));
    begins_->setToolTip(tr("The second of the sound at which the sweep begins; found by its click"));
    form->addRow(tr("It begins at"), begins_);
    column->addLayout(form);
    column->addWidget(wave_, 1);
    said_->setWordWrap(true);
    said_->setObjectName(QStringLiteral("soundSaid"));
    column->addWidget(said_);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch(1);
    auto* leave = new QPushButton(tr("Leave it"));
    use_->setObjectName(QStringLiteral("soundUse"));
    use_->setEnabled(false);
    buttons->addWidget(leave);
    buttons->addWidget(use_);
    column->addLayout(buttons);
    // Enter in the field is an answer to the field, and no button's.
    for (QPushButton* each : findChildren<QPushButton*>()) each->setAutoDefault(false);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    connect(use_, &QPushButton::clicked, this, &SoundDialog::use);
    connect(begins_, &NumberField::entered, this, [this](double seconds) {
        wave_->setBegins(seconds);
        measure();
    });
    connect(wave_, &WaveView::beginsMoved, this, [this](double seconds) {
        begins_->setValue(seconds);
        say(tr("It is measured where you let go."));
    });
    connect(wave_, &WaveView::beginsPlaced, this, &SoundDialog::measure);
    resize(scaled(720), scaled(420));
}

void SoundDialog::say(const QString& sentence) {
    said_->setText(sentence);
}

void SoundDialog::chooseSweep() {
    const QString path = QFileDialog::getOpenFileName(this, tr("The MIDI file that was rendered"), {},
                                                      tr("MIDI files (*.mid)"));
    if (!path.isEmpty()) readSweep(path);
}

void SoundDialog::chooseSound() {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("The sound that came of it"), {},
                                     tr("Sound (*.wav *.flac *.aif *.aiff *.ogg);;All files (*)"));
    if (!path.isEmpty()) readSound(path);
}

bool SoundDialog::readSweep(const QString& path) {
    const auto bytes = doneAside({tr("Reading the sweep")}, [&] { return files::readFile(fileAt(path)); });
    auto known = bytes ? balance::readSweep(*bytes) : Result<balance::KnownSweep>(bytes.problem());
    if (!known) {
        say(toQt(known.problem().sentence()) + QLatin1Char('.'));
        return false;
    }
    known_ = std::move(*known);
    sweepName_->setText(QFileInfo(path).fileName());
    if (read_.sound) {
        wave_->show(read_.outline, read_.seconds, *known_);
        measure();
    }
    return true;
}

/// All that takes as long as the sound does.
Result<SoundDialog::Read> SoundDialog::readAll(const std::filesystem::path& file) {
    constexpr std::size_t columns = 2000;
    auto sound = io::readSound(file);
    if (!sound) return sound.problem();
    Read read;
    read.outline = balance::outlineOf(*sound, columns);
    read.click = balance::findClick(*sound);
    read.seconds = static_cast<double>(sound->frames()) / sound->rate;
    read.sound = std::make_shared<const balance::Sound>(std::move(*sound));
    return read;
}

bool SoundDialog::readSound(const QString& path) {
    if (!known_) return false;
    auto read = doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())},
                               [file = fileAt(path)] { return readAll(file); });
    if (!read) return false;
    if (!*read) {
        say(toQt(read->problem().sentence()) + QLatin1Char('.'));
        return false;
    }
    read_ = std::move(**read);
    soundFile_ = QFileInfo(path).fileName();
    soundName_->setText(soundFile_);
    wave_->show(read_.outline, read_.seconds, *known_);
    double begins = 0;
    if (read_.click && known_->click)
        begins = static_cast<double>(*read_.click - read_.sound->frameAt(*known_->click)) / read_.sound->rate;
    begins_->setValue(begins);
    wave_->setBegins(begins);
    measure();
    if (!read_.click) say(toQt(read_.click.problem().sentence()) + QLatin1Char('.'));
    return true;
}

void SoundDialog::measure() {
    curve_.reset();
    if (read_.sound && known_) {
        const auto begins = static_cast<std::int64_t>(std::llround(begins_->value() * read_.sound->rate));
        auto curve = doneAside({tr("Measuring")},
                               [&] { return balance::measureRecorded(*read_.sound, *known_, begins); });
        if (curve) {
            curve_ = std::move(*curve);
            curve_->heardFrom = soundFile_.toStdString();
            curve_->measured = io::measuredNow();
            const balance::Readout readout = balance::readoutOf(balance::meanOf(*curve_));
            QString words =
                tr("%1 from softest to loudest.").arg(QString::number(readout.range, 'f', 1) + tr(" LU"));
            for (const std::string& each : balance::doubtsAbout(*curve_))
                words += QLatin1Char('\n') + toQt(each) + QLatin1Char('.');
            say(words);
        } else {
            say(toQt(curve.problem().sentence()) + QLatin1Char('.'));
        }
    }
    use_->setEnabled(curve_.has_value());
}

void SoundDialog::use() {
    if (!curve_) return;
    balance::Curve curve = std::move(*curve_);
    // A sweep may have been written of another instrument than the page shows, or of one that is gone.
    if (findById(workspace_.document.ensemble().instruments, curve.instrument) != nullptr)
        workspace_.selection.go(BalancePlace{curve.instrument});
    else
        curve.instrument = balancing_.plan().instrument;
    balancing_.show(std::move(curve));
    balancing_.keep();
    accept();
}

}  // namespace mellow::app
