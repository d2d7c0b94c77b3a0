// The numbers of ports: each name keeps its own through all programs of a player.
#pragma once

#include <mutex>
#include <string>
#include <string_view>
#include <vector>

#include "core/engine/program/names.h"
#include "core/engine/program/numbering.h"

namespace mellow::io {

class PortNumbers {
 public:
    // Editing side.

    /// The number of a port, the same in every program of this player.
    engine::PortId of(std::string_view name) {
        const auto id = static_cast<engine::PortId>(names_.intern(name));
        share();
        return id;
    }
    [[nodiscard]] const std::string& name(engine::PortId id) const { return names_.name(id); }
    /// For a compiler, which takes names into account that only messages have used so far.
    [[nodiscard]] engine::Names& names() { return names_; }
    /// What a compiler made of them; names are only ever added.
    void take(const engine::Names& names) {
        names_ = names;
        share();
    }

    /// Any thread but the playing side's.
    [[nodiscard]] std::string named(engine::PortId id) const {
        const std::lock_guard lock(naming_);
        return id < shared_.size() ? shared_[id] : std::string();
    }

 private:
    void share() {
        const std::lock_guard lock(naming_);
        for (std::size_t id = shared_.size(); id < names_.size(); ++id)
            shared_.emplace_back(names_.name(static_cast<std::uint32_t>(id)));
    }

    engine::Names names_;
    mutable std::mutex naming_;        ///< never taken on the playing side
    std::vector<std::string> shared_;  ///< those of names_
};

}  // namespace mellow::io
