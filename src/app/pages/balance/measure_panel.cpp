#include "app/pages/balance/measure_panel.h"

#include <QAbstractItemView>
#include <QDateTime>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLocale>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/balance/fill_list.h"
#include "app/pages/balance/sound_dialog.h"
#include "core/midi/names.h"
#include "core/profiles/select_text.h"
#include "core/store/instrument_state.h"

namespace mellow::app {

namespace {

constexpr double second = 1e6;  // µs
constexpr int fewLetters = 5;   // the panel is narrow

QString keyWords(const std::vector<int>& keys) {
    QStringList words;
    for (const int key : keys) words << toQt(midi::keyToType(key));
    return words.join(QStringLiteral(", "));
}

QLabel* caption(const QString& text) {
    auto* label = new QLabel(text);
    label->setProperty("role", "caption");
    return label;
}

}  // namespace

MeasurePanel::MeasurePanel(Workspace& workspace, Balancing& balancing, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      balancing_(balancing),
      instrument_(new ShortList(fewLetters)),
      moved_(new ShortList(fewLetters)),
      heard_(new LateList(fewLetters)),
      level_(new LevelBar),
      keys_(new QLineEdit),
      velocity_(new NumberField),
      positions_(new NumberField),
      hold_(new NumberField),
      settle_(new NumberField),
      measure_(new QPushButton),
      keep_(new QPushButton(tr("Keep it"))),
      write_(new QPushButton(tr("Write…"))),
      read_(new QPushButton(tr("Read…"))),
      progress_(new QProgressBar),
      status_(new QLabel) {
    setObjectName(QStringLiteral("measurePanel"));
    setAttribute(Qt::WA_StyledBackground);
    build();
    connectAll();
    refresh();
}

void MeasurePanel::build() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(6), scaled(2), scaled(8), scaled(8));
    column->setSpacing(scaled(4));
    auto* title = new QLabel(tr("Measure"));
    title->setProperty("role", "section");
    column->addWidget(title);
    const auto add = [&](const QString& label, QWidget* field, const char* name, const QString& tip) {
        auto* words = caption(label);
        words->setBuddy(field);
        field->setObjectName(QLatin1String(name));
        field->setAccessibleName(label);
        field->setToolTip(tip);
        column->addWidget(words);
        column->addWidget(field);
    };
    add(tr("Instrument"), instrument_, "balanceInstrument", tr("Whose loudness is measured"));
    add(tr("Moved by"), moved_, "balanceMoved", tr("What is moved from one end to the other"));
    add(tr("Heard from"), heard_, "balanceHeard",
        tr("The practice rack, unheard; or what another program plays, recorded as it sounds; or what was "
           "kept"));
    level_->setObjectName(QStringLiteral("balanceLevel"));
    level_->setAccessibleName(tr("How loud it comes in"));
    level_->setToolTip(tr("How loud it comes in now, from −60 dB to full"));
    level_->setFixedHeight(scaled(5));
    level_->hide();
    column->addWidget(level_);
    auto* numbers = new QFormLayout;
    numbers->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    numbers->setContentsMargins(0, scaled(2), 0, scaled(2));
    numbers->setHorizontalSpacing(scaled(8));
    numbers->setVerticalSpacing(scaled(4));
    const auto number = [&](const QString& label, NumberField* field, const char* name, const QString& unit,
                            double low, double high, double step, const QString& tip) {
        field->setObjectName(QLatin1String(name));
        field->setAccessibleName(label);
        field->setUnit(unit);
        field->setBounds(low, high, step);
        field->setToolTip(tip);
        field->setMinimumWidth(scaled(52));
        auto* words = caption(label);
        words->setBuddy(field);
        numbers->addRow(words, field);
    };
    keys_->setObjectName(QStringLiteral("balanceKeys"));
    keys_->setAccessibleName(tr("Keys"));
    keys_->setMinimumWidth(scaled(52));
    keys_->setToolTip(tr(
        "Which keys are struck, such as C3, C4; of a measurement over the keys the lowest and the highest"));
    auto* keysWords = caption(tr("Keys"));
    keysWords->setBuddy(keys_);
    numbers->addRow(keysWords, keys_);
    constexpr double longest = 10;
    number(tr("Velocity"), velocity_, "balanceVelocity", {}, 1, midi::max7, 1,
           tr("How hard the keys are struck"));
    number(tr("Positions"), positions_, "balancePositions", {}, balance::fewestPositions,
           balance::mostPositions, 1, tr("At how many places of the travel a note is measured"));
    number(tr("Each held for"), hold_, "balanceHold", QStringLiteral("s"), 0.4, longest, 0.1,
           tr("How long of each note is measured; longer for sounds that waver"));
    number(tr("Left out"), settle_, "balanceSettle", QStringLiteral("s"), 0, longest, 0.05,
           tr("How long a note settles before it is measured: its attack, and what the chain smooths"));
    velocity_->setWhole(true);
    positions_->setWhole(true);
    column->addLayout(numbers);
    measure_->setObjectName(QStringLiteral("balanceMeasure"));
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(scaled(6));
    keep_->setObjectName(QStringLiteral("balanceKeep"));
    keep_->setToolTip(tr("Keep this measurement with the ensemble; it is offered again under Heard from"));
    buttons->addWidget(measure_, 1);
    buttons->addWidget(keep_);
    column->addLayout(buttons);
    progress_->setObjectName(QStringLiteral("balanceProgress"));
    progress_->setTextVisible(false);
    progress_->setFixedHeight(scaled(4));
    constexpr int thousand = 1000;
    progress_->setRange(0, thousand);
    QSizePolicy keeps = progress_->sizePolicy();
    keeps.setRetainSizeWhenHidden(true);
    progress_->setSizePolicy(keeps);
    column->addWidget(progress_);
    status_->setObjectName(QStringLiteral("balanceStatus"));
    status_->setProperty("role", "caption");
    status_->setWordWrap(true);
    column->addWidget(status_);
    column->addWidget(buildRecording());
    column->addStretch(1);
}

QWidget* MeasurePanel::buildRecording() {
    auto* part = new QWidget;
    auto* column = new QVBoxLayout(part);
    column->setContentsMargins(0, scaled(10), 0, 0);
    column->setSpacing(scaled(6));
    auto* title = new QLabel(tr("Rendered elsewhere"));
    title->setProperty("role", "section");
    column->addWidget(title);
    auto* row = new QHBoxLayout;
    row->setSpacing(scaled(6));
    auto* write = write_;
    write->setObjectName(QStringLiteral("balanceWrite"));
    write->setToolTip(tr("Write the sweep as a MIDI file, to be rendered with your own instrument"));
    auto* read = read_;
    read->setObjectName(QStringLiteral("balanceRead"));
    read->setToolTip(tr("Read the sound that came of it: WAV, FLAC, AIFF or Ogg"));
    row->addWidget(write, 1);
    row->addWidget(read, 1);
    column->addLayout(row);
    connect(write, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getSaveFileName(
            window(), tr("Write the sweep"), QStringLiteral("sweep.mid"), tr("MIDI files (*.mid)"));
        if (!path.isEmpty()) writeSweep(workspace_, balancing_, path);
    });
    connect(read, &QPushButton::clicked, this,
            [this] { (new SoundDialog(workspace_, balancing_, window()))->open(); });
    return part;
}

namespace {

enum HeardData { sourceData = Qt::UserRole, rightData, keptData };

/// Outputs by program: one that has two is heard with both.
std::vector<io::HeardFrom> offered(const std::vector<std::string>& outputs) {
    std::vector<io::HeardFrom> list;
    const auto programOf = [](const std::string& name) { return name.substr(0, name.find(':')); };
    for (std::size_t i = 0; i < outputs.size(); ++i) {
        const bool first = i == 0 || programOf(outputs[i - 1]) != programOf(outputs[i]);
        const bool pair = i + 1 < outputs.size() && programOf(outputs[i]) == programOf(outputs[i + 1]);
        if (first && pair) list.push_back({outputs[i], outputs[i + 1]});
    }
    for (const std::string& each : outputs) list.push_back({each, {}});
    return list;
}

QString nameOfSource(const io::HeardFrom& from) {
    return from.right.empty()
               ? toQt(from.left)
               : MeasurePanel::tr("%1, both").arg(toQt(from.left.substr(0, from.left.find(':'))));
}

QString rackName() {
    return MeasurePanel::tr("Practice rack");
}

QString timeWords(const std::string& measured) {
    const QDateTime when = QDateTime::fromString(toQt(measured), Qt::ISODate).toLocalTime();
    return QLocale().toString(when, QLocale::ShortFormat);
}

bool isOfRack(const balance::Curve& curve) {
    return curve.heardFrom == "Practice rack";
}

}  // namespace

/// What can be heard is looked for when a person opens the list, and not while nobody asks.
void MeasurePanel::fillHeard() {
    const QSignalBlocker quiet(heard_);
    heard_->clear();
    heard_->addItem(rackName());
    for (const io::HeardFrom& each : offered(balancing_.inputs().sources())) {
        heard_->addItem(nameOfSource(each));
        heard_->setItemData(heard_->count() - 1, toQt(each.left), sourceData);
        heard_->setItemData(heard_->count() - 1, toQt(each.right), rightData);
    }
    for (const KeptCurve* each : balancing_.kept()) {
        const QString kept =
            tr("Kept: %1, %2, %3").arg(toQt(each->moved), toQt(each->heardFrom), timeWords(each->measured));
        const bool outdated = store::isOutdated(workspace_.document.ensemble(), *each);
        heard_->addItem(outdated ? tr("%1, edited since").arg(kept) : kept);
        heard_->setItemData(heard_->count() - 1, toQt(each->id), keptData);
    }
}

void MeasurePanel::hear(int place) {
    const QString kept = heard_->itemData(place, keptData).toString();
    if (!kept.isEmpty()) return balancing_.showKept(kept.toStdString());
    const std::string left = heard_->itemData(place, sourceData).toString().toStdString();
    const std::string right = heard_->itemData(place, rightData).toString().toStdString();
    if (left.empty() && balancing_.isUnheard()) return balancing_.measure();
    balancing_.setHeardFrom(left.empty() ? std::nullopt : std::optional(io::HeardFrom{left, right}));
}

/// What is heard now stands in the list, also while it is closed and empty.
void MeasurePanel::showHeard() {
    const auto& from = balancing_.inputs().from();
    level_->setVisible(from.has_value());
    if (from && !peaks_.isActive()) peaks_.start();
    if (!from) peaks_.stop();
    if (heard_->view()->isVisible()) return;
    const auto& curve = balancing_.curve();
    const QString name = from                         ? nameOfSource(*from)
                         : curve && !isOfRack(*curve) ? toQt(curve->heardFrom)
                                                      : rackName();
    if (heard_->count() == 1 && heard_->currentText() == name) return;
    const QSignalBlocker quiet(heard_);
    heard_->clear();
    heard_->addItem(name);
}

void MeasurePanel::showPeaks() {
    const auto peaks = balancing_.inputs().peaks();
    const double loudest = std::max(peaks[0], peaks[1]);
    constexpr double lowest = 60;  // dB below full
    constexpr double perDecade = 20;
    const double decibels = loudest > 0 ? perDecade * std::log10(loudest) : -lowest;
    level_->show(std::clamp(1 + decibels / lowest, 0.0, 1.0));
}

void MeasurePanel::addBelow(QWidget* widget) {
    auto* column = static_cast<QVBoxLayout*>(layout());
    column->insertWidget(column->count() - 1, widget);
}

void MeasurePanel::connectAll() {
    connect(&balancing_, &Balancing::changed, this, &MeasurePanel::refresh);
    connect(&balancing_.worker(), &BalanceWorker::progressed, this, &MeasurePanel::showState);
    connect(instrument_, &QComboBox::activated, this, [this](int place) {
        workspace_.selection.go(BalancePlace{instrument_->itemData(place).toString().toStdString()});
    });
    connect(moved_, &QComboBox::activated, this, [this](int place) {
        if (place >= 0 && place < static_cast<int>(motions_.size()))
            balancing_.setMotion(motions_[static_cast<std::size_t>(place)]);
    });
    connect(heard_, &LateList::opening, this, &MeasurePanel::fillHeard);
    connect(heard_, &QComboBox::activated, this, &MeasurePanel::hear);
    connect(keep_, &QPushButton::clicked, this,
            [this] { balancing_.isKept() ? balancing_.forgetKept() : balancing_.keep(); });
    constexpr int often = 50;  // ms
    peaks_.setInterval(often);
    connect(&peaks_, &QTimer::timeout, this, &MeasurePanel::showPeaks);
    connect(keys_, &QLineEdit::editingFinished, this, &MeasurePanel::enterKeys);
    connect(velocity_, &NumberField::entered, this,
            [this](double v) { balancing_.setVelocity(static_cast<int>(v)); });
    connect(positions_, &NumberField::entered, this,
            [this](double v) { balancing_.setPositions(static_cast<int>(v)); });
    connect(hold_, &NumberField::entered, this,
            [this](double v) { balancing_.setHold(std::llround(v * second)); });
    connect(settle_, &NumberField::entered, this,
            [this](double v) { balancing_.setSettle(std::llround(v * second)); });
    connect(measure_, &QPushButton::clicked, this,
            [this] { balancing_.worker().isBusy() ? balancing_.worker().cancel() : balancing_.measure(); });
}

void MeasurePanel::enterKeys() {
    if (keys_->text() == keyWords(balancing_.plan().keys)) return;
    std::vector<int> keys;
    for (const std::string& word : parted(keys_->text())) {
        const auto key = profiles::parseKey(word);
        if (!key) {
            workspace_.hint(tr("%1 is no key; say keys as C3, C4 or 48, 60.").arg(toQt(word)));
            keys_->setText(keyWords(balancing_.plan().keys));
            return;
        }
        if (std::find(keys.begin(), keys.end(), *key) == keys.end()) keys.push_back(*key);
    }
    constexpr std::size_t mostKeys = 12;
    if (keys.empty() || keys.size() > mostKeys) {
        workspace_.hint(tr("One to twelve keys are measured at once."));
        keys_->setText(keyWords(balancing_.plan().keys));
        return;
    }
    balancing_.setKeys(std::move(keys));
}

void MeasurePanel::refreshLists() {
    const Ensemble& ensemble = workspace_.document.ensemble();
    std::vector<ListEntry> entries;
    int current = -1;
    for (const Instrument& each : ensemble.instruments) {
        if (each.id == balancing_.plan().instrument) current = static_cast<int>(entries.size());
        entries.push_back({nameToShow(nameAmong(ensemble.instruments, each)), toQt(each.id)});
    }
    fillList(*instrument_, entries, current);
    motions_ = balancing_.motions();
    entries.clear();
    current = -1;
    const Instrument* played = balancing_.instrument();
    for (std::size_t i = 0; i < motions_.size(); ++i) {
        if (motions_[i] == balancing_.plan().motion) current = static_cast<int>(i);
        QString name = toQt(balance::motionName(ensemble, *played, motions_[i]));
        for (const Chain& chain : played->chains) {
            if (motions_[i].parameter.empty() && chain.source == motions_[i].source) {
                name += QStringLiteral(" · ") + nameToShow(nameOf(chain));
                break;
            }
        }
        entries.push_back({name, toQt(balance::printMotion(motions_[i]))});
    }
    fillList(*moved_, entries, current);
}

/// While it is not seen nothing is listed.
void MeasurePanel::refresh() {
    if (!isVisible()) return;
    refreshLists();
    const balance::SweepPlan& plan = balancing_.plan();
    if (!keys_->hasFocus()) {
        keys_->setText(keyWords(plan.keys));
        keys_->setCursorPosition(0);
    }
    velocity_->setValue(plan.velocity);
    positions_->setValue(plan.positions);
    hold_->setValue(static_cast<double>(plan.hold) / second);
    settle_->setValue(static_cast<double>(plan.settle) / second);
    velocity_->setEnabled(!balance::isVelocity(plan.motion));
    showHeard();
    showState();
}

void MeasurePanel::showState() {
    const bool busy = balancing_.worker().isBusy();
    const bool unheard = balancing_.isUnheard();
    keep_->setEnabled(balancing_.curve().has_value() && !busy);
    keep_->setText(balancing_.isKept() ? tr("Forget it") : tr("Keep it"));
    measure_->setText(busy ? tr("Stop") : unheard ? tr("Measure") : tr("Play it"));
    for (QPushButton* each : {measure_, write_, read_}) each->setEnabled(balancing_.instrument() != nullptr);
    progress_->setVisible(busy);
    progress_->setValue(static_cast<int>(balancing_.worker().done() * progress_->maximum()));
    const auto& curve = balancing_.curve();
    constexpr double thousand = 1000;
    const QString what = balancing_.worker().what();
    status_->setText(busy && unheard ? tr("measuring, unheard: %1").arg(what)
                     : busy          ? tr("playing and recording: %1").arg(what)
                     : !curve        ? QString()
                     : isOfRack(*curve) && balancing_.took() > 0
                         ? tr("measured in %1 s, unheard").arg(balancing_.took() / thousand, 0, 'f', 1)
                         : tr("measured %1").arg(timeWords(curve->measured)));
}

void MeasurePanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

}  // namespace mellow::app
