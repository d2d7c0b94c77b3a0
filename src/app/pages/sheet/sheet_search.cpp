#include "app/pages/sheet/sheet_search.h"

#include <QKeyEvent>
#include <QMenu>
#include <QSettings>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

constexpr int mostKept = 12;
const QString setting = QStringLiteral("sheet/searches");

}  // namespace

SheetSearch::SheetSearch(QWidget* parent) : QLineEdit(parent) {
    setObjectName(QStringLiteral("sheetSearch"));
    setPlaceholderText(tr("falls, flute, cc 11, > 5 kHz…"));
    setAccessibleName(tr("Search the sheet"));
    setToolTip(
        tr("Words in any order, as the columns say them; Down shows what was searched before (Ctrl+F)"));
    setFixedWidth(scaled(230));
    connect(this, &QLineEdit::editingFinished, this, &SheetSearch::keep);
}

bool SheetSearch::event(QEvent* event) {
    const bool isEscape =
        event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape;
    if (!isEscape || text().isEmpty()) return QLineEdit::event(event);
    event->accept();
    return true;
}

void SheetSearch::keyPressEvent(QKeyEvent* event) {
    const bool isEnter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    const bool isDown = event->key() == Qt::Key_Down;
    if (isDown && text().isEmpty()) return showKept();
    if (isEnter || isDown) {
        keep();
        emit rowsAsked();
        return;
    }
    if (event->key() == Qt::Key_Escape && !text().isEmpty()) return clear();
    QLineEdit::keyPressEvent(event);
}

void SheetSearch::keep() const {
    const QString typed = text().trimmed();
    if (typed.isEmpty()) return;
    QStringList kept = QSettings().value(setting).toStringList();
    kept.removeAll(typed);
    kept.prepend(typed);
    QSettings().setValue(setting, QStringList(kept.mid(0, mostKept)));
}

void SheetSearch::showKept() {
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("sheetSearches"));
    for (const QString& each : QSettings().value(setting).toStringList()) {
        QString words = each;
        menu.addAction(words.replace(QLatin1Char('&'), QStringLiteral("&&")), this,
                       [this, each] { setText(each); });
    }
    if (menu.isEmpty()) menu.addAction(tr("Nothing was searched for yet"))->setEnabled(false);
    menu.exec(mapToGlobal(QPoint(0, height())));
}

}  // namespace mellow::app
