// How the desk stands, by what the window plays.
#pragma once

#include "app/live/live.h"
#include "core/desk/element_targets.h"

namespace mellow::app {

class DeskStands : public desk::Stands {
 public:
    explicit DeskStands(const Live& live) : live_(live) {}
    [[nodiscard]] std::optional<double> moved(std::string_view address) const override {
        return live_.readings().deskPosition(address);
    }
    [[nodiscard]] double branch(const desk::ElementTarget& target) const override {
        const io::ChainReading reading = live_.reading(target.owner, target.chain);
        return target.branch < reading.values.size() ? reading.values[target.branch] : -1;
    }
    [[nodiscard]] bool inHand(const std::string& instrument) const override {
        return live_.readings().instrument(instrument).inHand;
    }
    [[nodiscard]] int articulation(const std::string& instrument) const override {
        return live_.readings().instrument(instrument).articulation;
    }

 private:
    const Live& live_;
};

}  // namespace mellow::app
