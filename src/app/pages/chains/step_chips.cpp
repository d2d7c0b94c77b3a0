#include "app/pages/chains/step_chips.h"

#include <QLabel>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/clear_layout.h"
#include "core/describe/sentence.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

QString textOf(const Ensemble& ensemble, const Chain& chain, std::size_t step) {
    const int max = step == 0 ? maxOf(resolved(ensemble, chain.source)) : 0;
    return toQt(describe::stepLabel(chain.steps[step], max));
}

}  // namespace

StepChips::StepChips(QWidget* parent) : QWidget(parent), row_(new FlowLayout(scaled(6))) {
    setLayout(row_);
    setObjectName(QStringLiteral("chips"));
}

void StepChips::showSteps(const Ensemble& ensemble, const Chain& chain, int selected) {
    const bool sameCount = chips_.size() == chain.steps.size() && shown_ == chain.id;
    if (!sameCount) {
        clearLayout(*row_);
        chips_.clear();
        auto* title = new QLabel(chain.steps.empty() ? tr("No steps yet") : tr("Steps"));
        title->setProperty("role", "section");
        title->setFixedHeight(scaled(30));
        row_->addWidget(title);
        for (std::size_t i = 0; i < chain.steps.size(); ++i) {
            auto* chip = new QPushButton;
            chip->setProperty("role", "chip");
            chip->setCheckable(true);
            connect(chip, &QPushButton::clicked, this, [this, i] { emit picked(static_cast<int>(i)); });
            row_->addWidget(chip);
            chips_.push_back(chip);
        }
        auto* add = new QPushButton(tr("+ Step"));
        add->setProperty("role", "add");
        add->setObjectName(QStringLiteral("addStep"));
        add->setToolTip(tr("Add a step behind the one that is selected, or the last (Ctrl+E)"));
        connect(add, &QPushButton::clicked, this, [this, add] { emit addAsked(add); });
        row_->addWidget(add);
        shown_ = chain.id;
    }
    for (std::size_t i = 0; i < chain.steps.size(); ++i) {
        const QString label = textOf(ensemble, chain, i);
        if (chips_[i]->text() != label) {
            chips_[i]->setText(label);
            row_->invalidate();
        }
        chips_[i]->setChecked(selected == static_cast<int>(i));
        chips_[i]->setToolTip(QString::fromUtf8(chain.steps[i].kind->help.data(),
                                                static_cast<int>(chain.steps[i].kind->help.size())));
    }
}

void StepChips::showStates(const Ensemble& ensemble, const Chain& chain, const ChainReading& reading) {
    std::size_t bit = 0;
    for (std::size_t i = 0; i < chips_.size() && i < chain.steps.size(); ++i) {
        const Step& step = chain.steps[i];
        if (!step.on) continue;
        const bool up = bit < 32 && (reading.stepsUp >> bit & 1) != 0;
        ++bit;
        const bool switches = step.kind->name == "gate" || step.kind->name == "latch";
        if (!switches || !reading.spoken) continue;
        const QString label = textOf(ensemble, chain, i) + (up ? tr(" · on") : tr(" · off"));
        if (chips_[i]->text() == label) continue;
        chips_[i]->setText(label);
        row_->invalidate();
    }
}

}  // namespace mellow::app
