// What is struck comes from the practice keys' port, like all that is played on the keyboard at the bottom,
// which can be folded away then. Keys are shown as down whoever pressed them.
#include "app/pages/desk/keys_surface.h"

#include <QPainter>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/live/in_hand.h"

namespace mellow::app {

namespace {

constexpr int whiteKey = 18;  ///< px, at least
constexpr int whitesOfAnOctave = 7;
constexpr int octave = 12;

}  // namespace

KeysSurface::KeysSurface(Workspace& workspace, const DeskElement& element, QWidget* parent)
    : Surface(workspace, element, parent), keyboard_(new Keyboard(this)) {
    setFocusProxy(keyboard_);
    connect(keyboard_, &Keyboard::played, this,
            [this](const midi::Short& message) { live().hands().send(message); });
    connect(&live(), &Live::cameIn, this, [this](const io::Happening& happening) {
        const midi::Bytes bytes = happening.message.bytes();
        if (midi::isNoteOn(bytes) || midi::isNoteOff(bytes))
            keyboard_->showKey(bytes[1], midi::isNoteOn(bytes));
    });
}

/// Nothing is left sounding by a keyboard that goes.
KeysSurface::~KeysSurface() {
    keyboard_->letGo();
}

void KeysSurface::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.panel);
    painter.drawRoundedRect(QRectF(rect()), 10, 10);
    painter.setFont(captionFont());
    painter.setPen(t.dim);
    painter.drawText(inner(), Qt::AlignTop | Qt::AlignLeft, nameToShow(nameOf(element())));
}

void KeysSurface::valuesMoved() {
    if (isVisible()) keyboard_->show(keysInHand(workspace().document.ensemble(), live()));
}

void KeysSurface::elementChanged() {
    keyboard_->setAccessibleName(nameToShow(nameOf(element())));
    layOut();
}

void KeysSurface::resizeEvent(QResizeEvent* event) {
    Surface::resizeEvent(event);
    layOut();
}

/// As many octaves as there is room for, begun ones too.
void KeysSurface::layOut() {
    const QRectF area = inner().adjusted(0, QFontMetricsF(captionFont()).height() + scaled(2), 0, 0);
    keyboard_->setGeometry(area.toAlignedRect());
    const int whites = std::max(whitesOfAnOctave, static_cast<int>(area.width() / scaled(whiteKey)));
    const int lowest = std::clamp(element().lowestKey, 0, mostLowestKey);
    keyboard_->setKeys(lowest, lowest + whites * octave / whitesOfAnOctave);
}

}  // namespace mellow::app
