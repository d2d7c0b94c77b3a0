// Columns are filled from the top by whole menus, the next where it fits; so the sheet is laid out by hand
// and only its lines by Qt.
#include "app/paper/keyboard_sheet.h"

#include <QBuffer>
#include <QCoreApplication>
#include <QPainter>
#include <QPdfWriter>

namespace mellow::app {

namespace {

QString say(const char* text) {
    return QCoreApplication::translate("KeyboardSheet", text);
}

QString plain(const QString& text) {
    return QString(text).remove(QLatin1Char('&'));
}

/// Entries of a menu and of those in it.
void addEntries(const QMenu& menu, std::vector<KeyLine>& lines) {
    for (const QAction* action : menu.actions()) {
        if (action->isSeparator()) continue;
        if (action->menu() != nullptr) {
            addEntries(*action->menu(), lines);
            continue;
        }
        QStringList keys;
        for (const QKeySequence& each : action->shortcuts()) keys << each.toString(QKeySequence::NativeText);
        if (!keys.isEmpty())
            lines.push_back({keys.join(say(" or ")), plain(action->text()), action->toolTip()});
    }
}

/// Keys that are held, and those that play, have no menu entry that they could run.
std::vector<KeyGroup> withoutEntry() {
    return {{say("Held, while a control is moved"),
             {{QStringLiteral(","), say("The low end of a reach, by playing"), {}},
              {QStringLiteral("."), say("The high end of a reach, by playing"), {}},
              {QStringLiteral(";"), say("Calibrate: the travel of a control"), {}},
              {QStringLiteral("F12"), say("The state before the newest edit"), {}}}}};
}

/// Where things stand on the page, in units of the device.
class Layout {
 public:
    Layout(QPainter& painter, QPagedPaintDevice& device)
        : painter_(painter),
          device_(device),
          head_(QStringLiteral("Manrope"), 15, QFont::DemiBold),
          title_(QStringLiteral("Manrope"), 10, QFont::DemiBold),
          text_(QStringLiteral("Manrope"), 8),
          column_((painter.viewport().width() - gap()) / 2) {
        // With any spacing letters stay apart, so that words can be found in the file.
        for (QFont* each : {&head_, &title_, &text_}) each->setLetterSpacing(QFont::AbsoluteSpacing, 0.05);
        painter_.setFont(head_);
        const int line = painter_.fontMetrics().height();
        painter_.drawText(0, painter_.fontMetrics().ascent(), say("Mellow Lever: keys"));
        top_ = line + line / 2;
        y_ = top_;
    }

    void group(const KeyGroup& group) {
        const int needed = heightOf(title_) * 2 + static_cast<int>(group.lines.size()) * lineHeight();
        // A menu stays whole where a column holds it.
        if (y_ > top_ && y_ + needed > painter_.viewport().height()) next();
        draw(title_, group.title, 0, column_);
        y_ += heightOf(title_) * 5 / 4;
        for (const KeyLine& line : group.lines) {
            if (y_ + lineHeight() > painter_.viewport().height()) next();
            draw(text_, line.keys, 0, keysWidth() - gap() / 4);
            draw(text_, line.what, keysWidth(), column_ - keysWidth());
            y_ += lineHeight();
        }
        y_ += heightOf(title_) * 3 / 4;
    }

 private:
    [[nodiscard]] int heightOf(const QFont& font) const { return QFontMetrics(font, &device_).height(); }
    [[nodiscard]] int lineHeight() const { return heightOf(text_) * 5 / 4; }
    [[nodiscard]] int gap() const { return painter_.viewport().width() / 20; }
    [[nodiscard]] int keysWidth() const { return column_ * 2 / 5; }

    void next() {
        if (x_ > 0) {
            device_.newPage();
            x_ = 0;
            top_ = 0;
        } else {
            x_ = column_ + gap();
        }
        y_ = top_;
    }

    void draw(const QFont& font, const QString& text, int left, int width) {
        painter_.setFont(font);
        const QString fitting = painter_.fontMetrics().elidedText(text, Qt::ElideRight, width);
        painter_.drawText(x_ + left, y_ + painter_.fontMetrics().ascent(), fitting);
    }

    QPainter& painter_;
    QPagedPaintDevice& device_;
    QFont head_;
    QFont title_;
    QFont text_;
    int column_;
    int x_ = 0;
    int top_ = 0;
    int y_ = 0;
};

}  // namespace

std::vector<KeyGroup> keyGroups(const QMenuBar& menus) {
    std::vector<KeyGroup> groups;
    for (const QAction* action : menus.actions()) {
        if (action->menu() == nullptr) continue;
        KeyGroup group{plain(action->text()), {}};
        addEntries(*action->menu(), group.lines);
        if (!group.lines.empty()) groups.push_back(std::move(group));
    }
    for (KeyGroup& each : withoutEntry()) groups.push_back(std::move(each));
    return groups;
}

bool paintKeyboardSheet(QPagedPaintDevice& device, const std::vector<KeyGroup>& groups) {
    QPainter painter;
    if (!painter.begin(&device)) return false;
    Layout layout(painter, device);
    for (const KeyGroup& each : groups) layout.group(each);
    return painter.end();
}

QByteArray keyboardSheetPdf(const std::vector<KeyGroup>& groups, QPageSize::PageSizeId size) {
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    QPdfWriter writer(&bytes);
    writer.setPageSize(QPageSize(size));
    constexpr double margin = 15;
    writer.setPageMargins(QMarginsF(margin, margin, margin, margin), QPageLayout::Millimeter);
    writer.setTitle(say("Mellow Lever: keys"));
    paintKeyboardSheet(writer, groups);
    return bytes.data();
}

}  // namespace mellow::app
