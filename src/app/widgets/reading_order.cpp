#include "app/widgets/reading_order.h"

#include <QVariant>
#include <algorithm>
#include <vector>

namespace mellow::app {

namespace {

constexpr const char* behind = "readBehind";

QObject* leaderOf(const QWidget& widget) {
    return widget.property(behind).value<QObject*>();
}

/// Siblings in rows: what begins above the middle of a row's first is in that row.
std::vector<QWidget*> childrenInOrder(const QWidget& parent) {
    std::vector<QWidget*> all;
    for (QObject* child : parent.children()) {
        auto* widget = qobject_cast<QWidget*>(child);
        if (widget != nullptr && !widget->isWindow() && widget->isVisible()) all.push_back(widget);
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const QWidget* one, const QWidget* other) { return one->y() < other->y(); });
    for (auto first = all.begin(); first != all.end();) {
        // What has no height has its centre above itself.
        const int middle = std::max((*first)->y(), (*first)->geometry().center().y());
        const auto end =
            std::find_if(first, all.end(), [middle](const QWidget* each) { return each->y() > middle; });
        std::stable_sort(first, end,
                         [](const QWidget* one, const QWidget* other) { return one->x() < other->x(); });
        first = end;
    }
    return all;
}

class Reading {
 public:
    explicit Reading(const QWidget& window) {
        for (QWidget* each : window.findChildren<QWidget*>()) {
            if (leaderOf(*each) != nullptr) followers_.push_back(each);
        }
        gather(window);
    }
    [[nodiscard]] const std::vector<QWidget*>& found() const { return found_; }

 private:
    void gather(const QWidget& parent) {
        for (QWidget* child : childrenInOrder(parent)) {
            if (leaderOf(*child) == nullptr) read(*child);
        }
    }
    void read(QWidget& widget) {
        const bool takes = (widget.focusPolicy() & Qt::TabFocus) != 0 && widget.isEnabled() &&
                           widget.focusProxy() == nullptr;
        if (takes) found_.push_back(&widget);
        gather(widget);
        for (QWidget* follower : followers_) {
            if (leaderOf(*follower) == &widget && follower->isVisible()) read(*follower);
        }
    }

    std::vector<QWidget*> followers_;
    std::vector<QWidget*> found_;
};

}  // namespace

void readBehind(QWidget& widget, QWidget& other) {
    widget.setProperty(behind, QVariant::fromValue<QObject*>(&other));
}

bool focusByReading(QWidget& window, bool next) {
    const Reading reading(window);
    const std::vector<QWidget*>& all = reading.found();
    if (all.empty()) return false;
    // What has the focus may be inside something that stands for it, such as a field in a list.
    auto at = all.end();
    for (QWidget* now = window.focusWidget(); now != nullptr && at == all.end(); now = now->parentWidget())
        at = std::find(all.begin(), all.end(), now);
    const auto count = static_cast<std::ptrdiff_t>(all.size());
    std::ptrdiff_t place = at == all.end() ? (next ? -1 : count) : at - all.begin();
    place = (place + (next ? 1 : -1) + count) % count;
    all[static_cast<std::size_t>(place)]->setFocus(next ? Qt::TabFocusReason : Qt::BacktabFocusReason);
    return true;
}

}  // namespace mellow::app
