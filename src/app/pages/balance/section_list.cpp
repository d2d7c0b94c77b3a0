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
      match_(new QPushButton(tr("Match them to one…"))) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, scaled(10), 0, 0);
    column->setSpacing(scaled(6));
    auto* title = new QLabel(tr("All, at the same gesture"));
    title->setProperty("role", "section");
    column->addWidget(title);
    auto* list = new QVBoxLayout(rows_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(scaled(4));
    column->addWidget(rows_);
    measure_->setObjectName(QStringLiteral("balanceAll"));
    measure_->setToolTip(tr("Measure every instrument that this moves"));
    match_->setObjectName(QStringLiteral("balanceMatch"));
    match_->setToolTip(tr("Level all others so that each is as loud as the one chosen, at the same gesture"));
    column->addWidget(measure_);
    column->addWidget(match_);
    connect(measure_, &QPushButton::clicked, this,
            [this] { worker_.isBusy() ? worker_.cancel() : measureAll(); });
    connect(match_, &QPushButton::clicked, this, &SectionList::chooseReference);
    connect(&worker_, &BalanceWorker::progressed, this, &SectionList::refresh);
    connect(&balancing_, &Balancing::changed, this, &SectionList::refresh);
    connect(&workspace_.document, &Document::changed, this, [this](const Change& change) {
        if (curves_.empty()) return;
        // What was measured of others holds no longer.
        if (change.everything || change.order || !change.instruments.empty() || change.sharedChains)
            curves_.clear();
        rebuild();
    });
    rebuild();
}

void SectionList::rebuild() {
    auto* list = static_cast<QVBoxLayout*>(rows_->layout());
    clearLayout(*list);
    shown_.clear();
    for (const Instrument& each : workspace_.document.ensemble().instruments) {
        if (!curves_.contains(each.id)) continue;
        auto* line = new QWidget;
        auto* row = new QHBoxLayout(line);
        row->setContentsMargins(0, 0, 0, 0);
        auto* name = new ElidedLabel;
        name->setText(nameToShow(nameOf(each)));
        auto* value = new QLabel;
        value->setFont(numberFont());
        row->addWidget(name, 1);
        row->addWidget(value);
        auto* bar = new LevelBar;
        bar->setFixedHeight(scaled(5));
        bar->setAccessibleName(tr("Loudness of %1").arg(nameToShow(nameOf(each))));
        list->addWidget(line);
        list->addWidget(bar);
        shown_[each.id] = {value, bar};
    }
    refresh();
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
        row.value->setText(readingOf(id));
        const auto level = balance::loudnessAt(balance::meanOf(curves_.at(id)), place);
        row.bar->show(level ? std::clamp((*level - softest) / (loudest - softest), 0.0, 1.0) : 0);
    }
}

void SectionList::measureAll() {
    const auto ensemble = workspace_.document.shared();
    std::vector<balance::SweepPlan> plans;
    for (const Instrument& each : ensemble->instruments) {
        balance::SweepPlan plan = balancing_.plan();
        plan.instrument = each.id;
        plan.positions = fewPositions;
        plan.keys = balance::usualKeys(each, plan.motion);
        const bool onRack = each.output.port == io::practiceRackPort;
        if (onRack && balance::Rig::build(*ensemble, each.id, plan.motion)) plans.push_back(plan);
    }
    measuredAlong_ = balancing_.plan().motion;
    worker_.ask(static_cast<int>(plans.size()), [this, ensemble, plans](const balance::Measure& measure) {
        std::map<std::string, balance::Curve> curves;
        for (const balance::SweepPlan& plan : plans) {
            auto curve = measure(*ensemble, plan, plan.instrument);
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
