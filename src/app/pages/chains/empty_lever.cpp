#include "app/pages/chains/empty_lever.h"

#include <QVBoxLayout>

#include "app/ground/theme.h"

namespace mellow::app {

EmptyLever::EmptyLever(Workspace& workspace, QWidget* parent)
    : QWidget(parent), workspace_(workspace), text_(new QLabel), act_(new QPushButton) {
    auto* column = new QVBoxLayout(this);
    text_->setAlignment(Qt::AlignCenter);
    text_->setWordWrap(true);
    text_->setProperty("role", "help");
    act_->setObjectName(QStringLiteral("emptyAct"));
    column->addStretch(1);
    column->addWidget(text_);
    column->addSpacing(scaled(8));
    column->addWidget(act_, 0, Qt::AlignHCenter);
    learn_ = new QPushButton(tr("Or learn: move a control"));
    learn_->setObjectName(QStringLiteral("emptyLearn"));
    learn_->setToolTip(tr("The control that you move becomes the source of a new chain (L)"));
    connect(learn_, &QPushButton::clicked, this, [this] { workspace_.learn.start(); });
    column->addSpacing(scaled(4));
    column->addWidget(learn_, 0, Qt::AlignHCenter);
    column->addStretch(1);
    connect(act_, &QPushButton::clicked, this, [this] {
        if (chainsOf(workspace_.document.ensemble(), workspace_.selection.now()) == nullptr) {
            workspace_.actions.addInstrument();
        } else {
            workspace_.actions.addChain();
        }
    });
}

void EmptyLever::follow() {
    const std::vector<Chain>* chains = chainsOf(workspace_.document.ensemble(), workspace_.selection.now());
    const bool noChain = chains != nullptr && chains->empty();
    const bool shared = isShared(workspace_.selection.now());
    text_->setText(
        chains == nullptr ? tr("An ensemble begins with an instrument: something that you want to play.")
        : !noChain        ? tr("Choose a chain above to see it as a lever.")
        : shared
            ? tr("No shared chain yet. A shared chain takes a control once, and leads it to any instrument, "
                 "or to a tie line that many chains follow.")
            : tr("No chain yet. A chain takes a control that you play and leads it to what this "
                 "instrument listens to."));
    act_->setText(chains == nullptr ? tr("Add an instrument") : tr("Add a chain"));
    act_->setVisible(chains == nullptr || noChain);
    learn_->setVisible(chains == nullptr || noChain);
}

}  // namespace mellow::app
