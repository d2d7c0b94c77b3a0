// Filling a list of choices without disturbing it: what says the same already is left alone, since a person
// may have it open.
#pragma once

#include <QComboBox>
#include <QSignalBlocker>
#include <vector>

namespace mellow::app {

struct ListEntry {
    QString text;
    QVariant data;
    bool operator==(const ListEntry&) const = default;
};

/// current: the place that is chosen, −1: none. Tells nobody.
inline void fillList(QComboBox& list, const std::vector<ListEntry>& entries, int current) {
    const QSignalBlocker quiet(list);
    bool same = list.count() == static_cast<int>(entries.size());
    for (int i = 0; same && i < list.count(); ++i) {
        const ListEntry& entry = entries[static_cast<std::size_t>(i)];
        same = list.itemText(i) == entry.text && list.itemData(i) == entry.data;
    }
    if (!same) {
        list.clear();
        for (const ListEntry& each : entries) list.addItem(each.text, each.data);
    }
    if (list.currentIndex() != current) list.setCurrentIndex(current);
}

}  // namespace mellow::app
