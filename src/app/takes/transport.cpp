// A name that finds no room is cut; all of it is in the tooltip and in the list of takes.
#include "app/takes/transport.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <utility>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/takes/time_text.h"

namespace mellow::app {

namespace {

constexpr int nameWidth = 108;

enum class Mark { play, stop, recording };

QIcon iconOf(Mark mark, qreal ratio) {
    const int size = scaled(12);
    QPixmap picture(QSize(size, size) * ratio);
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(mark == Mark::recording ? theme().clay : theme().ink);
    if (mark == Mark::play) {
        QPainterPath path;
        path.moveTo(2, 0.5);
        path.lineTo(size - 0.5, size / 2.0);
        path.lineTo(2, size - 0.5);
        path.closeSubpath();
        painter.drawPath(path);
    } else {
        painter.drawRoundedRect(QRectF(1.5, 1.5, size - 3.0, size - 3.0), 1.5, 1.5);
    }
    return picture;
}

}  // namespace

Transport::Transport(Document& document, TakeWork& work, QWidget* parent)
    : QFrame(parent),
      document_(document),
      work_(work),
      act_(new QPushButton),
      name_(new QPushButton),
      time_(new MovingText(QStringLiteral("88:88.8"))) {
    setObjectName(QStringLiteral("transport"));
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(6), scaled(2), scaled(10), scaled(2));
    row->setSpacing(scaled(2));
    act_->setObjectName(QStringLiteral("play"));
    act_->setProperty("role", "inside");
    connect(act_, &QPushButton::clicked, this, &Transport::toggle);
    row->addWidget(act_);
    name_->setObjectName(QStringLiteral("whichTake"));
    name_->setProperty("role", "inside");
    name_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    connect(name_, &QPushButton::clicked, this, &Transport::showTakes);
    row->addWidget(name_);
    time_->setToolTip(tr("Where the take stands"));
    row->addWidget(time_);
    connect(&document_, &Document::changed, this, &Transport::follow);
    connect(&work_.choice, &TakeChoice::takeChanged, this, &Transport::follow);
    connect(&work_.playing, &TakePlaying::runChanged, this, &Transport::follow);
    connect(&work_.playing, &TakePlaying::moved, this, &Transport::showTime);
    follow();
}

Transport::Act Transport::act() const {
    return work_.recording.isOn() ? Act::end : work_.playing.isPlaying() ? Act::stop : Act::play;
}

void Transport::toggle() {
    if (act() == Act::end) return work_.recording.end();
    if (work_.choice.kept() == nullptr)
        return emit work_.choice.hinted(
            tr("There is no take yet. Record one (F3), keep what was just played "
               "(Ctrl+Shift+K on Takes), or import a MIDI file there."));
    if (act() == Act::play && !work_.choice.problem().isEmpty())
        return emit work_.choice.told(work_.choice.problem());
    work_.playing.toggle();
}

void Transport::showName(bool shown) {
    name_->setVisible(shown);
}

void Transport::follow() {
    const Act now = act();
    const KeptTake* kept = work_.choice.kept();
    const QString take = kept == nullptr ? tr("No take yet") : nameToShow(nameOf(*kept));
    // Icons and elided names cost more than all else that an edit changes here, which is nothing as a rule.
    const Shown shown{now, take, devicePixelRatioF()};
    if (std::exchange(shown_, shown) == shown) return showTime();
    act_->setIcon(iconOf(now == Act::play   ? Mark::play
                         : now == Act::stop ? Mark::stop
                                            : Mark::recording,
                         devicePixelRatioF()));
    act_->setAccessibleName(now == Act::play   ? tr("Play")
                            : now == Act::stop ? tr("Stop")
                                               : tr("End recording"));
    const QString name = now == Act::end ? tr("Recording") : take;
    act_->setToolTip(now == Act::play   ? tr("Play “%1” through the chains (Space or F5)").arg(take)
                     : now == Act::stop ? tr("Stop and let go (Space or F5)")
                                        : tr("End the recording (F3)"));
    name_->setText(QFontMetrics(font()).elidedText(name, Qt::ElideRight, scaled(nameWidth - 16)));
    name_->setFixedWidth(scaled(nameWidth));
    name_->setToolTip(tr("%1: another take, or record one").arg(take));
    name_->setAccessibleName(name);
    showTime();
}

void Transport::showTime() {
    time_->setText(TimeText::seconds(
        work_.recording.isOn() ? work_.recording.progress().first : work_.playing.position(), 1));
}

/// Takes of the document, and the way to one more.
void Transport::showTakes() {
    QMenu menu;
    menu.setObjectName(QStringLiteral("transportTakes"));
    const KeptTake* now = work_.choice.kept();
    for (const KeptTake& take : document_.ensemble().takes) {
        QAction* entry =
            menu.addAction(nameToShow(nameOf(take)).replace(QLatin1Char('&'), QStringLiteral("&&")), this,
                           [this, id = take.id] { work_.choice.choose(id); });
        entry->setCheckable(true);
        entry->setChecked(now != nullptr && take.id == now->id);
    }
    if (!menu.isEmpty()) menu.addSeparator();
    menu.addAction(work_.recording.isOn() ? tr("End the recording") : tr("Record"), &work_.recording,
                   &TakeRecording::toggle);
    menu.addAction(tr("Keep what was just played"), &work_.recording, &TakeRecording::keepJustPlayed);
    menu.addAction(tr("Show it on Takes"), this, [this] {
        const KeptTake* kept = work_.choice.kept();
        work_.choice.show(kept == nullptr ? std::string() : kept->id);
    });
    menu.exec(mapToGlobal(QPoint(0, height())));
}

void Transport::changeEvent(QEvent* event) {
    QFrame::changeEvent(event);
    if (event->type() != QEvent::StyleChange) return;
    shown_.reset();
    follow();
}

}  // namespace mellow::app
