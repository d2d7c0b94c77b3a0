// A reach that is set by playing: while a key is held, the control's whole travel plays the target's whole
// range; where it is let go is the low or the high end. A source is calibrated in the same way, by the travel
// that is made while the key is held.
//
// What is played meanwhile is the document with one chain beside the one that is edited. The document itself
// is edited once, when the key is let go.
#pragma once

#include <QObject>
#include <optional>

#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"

namespace mellow::app {

class PlayedReach : public QObject {
    Q_OBJECT

 public:
    PlayedReach(Document& document, Selection& selection, Live& live, QObject* parent = nullptr);

    enum class What { low, high, travel };
    /// False: nothing is selected for which that could be set.
    bool begin(What what);
    /// The key is let go: what stands now is taken, if the control has been moved.
    void end();
    void cancel();
    [[nodiscard]] bool isOn() const { return what_.has_value(); }
    /// What is being set and where it stands, in words.
    [[nodiscard]] QString says() const;

    /// The control that a spring moves is at rest now: that place becomes the middle. False: it has not
    /// spoken.
    bool restHere();

 signals:
    void changed();

 private:
    void follow();
    void stop();
    [[nodiscard]] std::optional<int> branchPlace() const;
    [[nodiscard]] std::optional<Range> range() const;

    Document& document_;
    Selection& selection_;
    Live& live_;
    std::optional<What> what_;
    Selected place_;
    int branch_ = 0;
    double first_ = -1;  ///< where the control stood at the beginning; −1: it had not spoken
    double low_ = 1;     ///< of the travel made since
    double high_ = 0;
    double value_ = -1;  ///< where the target stands, as a raw position
    bool moved_ = false;
};

}  // namespace mellow::app
