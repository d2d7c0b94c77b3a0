// Two parts share one height: the list takes what its rows need, as far as that leaves the lever the height
// at which it reads well, and two rows at least. The page decides nothing else.
#include "app/chains/chains_page.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <algorithm>

#include "app/details/editors.h"
#include "app/theme/theme.h"

namespace mellow::app {

namespace {

constexpr int leverHeight = 320;  ///< with two lines of sentence and one of steps, before it scrolls

}  // namespace

ChainsPage::ChainsPage(Document& document, Selection& selection, Live& live, ChainActions& actions,
                       QWidget* parent)
    : QWidget(parent),
      document_(document),
      selection_(selection),
      title_(new QLabel),
      summary_(new QLabel),
      add_(new QPushButton(tr("Add chain"))),
      list_(new ChainList(document, selection, live)),
      scroll_(new QScrollArea),
      lever_(new LeverView(document, selection, live)) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(14), scaled(10), scaled(14), scaled(10));
    column->setSpacing(scaled(8));
    auto* head = new QHBoxLayout;
    title_->setProperty("role", "title");
    summary_->setProperty("role", "caption");
    summary_->setObjectName(QStringLiteral("summary"));
    add_->setObjectName(QStringLiteral("addChain"));
    add_->setToolTip(tr("Add a chain to this instrument"));
    head->addWidget(title_);
    head->addSpacing(scaled(8));
    head->addWidget(summary_, 1);
    head->addWidget(add_);
    column->addLayout(head);
    list_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    column->addWidget(list_);
    // More targets than fit are reached by scrolling sideways.
    scroll_->setWidgetResizable(true);
    scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAsNeeded);
    scroll_->setWidget(lever_);
    column->addWidget(scroll_, 1);
    connect(add_, &QPushButton::clicked, &actions, &ChainActions::addChain);
    connect(lever_, &LeverView::addStepAsked, &actions,
            [&actions](const StepKind* kind) { actions.addStep(*kind); });
    connect(lever_, &LeverView::addBranchAsked, &actions, &ChainActions::addBranch);
    connect(lever_, &LeverView::addInstrumentAsked, &actions, &ChainActions::addInstrument);
    connect(lever_, &LeverView::addChainAsked, &actions, &ChainActions::addChain);
    connect(lever_, &LeverView::refused, this, &ChainsPage::refused);
    connect(&document_, &Document::changed, this, &ChainsPage::follow);
    connect(&selection_, &Selection::changed, this, &ChainsPage::follow);
    follow();
}

/// Where height is short, the list gives way down to two rows before the lever must scroll.
void ChainsPage::shareHeight() {
    const int whole = list_->sizeHint().height();
    const int left = height() - scaled(80) - scaled(leverHeight);
    list_->setFixedHeight(std::clamp(left, std::min(whole, list_->rowsHeight(2)), whole));
}

void ChainsPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    shareHeight();
}

void ChainsPage::follow() {
    const Ensemble& ensemble = document_.ensemble();
    const Instrument* instrument = instrumentOf(ensemble, selection_.now());
    const std::vector<Chain>* chains = chainsOf(ensemble, selection_.now());
    add_->setEnabled(chains != nullptr);
    add_->setToolTip(instrument != nullptr ? tr("Add a chain to this instrument")
                                           : tr("Add a chain that leads to any instrument"));
    list_->setVisible(chains != nullptr && !chains->empty());
    shareHeight();
    if (chains == nullptr) {
        title_->setText(tr("Chains"));
        summary_->clear();
        return;
    }
    title_->setText(instrument != nullptr ? QString::fromStdString(nameOf(*instrument))
                                          : tr("Shared chains"));
    std::size_t targets = 0;
    for (const Chain& chain : *chains) targets += chain.branches.size();
    const auto place = ownerPlace(ensemble, selection_.now());
    const auto troubles = std::count_if(
        document_.findings().begin(), document_.findings().end(), [place](const Finding& finding) {
            return finding.severity == Severity::trouble && finding.place.instrument == place &&
                   (place || finding.place.chain);
        });
    const QString state = troubles == 0
                              ? tr("all clear")
                              : counted(static_cast<std::size_t>(troubles), tr("trouble"), tr("troubles"));
    summary_->setText(QStringLiteral("%1 · %2 · %3")
                          .arg(counted(chains->size(), tr("chain"), tr("chains")),
                               counted(targets, tr("target"), tr("targets")), state));
}

}  // namespace mellow::app
