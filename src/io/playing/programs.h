// The programs of a player: made on the editing side, played on the other, freed where they were made.
//
// The newest stands in an atomic pointer until a cycle takes it; one that nobody has taken when the next is
// made is never played. What the playing side is done with comes back through a ring.
#pragma once

#include <atomic>
#include <memory>
#include <vector>

#include "core/engine/program/state.h"
#include "core/placing/placing.h"
#include "io/playing/port_numbers.h"
#include "io/playing/spsc_ring.h"

namespace mellow::io {

class Programs {
 public:
    Programs();

    // Editing side.

    /// Compiles an ensemble; the next cycle takes it. placements: what targets are put to then, once.
    void make(const Ensemble& ensemble, const Placements& placements);
    /// Keeps a program that will be played in another way than by takeNext(), and gives it a number.
    engine::Program* keep(std::unique_ptr<engine::Program> program, const Ensemble& ensemble);
    /// Frees one that was kept and that the playing side has not seen; nullptr is none.
    void drop(const engine::Program* program);
    /// Frees what is played out.
    void collect();

    /// The program that is being played, or will be once the next cycle has run.
    [[nodiscard]] const engine::Program& shown() const { return *programs_.front(); }
    [[nodiscard]] const engine::Program& newest() const { return *programs_.back(); }
    [[nodiscard]] bool showsNewest() const { return programs_.size() == 1; }
    /// Names of the newest program; numbers from happenings stay valid in it.
    [[nodiscard]] const engine::Numbering& names() const { return newest().plan.numbering; }
    /// Whether some chain of the newest program listens to OSC.
    [[nodiscard]] bool hearsOsc() const;
    [[nodiscard]] PortNumbers& ports() { return ports_; }
    [[nodiscard]] const PortNumbers& ports() const { return ports_; }

    // Playing side.

    /// What is played before anything is handed over.
    [[nodiscard]] engine::Program* first() { return programs_.front().get(); }
    /// What is to be played from now on; nullptr: what is played already.
    engine::Program* takeNext() { return next_.exchange(nullptr, std::memory_order_acq_rel); }
    void done(engine::Program* program) { retired_.push(program); }

 private:
    std::vector<std::unique_ptr<engine::Program>> programs_;  ///< the first plays, the last is the newest
    std::uint64_t made_ = 0;
    PortNumbers ports_;
    Placements waiting_;  ///< of programs that may not be played yet
    std::atomic<engine::Program*> next_{nullptr};
    SpscRing<engine::Program*> retired_{64};
};

}  // namespace mellow::io
