// One row. Where it is short, the status gives way first: all of it is in its tooltip.
#include "app/header.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>

#include "app/theme/theme.h"

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

Header::Header(const QStringList& pages, QWidget* parent)
    : QWidget(parent),
      title_(new QLabel),
      pages_(new QButtonGroup(this)),
      play_(new QPushButton),
      tempo_(new QPushButton),
      hand_(new QLabel),
      troubles_(new QPushButton),
      status_(new TwoLines) {
    setObjectName(QStringLiteral("header"));
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(18), 0, scaled(18), 0);
    row->setSpacing(scaled(7));
    title_->setProperty("role", "title");
    hand_->setObjectName(QStringLiteral("whoIsInHand"));
    hand_->setProperty("role", "caption");
    hand_->setToolTip(tr("Who is in hand: the number keys choose on the Desk page"));
    auto* names = new QVBoxLayout;
    names->setSpacing(0);
    names->addStretch(1);
    names->addWidget(title_);
    names->addWidget(hand_);
    names->addStretch(1);
    row->addLayout(names);
    row->addSpacing(scaled(8));
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
    status_->setObjectName(QStringLiteral("status"));
    row->addWidget(status_, 1);
    row->addSpacing(scaled(8));
    tempo_->setObjectName(QStringLiteral("tempo"));
    tempo_->setProperty("role", "number");
    tempo_->setFont(numberFont());
    tempo_->setToolTip(tr("The tempo; tap here to set it (F6)"));
    tempo_->setAccessibleName(tr("Tap the tempo"));
    connect(tempo_, &QPushButton::pressed, this, &Header::tempoTapped);
    row->addWidget(tempo_);
    in_ = addRate(false, tr("Messages that come in"));
    out_ = addRate(true, tr("Messages that go out"));
    troubles_->setObjectName(QStringLiteral("allTroubles"));
    troubles_->setProperty("role", "danger");
    troubles_->setToolTip(tr("Everything that checks found, with its cures (F4)"));
    troubles_->hide();
    connect(troubles_, &QPushButton::clicked, this, &Header::checksAsked);
    row->addWidget(troubles_);
    play_->setObjectName(QStringLiteral("play"));
    connect(play_, &QPushButton::clicked, this, &Header::playAsked);
    row->addWidget(play_);
    auto* silence = new QPushButton(tr("Silence all"));
    silence->setObjectName(QStringLiteral("silence"));
    silence->setToolTip(tr("End every note and let go of every pedal (Esc)"));
    connect(silence, &QPushButton::clicked, this, &Header::silenceAsked);
    row->addWidget(silence);
}

MovingText* Header::addRate(bool pointed, const QString& tip) {
    auto* row = static_cast<QHBoxLayout*>(layout());
    auto* picture = new QLabel;
    picture->setPixmap(mark(pointed, devicePixelRatioF()));
    picture->setToolTip(tip);
    auto* text = new MovingText(tr("out 99999/s"), Qt::AlignLeft | Qt::AlignVCenter);
    text->setToolTip(tip);
    row->addWidget(picture);
    row->addWidget(text);
    return text;
}

void Header::showTempo(double bpm, const QString& from) {
    const QString tempo = tr("%1 bpm").arg(bpm, 0, 'f', 1);
    tempo_->setText(from.isEmpty() ? tempo : tempo + QStringLiteral(" · ") + from);
    tempo_->setVisible(bpm > 0);
}

void Header::showHand(const QString& who) {
    hand_->setVisible(!who.isEmpty());
    hand_->setText(tr("in hand: %1").arg(who));
}

void Header::showTroubles(int troubles) {
    troubles_->setVisible(troubles > 0);
    troubles_->setText(tr("%n trouble(s)", nullptr, troubles));
}

void Header::showTitle(const QString& title, const QString& path) {
    title_->setText(title);
    title_->setToolTip(path.isEmpty() ? tr("Not saved yet") : path);
}

void Header::showPage(int page) {
    if (QAbstractButton* tab = pages_->button(page)) tab->setChecked(true);
}

void Header::showHands(const QString& name, bool playing) {
    play_->setText(playing ? tr("Stop") : !name.isEmpty() ? tr("Play “%1”").arg(name) : tr("Play hands"));
    play_->setToolTip(playing ? tr("Stop and let go (F5)")
                              : tr("Play recorded hands through the chains (F5)"));
}

void Header::showRates(int in, int out) {
    in_->setText(tr("in %1/s").arg(in));
    out_->setText(tr("out %1/s").arg(out));
}

void Header::showStatus(const QString& status) {
    status_->setText(status);
}

}  // namespace mellow::app
