// An action of a menu: its words, its keys, and the sentence that tooltip and status line show.
#pragma once

#include <QAction>
#include <utility>

namespace mellow::app {

/// act: done when it is triggered, while owner is there.
template<class Act>
QAction* makeAction(QObject* owner, const QString& text, const QKeySequence& keys, const QString& tip,
                    Act&& act) {
    auto* action = new QAction(text, owner);
    action->setShortcut(keys);
    action->setToolTip(tip);
    action->setStatusTip(tip);
    QObject::connect(action, &QAction::triggered, owner, std::forward<Act>(act));
    return action;
}

}  // namespace mellow::app
