#include "app/pages/chains/first_steps.h"

#include <QHBoxLayout>
#include <QStyle>
#include <QVBoxLayout>

#include "app/acts/reuse/reuse.h"
#include "app/ground/words.h"

namespace mellow::app {

FirstSteps::FirstSteps(Workspace& workspace, QWidget* parent)
    : QFrame(parent), workspace_(workspace), meter_(new LevelBar), away_(new QPushButton) {
    setObjectName(QStringLiteral("firstSteps"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("From nothing to a moving meter"));
    title->setProperty("role", "title");
    title->setWordWrap(true);
    head->addWidget(title, 1);
    away_->setObjectName(QStringLiteral("firstAway"));
    away_->setProperty("role", "plain");
    connect(away_, &QPushButton::clicked, this, [this] {
        began_ = false;
        hide();
    });
    head->addWidget(away_);
    column->addLayout(head);
    auto* row = new QWidget;
    auto* cards = new QHBoxLayout(row);
    cards->setContentsMargins(0, 0, 0, 0);
    cards->setSpacing(scaled(10));
    column->addWidget(row);
    const auto button = [this](const Card& card, const QString& text, const QString& tip, const char* name,
                               auto act) {
        auto* made = new QPushButton(text);
        made->setObjectName(QLatin1String(name));
        made->setToolTip(tip);
        connect(made, &QPushButton::clicked, this, act);
        card.frame->layout()->addWidget(made);
    };
    cards_[0] =
        addCard(row, tr("An instrument"),
                tr("What you want to play. It plays to the practice rack, which you can hear; your own "
                   "port is chosen later."));
    button(cards_[0], tr("Add an instrument"), tr("One that listens to what nearly all do (Ctrl+Shift+N)"),
           "firstInstrument", [this] { workspace_.actions.addInstrument(); });
    button(cards_[0], tr("From the library…"), tr("One that is known by name (Ctrl+L)"), "firstLibrary",
           [this] { workspace_.reuse.find(this); });
    cards_[1] =
        addCard(row, tr("A control"),
                tr("Press the button, then move a wheel, slider or pedal. Without hardware, drag Wheel "
                   "at the bottom of the window."));
    button(cards_[1], tr("Learn: move a control"), tr("What you move becomes the source (L)"), "firstLearn",
           [this] { workspace_.learn.start(); });
    cards_[2] = addCard(row, tr("The meter"),
                        tr("Keep moving. What the hand does is round, what is sent is pointed. This is what "
                           "arrives:"));
    meter_->setFixedHeight(scaled(10));
    meter_->setObjectName(QStringLiteral("firstMeter"));
    meter_->setAccessibleName(tr("What is sent"));
    cards_[2].frame->layout()->addWidget(meter_);
    for (const Card& card : cards_) static_cast<QVBoxLayout*>(card.frame->layout())->addStretch(1);
    settles_.setSingleShot(true);
    connect(&settles_, &QTimer::timeout, this, &FirstSteps::settle);
    connect(&workspace_.document, &Document::changed, this, &FirstSteps::follow);
    connect(&workspace_.document, &Document::replaced, this, [this] {
        began_ = false;
        moved_ = false;
        meter_->show(0);
    });
    connect(&workspace_.live, &Live::moved, this, &FirstSteps::followValue);
    follow();
}

void FirstSteps::hideEvent(QHideEvent* event) {
    QFrame::hideEvent(event);
    if (next() != 0 || !began_) return;
    began_ = false;
    hide();
}

/// What is inside has changed its mind about its height: other words, other fonts, other cards.
bool FirstSteps::event(QEvent* event) {
    const bool done = QFrame::event(event);
    if (event->type() == QEvent::LayoutRequest) needRoom();
    return done;
}

QSize FirstSteps::minimumSizeHint() const {
    int widest = 0;
    for (const Card& card : cards_) widest = std::max(widest, card.frame->minimumSizeHint().width());
    return {widest + 2 * scaled(16), QFrame::minimumSizeHint().height()};
}

void FirstSteps::resizeEvent(QResizeEvent* event) {
    QFrame::resizeEvent(event);
    shareRoom();
}

void FirstSteps::showEvent(QShowEvent* event) {
    QFrame::showEvent(event);
    shareRoom();
}

void FirstSteps::changeEvent(QEvent* event) {
    QFrame::changeEvent(event);
    settles_.start(0);
}

/// Where three cards find no room beside one another, only the one is there that says what is to be done now.
/// What wraps needs the height that it has at this width, also where there is little.
void FirstSteps::shareRoom() {
    int beside = 2 * scaled(16) + 2 * scaled(10);
    for (const Card& card : cards_) beside += card.frame->minimumSizeHint().width();
    const bool fits = beside <= width();
    const int now = next() == 0 ? static_cast<int>(cards_.size()) : next();
    for (int i = 0; i < static_cast<int>(cards_.size()); ++i)
        cards_.at(static_cast<std::size_t>(i)).frame->setVisible(fits || i + 1 == now);
    needRoom();
    settles_.start(0);
}

/// Cards that come, go or look otherwise tell of it one after the other, and a style says nothing at all; so
/// once all of that is over, nothing of what was worked out before is believed.
void FirstSteps::settle() {
    for (const Card& card : cards_) {
        card.frame->layout()->invalidate();
        card.frame->updateGeometry();
    }
    cards_[0].frame->parentWidget()->layout()->invalidate();
    layout()->invalidate();
    needRoom();
}

void FirstSteps::needRoom() {
    if (!isVisible()) return;
    layout()->activate();
    setMinimumHeight(hasHeightForWidth() ? heightForWidth(width()) : sizeHint().height());
}

FirstSteps::Card FirstSteps::addCard(QWidget* row, const QString& title, const QString& words) {
    Card card;
    card.frame = new QFrame;
    card.frame->setObjectName(QStringLiteral("firstCard"));
    card.frame->setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(card.frame);
    column->setContentsMargins(scaled(12), scaled(10), scaled(12), scaled(10));
    column->setSpacing(scaled(6));
    card.number = new QLabel;
    card.number->setProperty("role", "caption");
    card.title = new QLabel(title);
    card.words = new QLabel(words);
    card.words->setWordWrap(true);
    card.words->setProperty("role", "help");
    column->addWidget(card.number);
    column->addWidget(card.title);
    column->addWidget(card.words);
    row->layout()->addWidget(card.frame);
    return card;
}

const Chain* FirstSteps::firstChain(std::string& owner) const {
    for (const Instrument& instrument : workspace_.document.ensemble().instruments) {
        owner = instrument.id;
        if (!instrument.chains.empty()) return &instrument.chains.front();
    }
    return nullptr;
}

int FirstSteps::next() const {
    std::string owner;
    if (workspace_.document.ensemble().instruments.empty()) return 1;
    if (firstChain(owner) == nullptr) return 2;
    return moved_ ? 0 : 3;
}

void FirstSteps::follow() {
    if (workspace_.document.ensemble().instruments.empty()) began_ = true;
    const int now = next();
    // Where all is done it stays until it is put away, or another page is shown: nothing moves by itself.
    setVisible(began_);
    away_->setText(now == 0 ? tr("All done: put away") : tr("Put away"));
    for (int i = 0; i < static_cast<int>(cards_.size()); ++i) {
        const bool done = now == 0 || i + 1 < now;
        cards_.at(static_cast<std::size_t>(i))
            .number->setText(done           ? tr("%1 · done").arg(i + 1)
                             : i + 1 == now ? tr("%1 · now").arg(i + 1)
                                            : QString::number(i + 1));
        QFrame* frame = cards_.at(static_cast<std::size_t>(i)).frame;
        if (frame->property("now").toBool() == (i + 1 == now)) continue;
        frame->setProperty("now", i + 1 == now);
        frame->style()->unpolish(frame);
        frame->style()->polish(frame);
    }
    shareRoom();
}

void FirstSteps::followValue() {
    if (!isVisible()) return;
    std::string owner;
    const Chain* chain = firstChain(owner);
    if (chain == nullptr) return;
    const ChainReading reading = workspace_.live.reading(owner, chain->id);
    if (!reading.spoken || reading.values.empty()) return;
    const double before = meter_->level();
    meter_->show(std::max(0.0, reading.values.front()));
    if (moved_ || meter_->level() == before) return;
    moved_ = true;
    follow();
}

}  // namespace mellow::app
