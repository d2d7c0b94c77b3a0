#include "app/pages/sheet/sheet_look.h"

#include <QSettings>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

QString settingOf(const char* what) {
    return QStringLiteral("sheet/") + QLatin1String(what);
}

}  // namespace

SheetLook keptLook() {
    const QSettings settings;
    SheetLook look;
    look.columns = settings.value(settingOf("columns")).toStringList();
    look.widths = settings.value(settingOf("widths")).toStringList();
    look.wish.by = settings.value(settingOf("by")).toInt() == 1 ? sheet::Reading::hear : sheet::Reading::move;
    const int group = settings.value(settingOf("group"), -1).toInt();
    const bool isOne = group >= 0 && group <= static_cast<int>(sheet::Grouping::port);
    look.wish.group = isOne ? static_cast<sheet::Grouping>(group) : sheet::groupingOf(look.wish.by);
    look.wish.sort = findAssignmentColumn(settings.value(settingOf("sort")).toString().toStdString());
    look.wish.backwards = settings.value(settingOf("backwards")).toBool();
    return look;
}

void keepLook(const SheetLook& look) {
    QSettings settings;
    settings.setValue(settingOf("columns"), look.columns);
    settings.setValue(settingOf("widths"), look.widths);
    settings.setValue(settingOf("by"), look.wish.by == sheet::Reading::hear ? 1 : 0);
    settings.setValue(settingOf("group"), static_cast<int>(look.wish.group));
    settings.setValue(settingOf("sort"), look.wish.sort == nullptr ? QString() : toQt(look.wish.sort->key));
    settings.setValue(settingOf("backwards"), look.wish.backwards);
}

}  // namespace mellow::app
