#include "app/pages/balance/balance_page.h"

#include <QHBoxLayout>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/balance/curve_strips.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/make_action.h"
#include "core/text/numbers.h"

namespace mellow::app {

namespace {

QLabel* titled(QLabel* label, const char* role) {
    label->setProperty("role", role);
    return label;
}

QScrollArea* scrolled(QWidget* content) {
    auto* area = new QScrollArea;
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setFocusPolicy(Qt::NoFocus);
    area->setWidget(content);
    return area;
}

QString lu(double value) {
    return tenths(value) + QStringLiteral(" LU");
}

}  // namespace

BalancePage::BalancePage(Workspace& workspace, QWidget* parent)
    : Page(parent),
      workspace_(workspace),
      balancing_(new Balancing(workspace, this)),
      view_(new LoudnessView(*balancing_)),
      section_(new SectionList(workspace, *balancing_)),
      measure_(new MeasurePanel(workspace, *balancing_)),
      level_(new LevelPanel(workspace, *balancing_)),
      title_(titled(new ElidedLabel(nullptr, ElidedLabel::Takes::whatItNeeds), "title")),
      about_(titled(new ElidedLabel, "caption")),
      doubts_(new QLabel),
      after_(titled(new ElidedLabel, "caption")),
      empty_(new QLabel),
      pictures_(new QWidget) {
    setObjectName(QStringLiteral("middle"));
    setAttribute(Qt::WA_StyledBackground);
    measure_->addBelow(section_);
    build();
    buildActions();
    connect(&workspace_.selection, &Selection::changed, this, &BalancePage::followSelection);
    connect(balancing_, &Balancing::changed, this, &BalancePage::refresh);
    connect(&workspace_.live, &Live::moved, view_, &LoudnessView::showHand);
    connect(&workspace_.live, &Live::movedAtAGlance, section_, &SectionList::showHand);
    connect(&workspace_.document, &Document::changed, this, &BalancePage::followSelection);
    refresh();
}

void BalancePage::build() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(12), scaled(16), scaled(12));
    column->setSpacing(scaled(8));
    auto* head = new QHBoxLayout;
    head->setSpacing(scaled(12));
    head->addWidget(title_);
    head->addWidget(about_, 1);
    column->addLayout(head);
    empty_->setObjectName(QStringLiteral("balanceEmpty"));
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setWordWrap(true);
    empty_->setText(tr("There is no instrument to be measured yet."));
    column->addStretch(1);
    column->addWidget(empty_);
    add_ = new QPushButton(tr("Add an instrument"));
    add_->setObjectName(QStringLiteral("balanceAdd"));
    connect(add_, &QPushButton::clicked, this, [this] {
        workspace_.actions.addInstrument();
        workspace_.selection.go(BalancePlace{workspace_.document.ensemble().instruments.back().id});
    });
    column->addWidget(add_, 0, Qt::AlignHCenter);
    auto* parts = new QVBoxLayout(pictures_);
    parts->setContentsMargins(0, 0, 0, 0);
    parts->setSpacing(scaled(6));
    doubts_->setObjectName(QStringLiteral("balanceDoubts"));
    doubts_->setProperty("role", "trouble");
    doubts_->setWordWrap(true);
    parts->addWidget(view_, 6);
    parts->addWidget(doubts_);
    const auto line = [&](const QString& title, QLabel* caption) {
        auto* row = new QHBoxLayout;
        row->setSpacing(scaled(10));
        row->addWidget(titled(new QLabel(title), "section"));
        row->addWidget(caption, 1);
        parts->addLayout(row);
    };
    line(tr("Brightness"), titled(new QLabel(tr("the centre of the spectrum")), "caption"));
    parts->addWidget(new BrightnessStrip(*balancing_), 1);
    line(tr("After levelling"), after_);
    parts->addWidget(new AfterStrip(*balancing_), 2);
    column->addWidget(pictures_, 1000);
    column->addStretch(1);
}

QWidget* BalancePage::makeLeft() {
    auto* left = new QWidget;
    auto* column = new QVBoxLayout(left);
    column->addWidget(scrolled(measure_));
    return left;
}
QWidget* BalancePage::makeDetails() {
    return scrolled(level_);
}

void BalancePage::buildActions() {
    const auto add = [this](const QString& text, const QKeySequence& keys, const QString& tip, auto act) {
        actions_ << makeAction(this, text, keys, tip, act);
    };
    add(tr("&Measure again"), QKeySequence(Qt::Key_M), tr("Measure the instrument along what moves it"),
        [this] { balancing_->measure(); });
    add(tr("&Work out a level"), QKeySequence(Qt::Key_L),
        tr("Fit a target that makes loudness follow the line"), [this] { balancing_->level(); });
    add(tr("&Add it to the chain"), QKeySequence(Qt::CTRL | Qt::Key_Return),
        tr("Make what was worked out an edit"), [this] {
            if (balancing_->isProposed()) balancing_->take();
        });
    add(tr("&Hear the difference"), QKeySequence(Qt::Key_H),
        tr("Play the travel, or a take, as it is, and then levelled"),
        [this] { level_->hearing().isOn() ? level_->hearing().stop() : level_->hearing().start(); });
    add(tr("&Follow another’s loudness…"), {},
        tr("Make it as loud as another instrument at the same gesture"), [this] { level_->chooseOther(); });
    add(tr("&Even over the keys"), {}, tr("Level it from key to key"), [this] { level_->evenOverKeys(); });
    add(tr("&Never above the peak"), {}, tr("Leave it as it is, but for what exceeds the peak"),
        [this] { level_->holdBelow(); });
    add(tr("E&qual steps…"), {}, tr("Bend the chain so that equal travel gives equal steps"),
        [this] { level_->makeEqual(); });
    add(tr("Measure &them all"), {}, tr("Measure every instrument that this moves"),
        [this] { section_->measureAll(); });
    add(tr("&Keep these numbers"), {},
        tr("Keep the measurements of all with the ensemble; the Sheet can show them in columns"),
        [this] { section_->keepAll(); });
}

std::vector<PageActions> BalancePage::actions() const {
    return {{tr("&Balance"), actions_}};
}

/// The page shows the instrument that is selected, on whatever page; where none is, the first.
void BalancePage::followSelection() {
    if (!isVisible()) return;
    std::string wanted = workspace_.selection.on<BalancePlace>().instrument;
    if (wanted.empty()) wanted = balancing_->plan().instrument;
    if (wanted.empty() && !isShared(workspace_.selection.now()))
        wanted = workspace_.selection.now().instrument;
    const auto& instruments = workspace_.document.ensemble().instruments;
    if (findById(instruments, wanted) == nullptr)
        wanted = instruments.empty() ? std::string() : instruments.front().id;
    balancing_->setInstrument(wanted);
    refresh();
}

void BalancePage::refresh() {
    const Instrument* instrument = balancing_->instrument();
    empty_->setVisible(instrument == nullptr);
    add_->setVisible(instrument == nullptr);
    pictures_->setVisible(instrument != nullptr);
    if (instrument == nullptr) {
        title_->setText(tr("Loudness"));
        about_->clear();
        return;
    }
    const QString moved =
        toQt(balance::motionName(workspace_.document.ensemble(), *instrument, balancing_->plan().motion));
    title_->setText(tr("Loudness along %1").arg(moved));
    QString about = nameToShow(nameOf(*instrument));
    QStringList doubts;
    if (const auto& curve = balancing_->curve()) {
        const balance::Readout readout = balance::readoutOf(balance::meanOf(*curve));
        about += tr(": %1 from softest to loudest").arg(lu(readout.range));
        if (readout.bump > 0.5) about += tr(", goes back by %1").arg(lu(readout.bump));
        for (const std::string& each : balance::doubtsAbout(*curve)) {
            QString sentence = toQt(each) + QLatin1Char('.');
            sentence[0] = sentence[0].toUpper();
            doubts << sentence;
        }
        constexpr int most = 3;
        if (doubts.size() > most) doubts = doubts.mid(0, most) << tr("And more.");
    }
    about_->setText(about);
    doubts_->setText(doubts.join(QLatin1Char('\n')));
    doubts_->setVisible(!doubts.isEmpty());
    const auto& proposal = balancing_->proposal();
    after_->setText(
        proposal
            ? tr("measured: within %1 of the line, was %2").arg(lu(proposal->off), lu(proposal->offBefore))
            : QString());
}

void BalancePage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    followSelection();
    balancing_->setShown(true);
}
void BalancePage::hideEvent(QHideEvent* event) {
    Page::hideEvent(event);
    // Whoever plays elsewhere is to hear everything again.
    if (level_->hearing().isOn()) level_->hearing().stop();
    balancing_->setShown(false);
}

}  // namespace mellow::app
