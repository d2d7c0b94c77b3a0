// What was touched last: the parameter that is always at hand.
//
// An instrument, or a plug-in behind its port, that sends what its own panel moves is heard here, and so is a
// person who points at a parameter. What comes from the hands' own ports (practice keys, controllers of the
// document) is no panel. One chain at a time can be told to follow: whatever is touched, it leads there,
// until it is locked where it is. That it follows is a matter of this window; where it leads is the
// document's.
#pragma once

#include <QObject>
#include <array>
#include <optional>

#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"

namespace mellow::app {

struct TouchedParameter {
    std::string instrument;
    std::string parameter;
    bool operator==(const TouchedParameter&) const = default;
};

class Touched : public QObject {
    Q_OBJECT

 public:
    Touched(Document& document, Live& live, QObject* parent = nullptr);

    /// Nothing where nothing was touched, or it is gone.
    [[nodiscard]] std::optional<TouchedParameter> last() const;
    void touch(const TouchedParameter& parameter);

    /// The chain that follows, if one does.
    [[nodiscard]] const std::optional<Selected>& follower() const { return follower_; }
    /// Has a chain follow; nothing: the one that did is locked where it is.
    void setFollower(std::optional<Selected> chain);

 signals:
    /// Something was touched, or another chain follows.
    void changed();

 private:
    void hear(const io::Happening& happening);
    void lead();

    Document& document_;
    Live& live_;
    std::optional<TouchedParameter> last_;
    /// Port, status and first byte of the newest message: a control that goes on moving is looked at once.
    std::array<int, 3> heard_{};
    std::optional<Selected> follower_;
    Gesture gesture_ = 0;
};

/// The parameter that a message moves if it comes from the panel of the instrument: on its channel; of
/// several the one whose instrument plays to a port of the same name. From another port a control that moves
/// a chain is a hand, and moves no panel.
std::optional<TouchedParameter> parameterMovedBy(const Ensemble& ensemble, const std::string& port,
                                                 midi::Bytes message);

}  // namespace mellow::app
