#include "app/pages/balance/section_list.h"

#include <QHBoxLayout>
#include <QMenu>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/balance/curve_plot.h"
#include "app/widgets/clear_layout.h"
#include "app/widgets/elided_label.h"
#include "core/text/numbers.h"
#include "io/playing/happenings.h"

namespace mellow::app {

namespace {

constexpr int fewPositions = 16;
// What a bar shows, LUFS.
constexpr double softest = -60;
constexpr double loudest = -10;

}  // namespace

SectionList::SectionList(Workspace& workspace, Balancing& balancing, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      balancing_(balancing),
      worker_(this),
      rows_(new QWidget),
      measure_(new QPushButton),
      keep_(new QPushButton(tr("Keep these numbers"))),
      match_(new QPushButton(tr("Match them to one…"))) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, scaled(10), 0, 0);
    column->setSpacing(scaled(6));
    auto* title = new QLabel(tr("All, at the same gesture"));
    title->setProperty("role", "section");
    column->addWidget(title);
    auto* list = new QVBoxLayout(rows_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(scaled(3));
    rows_->setToolTip(
        tr("LUFS at rest, half way and at full; LU from softest to loudest, and by which it "
           "goes back on its way, at most"));
    column->addWidget(rows_);
    measure_->setObjectName(QStringLiteral("balanceAll"));
    measure_->setToolTip(tr("Measure every instrument that this moves"));
    keep_->setObjectName(QStringLiteral("balanceKeepAll"));
    keep_->setToolTip(tr("Keep these measurements with the ensemble; the Sheet can show them in columns"));
    match_->setObjectName(QStringLiteral("balanceMatch"));
    match_->setToolTip(tr("Level all others so that each is as loud as the one chosen, at the same gesture"));
    column->addWidget(measure_);
    column->addWidget(keep_);
    column->addWidget(match_);
    connect(keep_, &QPushButton::clicked, this, &SectionList::keepAll);
    connect(measure_, &QPushButton::clicked, this,
            [this] { worker_.isBusy() ? worker_.cancel() : measureAll(); });
    connect(match_, &QPushButton::clicked, this, &SectionList::chooseReference);
    connect(&worker_, &BalanceWorker::progressed, this, &SectionList::refresh);
    connect(&balancing_, &Balancing::changed, this, &SectionList::refresh);
    connect(&workspace_.document, &Document::changed, this, [this](const Change& change) {
        if (curves_.empty()) return;
        // What was measured of others holds no longer.
        const bool isHeard = change.everything || change.order || !change.instruments.empty() ||
                             change.sharedChains || change.tieLines || change.controllers || change.desk;
        if (isHeard) curves_.clear();
        rebuild();
    });
    rebuild();
}

void SectionList::rebuild() {
    clearLayout(*rows_->layout());
    shown_.clear();
    for (const Instrument& each : workspace_.document.ensemble().instruments) {
        const auto found = curves_.find(each.id);
        if (found != curves_.end()) addRow(each, found->second);
    }
    refresh();
}

/// Its name and how loud it is now, a bar of that, and below the five numbers.
void SectionList::addRow(const Instrument& instrument, const balance::Curve& curve) {
    auto* list = static_cast<QVBoxLayout*>(rows_->layout());
    const auto caption = [&](const QString& text) {
        auto* label = new QLabel(text);
        label->setProperty("role", "caption");
        label->setWordWrap(true);
        list->addWidget(label);
    };
    if (shown_.empty()) caption(tr("now; at rest · half way · at full"));
    const QString called = nameToShow(nameOf(instrument));
    auto* line = new QWidget;
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(0, 0, 0, 0);
    auto* name = new ElidedLabel;
    name->setText(called);
    auto* value = new QLabel;
    value->setFont(numberFont());
    row->addWidget(name, 1);
    row->addWidget(value);
    list->addWidget(line);
    auto* bar = new LevelBar;
    bar->setFixedHeight(scaled(5));
    bar->setAccessibleName(tr("Loudness of %1").arg(called));
    list->addWidget(bar);
    const balance::Readout readout = balance::readoutOf(balance::meanOf(curve));
    const auto words = [](std::optional<double> level) { return level ? tenths(*level) : tr("quiet"); };
    caption(tr("%1 · %2 · %3").arg(words(readout.rest), words(readout.half), words(readout.full)) +
            QLatin1Char('\n') + tr("range %1 · bump %2").arg(tenths(readout.range), tenths(readout.bump)));
    shown_[instrument.id] = {value, bar};
}

void SectionList::refresh() {
    if (measuredAlong_ && *measuredAlong_ != balancing_.plan().motion) {
        measuredAlong_.reset();
        curves_.clear();
        rebuild();
        return;
    }
    const bool can = balancing_.instrument() != nullptr && balancing_.plan().motion.parameter.empty() &&
                     !balance::isKeys(balancing_.plan().motion);
    measure_->setText(worker_.isBusy() ? tr("Stop (%1 %)").arg(static_cast<int>(worker_.done() * 100))
                                       : tr("Measure them all"));
    measure_->setEnabled(can);
    keep_->setEnabled(!curves_.empty() && !worker_.isBusy());
    match_->setEnabled(can && curves_.size() >= 2 && !worker_.isBusy() && !balancing_.worker().isBusy());
    showHand();
}

QString SectionList::readingOf(const std::string& instrument) const {
    const auto found = curves_.find(instrument);
    if (found == curves_.end()) return {};
    const double place = balancing_.hand().value_or(1);
    const auto level = balance::loudnessAt(balance::meanOf(found->second), place);
    return level ? tenths(*level) + QStringLiteral(" LUFS") : tr("too quiet");
}

void SectionList::showHand() {
    const double place = balancing_.hand().value_or(1);
    for (auto& [id, row] : shown_) {
        const auto level = balance::loudnessAt(balance::meanOf(curves_.at(id)), place);
        row.value->setText(readingOf(id));
        row.bar->show(level ? std::clamp((*level - softest) / (loudest - softest), 0.0, 1.0) : 0);
    }
}

void SectionList::measureAll() {
    const auto ensemble = workspace_.document.shared();
    balance::LevelWish wish = balancing_.wish();
    wish.plan.positions = fewPositions;
    measuredAlong_ = wish.plan.motion;
    const auto all = static_cast<int>(ensemble->instruments.size());
    worker_.ask(all, [this, ensemble, wish](const balance::Measure& measure) {
        std::map<std::string, balance::Curve> curves;
        for (const Instrument& each : ensemble->instruments) {
            const bool can = each.output.port == io::practiceRackPort &&
                             balance::Rig::build(*ensemble, each.id, wish.plan.motion);
            if (!can) continue;
            const balance::SweepPlan plan = balance::wishFor(*ensemble, wish, each.id).plan;
            auto curve = measure(*ensemble, plan, each.id);
            const bool moves = curve && balance::readoutOf(balance::meanOf(*curve)).range >= 1;
            if (moves) curves[plan.instrument] = std::move(*curve);
        }
        return BalanceWorker::Then([this, ensemble, curves = std::move(curves)] {
            if (workspace_.document.shared() != ensemble) return;
            curves_ = curves;
            rebuild();
        });
    });
}

void SectionList::keepAll() {
    std::vector<balance::Curve> curves;
    for (const auto& [id, curve] : curves_) curves.push_back(curve);
    if (!curves.empty()) balancing_.keep(curves);
}

void SectionList::chooseReference() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    std::vector<std::string> all;
    for (const Instrument& each : workspace_.document.ensemble().instruments) {
        if (curves_.contains(each.id)) all.push_back(each.id);
    }
    for (const std::string& id : all) {
        const Instrument* each = findById(workspace_.document.ensemble().instruments, id);
        auto* action = menu->addAction(nameToShow(nameOf(*each)));
        connect(action, &QAction::triggered, this, [this, id, all] { balancing_.match(id, all); });
    }
    menu->popup(match_->mapToGlobal(QPoint(0, match_->height())));
}

}  // namespace mellow::app
