// Keys that are held, as X11 tells of them.
//
// While a key is held, the server says again and again that it came up and went down in the same millisecond.
// Qt takes such a pair for a repetition where it has both in hand when it looks at the first; where the
// second is still on its way, for a key that was let go and struck again. A note that is held by a letter
// would be struck anew, and what is on as long as a key is held would go off. So a key that comes up is told
// of a moment later, and not at all where it goes down at the same time.
#pragma once

#include <QKeyEvent>
#include <QObject>
#include <QPointer>
#include <QTimer>
#include <memory>
#include <optional>
#include <utility>

namespace mellow::app {

class HeldKeys : public QObject {
    Q_OBJECT

 public:
    static constexpr int moment = 15;  ///< ms for which a key that comes up is not told of

    explicit HeldKeys(QObject* parent = nullptr);

    /// To be asked of every event before anybody else has it. True: it is nobody's, or is told of later.
    bool keeps(QObject& receiver, QEvent& event);

 private:
    using Struck = std::pair<int, quint64>;  ///< a key, and when

    /// True: nobody else is to know.
    bool comesUp(QObject& window, const QKeyEvent& key);
    bool goesDown(QKeyEvent& key);
    /// Tells of the key that has come up, if it has not been told of yet.
    void tell();

    std::unique_ptr<QKeyEvent> up_;  ///< not told of yet
    QPointer<QObject> window_;       ///< to which it came
    QTimer waits_;
    std::optional<Struck> repeated_;  ///< what was no striking
    bool tells_ = false;
};

}  // namespace mellow::app
