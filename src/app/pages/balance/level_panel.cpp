#include "app/pages/balance/level_panel.h"

#include <QFormLayout>
#include <QMenu>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/balance/curve_strips.h"
#include "app/pages/balance/fill_list.h"
#include "app/widgets/short_list.h"
#include "core/describe/sentence.h"
#include "core/midi/names.h"

namespace mellow::app {

namespace {

/// What an entry of the goals says, where it is no key.
enum GoalData { flatGoal = -1, asItIsGoal = -2, lineGoal = -3 };

QLabel* paragraph(const char* name) {
    auto* label = new QLabel;
    label->setObjectName(QLatin1String(name));
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return label;
}

QString sentences(const std::vector<std::string>& list) {
    QString text;
    for (const std::string& each : list)
        text += (text.isEmpty() ? QString() : QStringLiteral("\n")) + toQt(each) + QLatin1Char('.');
    return text;
}

}  // namespace

LevelPanel::LevelPanel(Workspace& workspace, Balancing& balancing, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      balancing_(balancing),
      hearing_(workspace, balancing, this),
      about_(new QLabel),
      by_(new ShortList),
      goal_(new ShortList),
      within_(new NumberField),
      ceiling_(new NumberField),
      words_(paragraph("balanceWords")),
      room_(paragraph("balanceRoom")),
      work_(new QPushButton),
      take_(new QPushButton(tr("Add it to the chain"))),
      hear_(new QPushButton(tr("Hear the difference"))),
      heard_(new ShortList),
      other_(new QPushButton(tr("Follow another’s loudness…"))),
      even_(new QPushButton(tr("Even over the keys"))),
      below_(new QPushButton(tr("Never above the peak"))),
      equal_(new QPushButton(tr("Equal steps…"))) {
    setObjectName(QStringLiteral("levelPanel"));
    setAttribute(Qt::WA_StyledBackground);
    build();
    connect(&balancing_, &Balancing::changed, this, &LevelPanel::refresh);
    connect(&balancing_.worker(), &BalanceWorker::progressed, this, &LevelPanel::showState);
    connect(&hearing_, &Hearing::changed, this, &LevelPanel::showState);
    refresh();
}

void LevelPanel::build() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, scaled(4), scaled(10), scaled(8));
    column->setSpacing(scaled(8));
    auto* title = new QLabel(tr("Level it"));
    title->setProperty("role", "title");
    column->addWidget(title);
    about_->setProperty("role", "caption");
    about_->setWordWrap(true);
    column->addWidget(about_);
    column->addWidget(buildGoals());
    work_->setObjectName(QStringLiteral("balanceWork"));
    column->addWidget(work_);
    column->addWidget(new PointsPicture(balancing_));
    column->addWidget(words_);
    room_->setProperty("role", "trouble");
    column->addWidget(room_);
    take_->setObjectName(QStringLiteral("balanceTake"));
    take_->setToolTip(tr("Make it part of the chain, as one step that can be undone"));
    hear_->setObjectName(QStringLiteral("balanceHear"));
    hear_->setToolTip(tr("Play what is chosen below as it is, and then levelled"));
    heard_->setObjectName(QStringLiteral("balanceHearBy"));
    heard_->setAccessibleName(tr("What is played to hear the difference"));
    heard_->setToolTip(heard_->accessibleName());
    column->addWidget(take_);
    column->addWidget(hear_);
    column->addWidget(heard_);
    column->addWidget(buildAlso());
    connect(work_, &QPushButton::clicked, this,
            [this] { balancing_.worker().isBusy() ? balancing_.worker().cancel() : balancing_.level(); });
    connect(take_, &QPushButton::clicked, this, [this] { balancing_.take(); });
    connect(heard_, &QComboBox::activated, this,
            [this](int place) { hearing_.choose(heard_->itemData(place).toString().toStdString()); });
    connect(hear_, &QPushButton::clicked, this,
            [this] { hearing_.isOn() ? hearing_.stop() : hearing_.start(); });
}

QWidget* LevelPanel::buildGoals() {
    auto* part = new QWidget;
    auto* form = new QFormLayout(part);
    form->setContentsMargins(0, 0, 0, 0);
    form->setHorizontalSpacing(scaled(8));
    form->setVerticalSpacing(scaled(6));
    const auto add = [&](const QString& label, QWidget* field, const char* name, const QString& tip) {
        field->setObjectName(QLatin1String(name));
        field->setAccessibleName(label);
        field->setToolTip(tip);
        auto* words = new QLabel(label);
        words->setProperty("role", "caption");
        words->setBuddy(field);
        form->addRow(words, field);
    };
    add(tr("By"), by_, "balanceBy",
        tr("The parameter that makes up the difference; what it does is measured first"));
    add(tr("Line"), goal_, "balanceGoal", tr("What the line is; drag it in the picture to draw it"));
    add(tr("Within"), within_, "balanceWithin", tr("How near to the line loudness is to be"));
    add(tr("Never above"), ceiling_, "balanceCeiling", tr("The true peak that no position may exceed"));
    within_->setUnit(QStringLiteral("LU"));
    within_->setBounds(0.1, 6, 0.1);
    ceiling_->setUnit(QStringLiteral("dB"));
    ceiling_->setBounds(-60, 6, 1);
    connect(by_, &QComboBox::activated, this,
            [this](int place) { balancing_.setParameter(by_->itemData(place).toString().toStdString()); });
    connect(goal_, &QComboBox::activated, this, &LevelPanel::chooseGoal);
    connect(within_, &NumberField::entered, this, [this](double lu) { balancing_.setWithin(lu); });
    connect(ceiling_, &NumberField::entered, this, [this](double peak) { balancing_.setCeiling(peak); });
    return part;
}

QWidget* LevelPanel::buildAlso() {
    auto* part = new QWidget;
    auto* column = new QVBoxLayout(part);
    column->setContentsMargins(0, scaled(6), 0, 0);
    column->setSpacing(scaled(6));
    auto* title = new QLabel(tr("Also"));
    title->setProperty("role", "section");
    column->addWidget(title);
    const auto add = [&](QPushButton* button, const char* name, const QString& tip, auto act) {
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        column->addWidget(button);
        connect(button, &QPushButton::clicked, this, act);
    };
    add(other_, "balanceOther", tr("Make it as loud as another instrument at the same gesture"),
        [this] { chooseOther(); });
    add(even_, "balanceEven", tr("Level the instrument from key to key, by a chain from the key number"),
        [this] { evenOverKeys(); });
    add(below_, "balanceBelow", tr("Leave it as it is, but for what exceeds the peak that is set above"),
        [this] { holdBelow(); });
    add(equal_, "balanceEqual", tr("Bend the chain so that equal travel gives equal steps of loudness"),
        [this] { makeEqual(); });
    return part;
}

void LevelPanel::popUp(QMenu* menu, QPushButton* under) {
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->popup(under->mapToGlobal(QPoint(0, under->height())));
}

void LevelPanel::chooseOther() {
    auto* menu = new QMenu(this);
    const Ensemble& ensemble = workspace_.document.ensemble();
    for (const Instrument& each : ensemble.instruments) {
        if (each.id == balancing_.plan().instrument) continue;
        if (!balance::Rig::build(ensemble, each.id, balancing_.plan().motion)) continue;
        connect(menu->addAction(nameToShow(nameOf(each))), &QAction::triggered, this,
                [this, id = each.id] { balancing_.follow(id); });
    }
    if (menu->isEmpty()) menu->addAction(tr("No other instrument is moved by this"))->setEnabled(false);
    popUp(menu, other_);
}

void LevelPanel::evenOverKeys() {
    balancing_.setMotion(balance::motionOf(makeSource(SourceKind::keyNumber)));
    balancing_.setGoal({});
    balancing_.level();
}

void LevelPanel::holdBelow() {
    balance::Goal goal;
    goal.kind = balance::Goal::Kind::asItIs;
    balancing_.setGoal(goal);
    balancing_.level();
}

void LevelPanel::makeEqual() {
    auto* menu = new QMenu(this);
    connect(menu->addAction(tr("Equal in LU")), &QAction::triggered, this,
            [this] { balancing_.equal(balance::LoudnessScale::lu); });
    connect(menu->addAction(tr("Equal in sones: twice as far sounds twice as loud")), &QAction::triggered,
            this, [this] { balancing_.equal(balance::LoudnessScale::sones); });
    popUp(menu, equal_);
}

void LevelPanel::refreshParameters() {
    std::vector<ListEntry> entries;
    const Instrument* instrument = balancing_.instrument();
    int current = -1;
    bool hasVolume = instrument == nullptr;
    const auto add = [&](const QString& text, const std::string& words) {
        if (words == balancing_.wish().parameter) current = static_cast<int>(entries.size());
        entries.push_back({text, toQt(words)});
    };
    const auto all =
        instrument == nullptr ? std::vector<const Parameter*>() : balance::levelParameters(*instrument);
    for (const Parameter* each : all) {
        constexpr int volume = 7;
        hasVolume = hasVolume || (each->message.kind == MessageKind::cc && each->message.number == volume);
    }
    if (!hasVolume) add(tr("Volume · CC 7 (new)"), "cc 7");
    for (const Parameter* each : all)
        add(nameToShow(nameOf(*each)) + QStringLiteral(" · ") + toQt(describe::targetMessage(each->message)),
            each->id);
    fillList(*by_, entries, current);
}

void LevelPanel::refreshGoals() {
    using Kind = balance::Goal::Kind;
    const balance::Goal& goal = balancing_.wish().goal;
    std::vector<ListEntry> entries{
        {tr("Flat where possible"), flatGoal},
        {goal.kind == Kind::line ? tr("As drawn") : tr("Straight, end to end"), lineGoal}};
    int current = goal.kind == Kind::line ? 1 : 0;
    if (balancing_.plan().keys.size() > 1 && !balance::isKeys(balancing_.plan().motion)) {
        for (const int key : balancing_.plan().keys) {
            if (goal.kind == Kind::asAtAKey && goal.key == key) current = static_cast<int>(entries.size());
            entries.push_back({tr("As it is at %1").arg(toQt(midi::keyName(key))), key});
        }
    }
    if (goal.kind == Kind::asItIs) {
        current = static_cast<int>(entries.size());
        entries.push_back({tr("As it is, below the peak"), asItIsGoal});
    }
    fillList(*goal_, entries, current);
}

/// Where there is no take there is nothing to choose.
void LevelPanel::refreshHeard() {
    std::vector<ListEntry> entries{{tr("by the travel"), QString()}};
    int current = 0;
    for (const KeptTake& each : workspace_.document.ensemble().takes) {
        if (each.id == hearing_.chosen()) current = static_cast<int>(entries.size());
        entries.push_back({tr("by the take %1").arg(nameToShow(nameOf(each))), toQt(each.id)});
    }
    if (current == 0) hearing_.choose({});
    heard_->setVisible(entries.size() > 1);
    fillList(*heard_, entries, current);
}

void LevelPanel::chooseGoal(int place) {
    balance::Goal goal;
    const int chosen = goal_->itemData(place).toInt();
    if (chosen == asItIsGoal) goal.kind = balance::Goal::Kind::asItIs;
    if (chosen >= 0) {
        goal.kind = balance::Goal::Kind::asAtAKey;
        goal.key = chosen;
    }
    if (chosen == lineGoal) {
        const auto points =
            balancing_.curve() ? balance::meanOf(*balancing_.curve()) : std::vector<balance::CurvePoint>();
        if (points.empty()) return refreshGoals();
        goal.kind = balance::Goal::Kind::line;
        for (const balance::CurvePoint& end : {points.front(), points.back()}) {
            constexpr double quiet = -70;
            const double level = std::round(end.heard.loudness.value_or(quiet) * 10) / 10;
            goal.points.emplace_back(end.position, level);
        }
    }
    balancing_.setGoal(goal);
}

/// While it is not seen nothing is listed.
void LevelPanel::refresh() {
    if (!isVisible()) return;
    refreshParameters();
    refreshGoals();
    refreshHeard();
    within_->setValue(balancing_.wish().within);
    ceiling_->setValue(balancing_.wish().ceiling);
    about_->setText(balancing_.plan().motion.parameter.empty()
                        ? tr("Adds a target to the chain that takes back what it adds to loudness.")
                        : tr("A parameter alone has no chain; choose what the hands move."));
    words_->setText(sentences(balancing_.proposalWords()));
    words_->setVisible(!words_->text().isEmpty());
    QString trouble = sentences(balancing_.roomWords());
    if (!balancing_.trouble().isEmpty()) trouble = balancing_.trouble() + QLatin1Char('.');
    room_->setText(trouble);
    room_->setVisible(!trouble.isEmpty());
    showState();
}

/// What changes while it works.
void LevelPanel::showState() {
    const bool busy = balancing_.worker().isBusy();
    const bool has = balancing_.instrument() != nullptr && balancing_.plan().motion.parameter.empty();
    work_->setText(busy ? tr("Stop") : tr("Work it out"));
    work_->setEnabled(busy || has);
    take_->setEnabled(balancing_.isProposed() && !busy);
    hear_->setEnabled(hearing_.isOn() || (balancing_.proposal() && !busy));
    hear_->setText(!hearing_.isOn()     ? tr("Hear the difference")
                   : hearing_.isAfter() ? tr("Now levelled · stop")
                                        : tr("As it is · stop"));
    for (QPushButton* each : {other_, even_, below_, equal_}) each->setEnabled(has && !busy);
}

void LevelPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

}  // namespace mellow::app
