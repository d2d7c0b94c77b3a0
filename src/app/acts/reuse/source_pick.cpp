// The list has every control of the ensemble's controllers and every control change; what is moved and is
// something else joins it.
#include "app/acts/reuse/source_pick.h"

#include <QHBoxLayout>
#include <algorithm>
#include <utility>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/describe/sentence.h"

namespace mellow::app {

namespace {

constexpr int considerEvery = 60;  // ms

}  // namespace

SourcePick::SourcePick(Workspace& workspace, const QString& name, QWidget* parent)
    : QWidget(parent), workspace_(workspace), box_(new QComboBox) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    box_->setAccessibleName(name);
    box_->setMaxVisibleItems(16);
    row->addWidget(box_, 1);
    const Ensemble& ensemble = workspace_.document.ensemble();
    const auto add = [&](const Source& source, const QString& words) {
        sources_.push_back(source);
        box_->addItem(words);
    };
    for (const Controller& controller : ensemble.controllers) {
        for (const ControllerControl& control : controller.controls) {
            Source source = makeSource(SourceKind::control);
            source.controller = controller.id;
            source.control = control.id;
            add(source, tr("%1 · %2").arg(nameToShow(nameOf(controller)), nameToShow(nameOf(control))));
        }
    }
    constexpr int channelModes = 120;
    for (int number = 0; number < channelModes; ++number) {
        Source source = makeSource(SourceKind::cc);
        source.number = number;
        const QString words = toQt(describe::sourceName(ensemble, source));
        const QString message = toQt(describe::sourceMessage(source));
        add(source, words == message ? words : tr("%1 (%2)").arg(words, message));
    }
    connect(box_, &QComboBox::currentIndexChanged, this, &SourcePick::changed);
    connect(&considering_, &QTimer::timeout, this, &SourcePick::consider);
    connect(&workspace_.live, &Live::cameIn, this, [this](const io::Happening& happening) {
        if (!considering_.isActive() || happening.played) return;
        learner_.hear(workspace_.live.readings().portName(happening.port), happening.time,
                      happening.message.bytes());
    });
}

void SourcePick::set(const Source& source) {
    const auto found = std::find(sources_.begin(), sources_.end(), source);
    if (found == sources_.end()) {
        sources_.push_back(source);
        box_->addItem(toQt(describe::sourceName(workspace_.document.ensemble(), source)));
        box_->setCurrentIndex(box_->count() - 1);
        return;
    }
    box_->setCurrentIndex(static_cast<int>(found - sources_.begin()));
}

void SourcePick::listen(bool on, std::optional<Source> besides) {
    besides_ = std::move(besides);
    learner_.begin();
    on ? considering_.start(considerEvery) : considering_.stop();
}

void SourcePick::consider() {
    const auto candidates = learner_.candidates();
    const auto found = std::find_if(candidates.begin(), candidates.end(), [this](const auto& each) {
        return each.sure >= learning::Learner::enough && each.source != besides_;
    });
    if (found == candidates.end() || found->source == source()) return;
    set(found->source);
    emit heard();
}

}  // namespace mellow::app
