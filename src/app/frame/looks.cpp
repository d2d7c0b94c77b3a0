#include "app/frame/looks.h"

#include <QApplication>
#include <QSettings>

#include "app/ground/theme.h"

namespace mellow::app {

double fontScale() {
    return QSettings().value(QStringLiteral("theme/scale"), plainFonts).toDouble();
}

void useTheme(QWidget& window, const QString& name, double scale) {
    QSettings settings;
    settings.setValue(QStringLiteral("theme/name"), name);
    settings.setValue(QStringLiteral("theme/scale"), scale);
    applyTheme(*qApp, name == QLatin1String("Linen") ? linenTheme() : duskTheme(), scale);
    const QList<QWidget*> children = window.findChildren<QWidget*>();
    for (QWidget* child : children) child->update();
}

}  // namespace mellow::app
