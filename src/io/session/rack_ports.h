// The practice rack as ports: one output, inside the program, that is there from the start and sounds once
// the synthesizer is open, which takes a moment.
#pragma once

#include <algorithm>
#include <atomic>
#include <memory>

#include "io/ports/ports.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

class RackPorts : public Ports {
 public:
    void join(Player& player) override {
        Ports::join(player);
        port_ = player.ports().of(practiceRackPort);
    }
    void want(const PortNames& names) override {
        wanted_ =
            std::find(names.outputs.begin(), names.outputs.end(), practiceRackPort) != names.outputs.end();
    }
    [[nodiscard]] std::vector<PortState> present() const override {
        if (!wanted_) return {};
        return {{std::string(practiceRackPort), false, rack_ != nullptr, "built in"}};
    }
    [[nodiscard]] std::vector<Problem> problems() const override {
        return problem_ ? std::vector<Problem>{*problem_} : std::vector<Problem>{};
    }
    [[nodiscard]] std::string status() const override {
        if (problem_) return problem_->sentence();
        if (rack_ != nullptr) return rack_->status();
        return opening_ ? "Practice rack: opening" : "";
    }
    bool send(const engine::Output& output) override {
        if (output.port != port_) return false;
        PracticeRack* rack = playing_.load(std::memory_order_acquire);
        if (rack != nullptr && output.bytes.size() <= 3) rack->push(midi::shortOf(output.bytes));
        return true;
    }

    /// Editing side: it is being opened.
    void opens() { opening_ = true; }
    /// Editing side: it has been opened, or why it could not be.
    void opened(Result<std::unique_ptr<PracticeRack>> rack) {
        if (rack) {
            rack_ = std::move(*rack);
            playing_.store(rack_.get(), std::memory_order_release);
        } else {
            problem_ = rack.problem();
        }
        tellChange();
    }
    [[nodiscard]] PracticeRack* rack() const { return rack_.get(); }
    [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }

 private:
    engine::PortId port_ = 0;
    bool wanted_ = false;
    bool opening_ = false;
    std::unique_ptr<PracticeRack> rack_;
    std::atomic<PracticeRack*> playing_{nullptr};
    std::optional<Problem> problem_;
};

}  // namespace mellow::io
