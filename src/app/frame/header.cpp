// What is shown at all is worked out anew when a text, a font or the width has changed.
#include "app/frame/header.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

/// The two marks of the program: a round one for what is played, a pointed one for what is sent.
QPixmap mark(bool pointed, qreal ratio) {
    const int size = scaled(12);
    QPixmap picture(static_cast<int>(size * ratio), static_cast<int>(size * ratio));
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(pointed ? theme().mint : theme().honey);
    if (pointed) {
        QPainterPath path;
        path.moveTo(1, size / 2.0);
        path.lineTo(size - 1.0, 1);
        path.lineTo(size - 1.0, size - 1.0);
        path.closeSubpath();
        painter.drawPath(path);
    } else {
        painter.drawEllipse(QRectF(1.5, 1.5, size - 3.0, size - 3.0));
    }
    return picture;
}

}  // namespace

Header::Header(const QStringList& pages, Transport* transport, QWidget* parent)
    : QWidget(parent),
      title_(new QLabel),
      pages_(new QButtonGroup(this)),
      transport_(transport),
      tempo_(new QPushButton),
      hand_(new QLabel),
      troubles_(new QPushButton),
      ports_(new PortsPill),
      silence_(new QPushButton) {
    setObjectName(QStringLiteral("header"));
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(18), 0, scaled(14), 0);
    row->setSpacing(scaled(6));
    row->setSizeConstraint(QLayout::SetNoConstraint);
    title_->setObjectName(QStringLiteral("ensembleTitle"));
    title_->setProperty("role", "title");
    title_->setCursor(Qt::IBeamCursor);
    title_->installEventFilter(this);
    hand_->setObjectName(QStringLiteral("whoIsInHand"));
    hand_->setProperty("role", "caption");
    auto* names = new QVBoxLayout;
    names->setSpacing(0);
    names->addStretch(1);
    names->addWidget(title_);
    names->addWidget(hand_);
    names->addStretch(1);
    row->addLayout(names);
    row->addSpacing(scaled(6));
    for (int page = 0; page < pages.size(); ++page) {
        auto* tab = new QPushButton(pages[page]);
        tab->setCheckable(true);
        tab->setProperty("role", "page");
        tab->setObjectName(QStringLiteral("page%1").arg(page + 1));
        tab->setToolTip(tr("%1 (Ctrl+%2)").arg(pages[page]).arg(page + 1));
        pages_->addButton(tab, page);
        row->addWidget(tab, 0, Qt::AlignBottom);
    }
    connect(pages_, &QButtonGroup::idClicked, this, &Header::pageAsked);
    row->addStretch(1);
    row->addWidget(transport_, 0, Qt::AlignVCenter);
    tempo_->setObjectName(QStringLiteral("tempo"));
    tempo_->setProperty("role", "number");
    tempo_->setFont(numberFont());
    tempo_->setAccessibleName(tr("Tap the tempo"));
    connect(tempo_, &QPushButton::pressed, this, &Header::tempoTapped);
    row->addWidget(tempo_);
    row->addWidget(ports_);
    in_ = addRate(false, tr("Messages that come in, a second"));
    out_ = addRate(true, tr("Messages that go out, a second"));
    troubles_->setObjectName(QStringLiteral("allTroubles"));
    troubles_->setProperty("role", "danger");
    troubles_->setToolTip(tr("Everything that checks found, with its cures (F4)"));
    troubles_->hide();
    connect(troubles_, &QPushButton::clicked, this, &Header::checksAsked);
    row->addWidget(troubles_);
    silence_->setObjectName(QStringLiteral("silence"));
    silence_->setToolTip(tr("Silence all: end every note and let go of every pedal (Esc)"));
    silence_->setAccessibleName(tr("Silence all"));
    connect(silence_, &QPushButton::clicked, this, &Header::silenceAsked);
    row->addWidget(silence_);
    paintMarks();
    shorten(0);
}

MovingText* Header::addRate(bool pointed, const QString& tip) {
    auto* row = static_cast<QHBoxLayout*>(layout());
    auto* picture = new QLabel;
    picture->setToolTip(tip);
    picture->setProperty("pointed", pointed);
    marks_.push_back(picture);
    auto* text = new MovingText(QStringLiteral("9999"), Qt::AlignRight | Qt::AlignVCenter);
    text->setToolTip(tip);
    row->addWidget(picture);
    row->addWidget(text);
    return text;
}

void Header::paintMarks() {
    for (QLabel* each : marks_)
        each->setPixmap(mark(each->property("pointed").toBool(), devicePixelRatioF()));
}

void Header::showTempo(double bpm, const QString& from) {
    const QString tempo = bpm > 0 ? QString::number(bpm, 'f', 1) : QString();
    if (tempo == tempoText_ && from == tempoFrom_) return;
    tempoText_ = tempo;
    tempoFrom_ = from;
    fit();
}

void Header::showHand(const QString& who) {
    const QString text = who.isEmpty() ? QString() : tr("in hand: %1").arg(who);
    if (std::exchange(handText_, text) != text) fit();
}

void Header::showTroubles(int troubles) {
    if (std::exchange(count_, troubles) == troubles) return;
    troubles_->setVisible(troubles > 0);
    fit();
}

void Header::showTitle(const QString& title, const QString& path) {
    title_->setToolTip(title + QLatin1Char('\n') + (path.isEmpty() ? tr("Not saved yet") : path) +
                       QLatin1Char('\n') + tr("A click names it anew"));
    if (std::exchange(titleText_, title) != title) fit();
}

void Header::showPage(int page) {
    if (QAbstractButton* tab = pages_->button(page)) tab->setChecked(true);
}

void Header::showRates(int in, int out) {
    in_->setText(QString::number(in));
    in_->setAccessibleName(tr("in %1/s").arg(in));
    out_->setText(QString::number(out));
    out_->setAccessibleName(tr("out %1/s").arg(out));
}

namespace {

constexpr int widestTitle = 240;
constexpr int narrowTitle = 130;
constexpr int narrowestTitle = 70;
constexpr int shortest = 7;

}  // namespace

/// by: 0 shows all; every further number takes away one thing more.
void Header::shorten(int by) {
    const int titleWidth = scaled(by < 1 ? widestTitle : by < 6 ? narrowTitle : narrowestTitle);
    const auto cut = [titleWidth](QLabel* label, const QString& text) {
        label->setText(QFontMetrics(label->font()).elidedText(text, Qt::ElideRight, titleWidth));
    };
    cut(title_, titleText_);
    cut(hand_, handText_);
    hand_->setVisible(!handText_.isEmpty());
    hand_->setToolTip(tr("%1; the number keys choose on the Desk page").arg(handText_));
    const QString bpm = tr("%1 bpm").arg(tempoText_);
    const QString all = tempoFrom_.isEmpty() ? bpm : bpm + QStringLiteral(" · ") + tempoFrom_;
    tempo_->setText(by < 2 ? all : by < 4 ? bpm : tempoText_);
    tempo_->setToolTip(tr("The tempo, %1; tap here to set it (F6)").arg(all));
    tempo_->setVisible(!tempoText_.isEmpty() && by < 7);
    transport_->showName(by < 3);
    ports_->showWord(by < 4);
    for (QWidget* rate : std::initializer_list<QWidget*>{in_, out_, marks_[0], marks_[1]})
        rate->setVisible(by < 5);
    troubles_->setText(by < 7 ? tr("%n trouble(s)", nullptr, count_) : QString::number(count_));
    troubles_->setAccessibleName(tr("%n trouble(s)", nullptr, count_));
    silence_->setText(by < 6 ? tr("Silence all") : tr("Silence"));
}

int Header::wanted() const {
    transport_->layout()->invalidate();
    layout()->invalidate();
    return layout()->minimumSize().width();
}

void Header::fit() {
    for (int shortness = 0; shortness <= shortest; ++shortness) {
        shorten(shortness);
        if (wanted() <= width()) return;
    }
}

void Header::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    fit();
}

void Header::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() != QEvent::StyleChange) return;
    paintMarks();
    fit();
}

bool Header::eventFilter(QObject* watched, QEvent* event) {
    if (watched == title_ && event->type() == QEvent::MouseButtonRelease) emit titleAsked(title_);
    return QWidget::eventFilter(watched, event);
}

/// Fonts are known now.
void Header::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    for (QWidget* each : findChildren<QWidget*>()) each->ensurePolished();
    fit();
}

}  // namespace mellow::app
