// What painted widgets say to a screen reader: that they are values, what these are in words, and how they
// are set.
//
// Qt tells assistive technology of its own widgets; one that paints itself is mute to it beyond its name. A
// widget that implements SpokenValue is offered as a slider, with its value as a number from its low to its
// high end, and with the words that a sighted person reads beside it.
#pragma once

#include <QString>

namespace mellow::app {

class SpokenValue {
 public:
    virtual ~SpokenValue() = default;
    [[nodiscard]] virtual double spokenValue() const = 0;
    [[nodiscard]] virtual double spokenLow() const { return 0; }
    [[nodiscard]] virtual double spokenHigh() const { return 1; }
    /// The value and what belongs to it: "64, reach 8 to 120".
    [[nodiscard]] virtual QString spokenWords() const = 0;
    /// False where it only shows.
    [[nodiscard]] virtual bool canBeSet() const { return false; }
    virtual void setSpokenValue(double) {}
};

/// Offers such widgets from now on; called once, by who has an application.
void speakValues();

}  // namespace mellow::app
