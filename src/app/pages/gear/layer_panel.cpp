// Whose layers: those in hand, all, or those of a section. The choice is a matter of looking and is not
// written anywhere.
#include "app/pages/gear/layer_panel.h"

#include <QMenu>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/flow_layout.h"
#include "core/describe/heard.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

using layering::Along;
using layering::Fading;

// What the choice holds before the sections.
constexpr int inHand = 0;
constexpr int everybody = 1;
constexpr int sections = 2;

}  // namespace

LayerPanel::LayerPanel(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      choice_(new QComboBox),
      words_(new ElidedLabel),
      empty_(new QLabel(tr("Nobody is in hand here. Choose all instruments, or a section."))),
      board_(new LayerBoard(workspace)),
      sideBySide_(new QPushButton(tr("Side by side"))),
      softToLoud_(new QPushButton(tr("Soft to loud"))),
      fade_(new QPushButton(tr("Crossfade"))) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(scaled(6));
    auto* head = new FlowLayout(scaled(6));
    choice_->setObjectName(QStringLiteral("layersOf"));
    choice_->setAccessibleName(tr("Whose layers"));
    choice_->setToolTip(tr("Whose layers are drawn"));
    choice_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    head->addWidget(choice_);
    words_->setObjectName(QStringLiteral("layerWords"));
    words_->setProperty("role", "caption");
    sideBySide_->setObjectName(QStringLiteral("sideBySide"));
    sideBySide_->setToolTip(tr("Share the keys out among these layers, in their order"));
    connect(sideBySide_, &QPushButton::clicked, this, [this] { spread(Along::keys); });
    head->addWidget(sideBySide_);
    softToLoud_->setObjectName(QStringLiteral("softToLoud"));
    softToLoud_->setToolTip(tr("Share the velocities out among these layers, the softest first"));
    connect(softToLoud_, &QPushButton::clicked, this, [this] { spread(Along::velocities); });
    head->addWidget(softToLoud_);
    fade_->setObjectName(QStringLiteral("crossfade"));
    fade_->setToolTip(
        tr("Let the selected layer and its neighbour fade into each other, by chains that you can change"));
    auto* fades = new QMenu(fade_);
    const auto add = [&](const QString& text, Along along, Fading fading) {
        fades->addAction(text, this, [this, along, fading] { crossfade(along, fading); });
    };
    add(tr("By key: the velocity of the notes"), Along::keys, Fading::velocity);
    add(tr("By key: the level"), Along::keys, Fading::level);
    add(tr("By velocity: the velocity of the notes"), Along::velocities, Fading::velocity);
    add(tr("By velocity: the level"), Along::velocities, Fading::level);
    fades->addSeparator();
    fades->addAction(tr("Take the crossfade away"), this, &LayerPanel::removeCrossfade);
    fade_->setMenu(fades);
    head->addWidget(fade_);
    column->addLayout(head);
    column->addWidget(words_);
    column->addWidget(board_, 1);
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setWordWrap(true);
    empty_->setProperty("role", "help");
    column->addWidget(empty_, 1);
    connect(choice_, &QComboBox::activated, this, &LayerPanel::follow);
    connect(&workspace_.document, &Document::changed, this, &LayerPanel::follow);
    connect(&workspace_.live, &Live::movedAtAGlance, this, &LayerPanel::follow);
    connect(board_, &LayerBoard::selectionChanged, this, &LayerPanel::follow);
    connect(board_, &LayerBoard::fadeOpened, this,
            [this](const std::string& owner, const std::string& chain) {
                workspace_.show(Selected{owner, chain, Part::source, 0, 0});
            });
    follow();
}

void LayerPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    follow();
}

void LayerPanel::fillChoice() {
    QStringList names{tr("In hand"), tr("All instruments")};
    for (const Section& section : workspace_.document.ensemble().sections)
        names << nameToShow(nameOf(section));
    QStringList now;
    for (int i = 0; i < choice_->count(); ++i) now << choice_->itemText(i);
    if (now == names) return;
    const QSignalBlocker quiet(choice_);
    const int chosen = choice_->currentIndex();
    choice_->clear();
    choice_->addItems(names);
    choice_->setCurrentIndex(chosen >= 0 && chosen < names.size() ? chosen : inHand);
}

std::vector<std::string> LayerPanel::wanted() const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    const int chosen = choice_->currentIndex();
    std::vector<std::string> ids;
    if (chosen >= sections && chosen - sections < static_cast<int>(ensemble.sections.size())) {
        const auto place = static_cast<std::size_t>(chosen - sections);
        for (const Instrument* each : instrumentsOf(ensemble, ensemble.sections[place].id))
            ids.push_back(each->id);
        return ids;
    }
    for (const Instrument& each : ensemble.instruments) {
        if (chosen == everybody || workspace_.live.readings().instrument(each.id).inHand)
            ids.push_back(each.id);
    }
    return ids;
}

void LayerPanel::follow() {
    if (!isVisible()) return;
    fillChoice();
    board_->show(wanted());
    const bool some = !board_->shown().empty();
    board_->setVisible(some);
    empty_->setVisible(!some);
    const QString words = board_->accessibleDescription();
    words_->setText(words_->fontMetrics().elidedText(words, Qt::ElideRight, words_->width()));
    words_->setToolTip(words);
    const bool several = board_->shown().size() > 1;
    for (QPushButton* button : {sideBySide_, softToLoud_, fade_}) button->setEnabled(several);
}

void LayerPanel::spread(Along along) {
    workspace_.document.edit(
        along == Along::keys ? tr("Layers side by side") : tr("Layers from soft to loud"),
        [&](Ensemble& e) { layering::spread(e, board_->shown(), along); });
}

std::optional<std::string> LayerPanel::neighbour(Along along) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    const auto above = layering::neighbourOf(ensemble, board_->selected(), board_->shown(), along);
    if (above) return above;
    for (const std::string& each : board_->shown()) {
        if (layering::neighbourOf(ensemble, each, board_->shown(), along) == board_->selected()) return each;
    }
    return std::nullopt;
}

void LayerPanel::crossfade(Along along, Fading fading) {
    const auto other = neighbour(along);
    if (!other) {
        workspace_.tell(
            along == Along::keys
                ? tr("No other layer lies beside this one. Lay them side by side first.")
                : tr("No other layer lies above or below this one. Lay them from soft to loud first."));
        return;
    }
    bool done = false;
    workspace_.document.edit(tr("Crossfade"), [&](Ensemble& e) {
        done = layering::crossfade(e, board_->selected(), *other, along, fading);
    });
    if (!done) workspace_.tell(tr("One of the two has no level that could fade."));
}

void LayerPanel::removeCrossfade() {
    workspace_.document.edit(tr("Take the crossfade away"), [&](Ensemble& e) {
        for (const layering::Fade& fade : layering::fadesOf(e)) {
            if (fade.instrument == board_->selected() || fade.other == board_->selected())
                layering::removeCrossfade(e, fade.instrument, fade.other, fade.along);
        }
    });
}

}  // namespace mellow::app
