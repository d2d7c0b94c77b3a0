#include "app/widgets/tick_list.h"

#include <algorithm>

namespace mellow::app {

namespace {
constexpr int placeRole = Qt::UserRole + 1;
}  // namespace

TickList::TickList(const QString& name, const QString& title, QWidget* parent) : QTreeWidget(parent) {
    setObjectName(name);
    setAccessibleName(title);
    setHeaderHidden(true);
    setWordWrap(true);
    connect(this, &QTreeWidget::itemChanged, this, &TickList::tickedChanged);
}

void TickList::show(const std::vector<Line>& lines) {
    clear();
    QTreeWidgetItem* group = nullptr;
    for (std::size_t place = 0; place < lines.size(); ++place) {
        if (group == nullptr || group->text(0) != lines[place].group) {
            group = new QTreeWidgetItem(this, {lines[place].group});
            group->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable |
                            Qt::ItemIsAutoTristate);
            group->setCheckState(0, Qt::Unchecked);
            group->setExpanded(true);
        }
        auto* item = new QTreeWidgetItem(group, {lines[place].words});
        item->setToolTip(0, lines[place].words);
        item->setData(0, placeRole, static_cast<int>(place));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(0, Qt::Unchecked);
    }
}

std::vector<std::size_t> TickList::ticked() const {
    std::vector<std::size_t> all;
    for (int g = 0; g < topLevelItemCount(); ++g) {
        for (int i = 0; i < topLevelItem(g)->childCount(); ++i) {
            const QTreeWidgetItem& item = *topLevelItem(g)->child(i);
            if (item.checkState(0) == Qt::Checked)
                all.push_back(static_cast<std::size_t>(item.data(0, placeRole).toInt()));
        }
    }
    std::sort(all.begin(), all.end());
    return all;
}

void TickList::tickAll() {
    for (int g = 0; g < topLevelItemCount(); ++g) topLevelItem(g)->setCheckState(0, Qt::Checked);
}

}  // namespace mellow::app
