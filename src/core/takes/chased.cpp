// What is said already is not said again: the old engine's lanes know what was sent last on each of its ports
// and channels, whoever sent it.
#include "core/takes/chased.h"

#include <algorithm>
#include <utility>

#include "core/engine/compiling/compile.h"
#include "core/midi/controls.h"
#include "core/takes/playback.h"

namespace mellow {

using engine::Engine;

Chased chased(const Ensemble& ensemble, const Take& take, engine::Time position, engine::Time at,
              const engine::Plan* before, engine::Names* ports) {
    Chased made;
    made.program = engine::compile(ensemble, before, ports);
    Playback playback(*made.program, take, at - position, ports);
    Standing standing;
    auto hear = [&standing](const engine::Output& output) {
        if (output.bytes.empty()) {
            standing.hearNumber(output.port, output.address, output.number, output.instrument);
        } else {
            standing.hear(output.port, output.bytes, output.instrument);
        }
    };
    const engine::Sink sink = engine::sinkTo(hear);
    playback.playUntil(position - 1, sink);
    made.said = standing.all();
    made.engine = std::move(playback.engine());
    return made;
}

namespace {

/// Ends every note that an engine has sounding.
void endNotes(const Engine& engine, const engine::Sink& sink) {
    const engine::NoteMemory& notes = engine.notes();
    for (std::uint32_t i = notes.oldest(); i != engine::NoteMemory::nothing; i = notes.place(i).behind) {
        const engine::NoteMemory::Place& place = notes.place(i);
        const auto off =
            midi::make(midi::noteOff, place.output.channel, place.output.key, midi::middleVelocity);
        sink({engine.now(), place.output.port, place.instrument, engine::noChain, -1, off.bytes()});
    }
}

/// Whether an engine sent a control, bend or pressure last as it is.
bool isSaid(const Engine& engine, const Standing::Said& said) {
    const midi::Bytes bytes = said.message.bytes();
    const auto& lanes = engine.program().plan.lanes();
    std::uint32_t slot = 0;
    switch (midi::kindOf(bytes)) {
        case midi::controlChange:
            // Halves of pairs and what concerns registers mean more than their value.
            if (midi::isHalfOfAPair(bytes[1]) || midi::isDataEntry(bytes[1]) ||
                midi::selectsRegister(bytes[1]))
                return false;
            slot = bytes[1];
            break;
        case midi::pitchBend:
            slot = engine::bendSlot;
            break;
        case midi::channelPressure:
            slot = engine::pressureSlot;
            break;
        default:
            return false;
    }
    for (std::uint32_t lane = 0; lane < lanes.size(); ++lane) {
        if (lanes[lane].port != said.port || lanes[lane].channel != midi::channelOf(bytes)) continue;
        const std::size_t place = static_cast<std::size_t>(lane) * engine::slotsPerLane + slot;
        const engine::Payload wanted =
            bytes.size() > 2 ? engine::payload(bytes[1], bytes[2]) : engine::payload(bytes[1], 0);
        return engine.program().state.sent[place] == wanted;
    }
    return false;
}

/// Whether a channel is told to reset: what was said of it before is said again, too.
bool isReset(const std::vector<Standing::Said>& all, const Standing::Said& said) {
    return std::any_of(all.begin(), all.end(), [&said](const Standing::Said& each) {
        const auto& data = each.message.data;
        return each.port == said.port && each.message.size == 3 && data[1] == midi::resetAllControllers &&
               midi::kindOf(each.message.bytes()) == midi::controlChange &&
               midi::channelOf(each.message.bytes()) == midi::channelOf(said.message.bytes());
    });
}

/// An entry that came while nothing was selected must not change what the old engine selected.
void selectNothing(const Engine& playing, const Standing::Said& said, const engine::Sink& sink) {
    const int channel = midi::channelOf(said.message.bytes());
    for (const int select : {midi::rpnSelect, midi::rpnSelectLow}) {
        const auto message = midi::make(midi::controlChange, channel, select, midi::max7);
        sink({playing.now(), static_cast<engine::PortId>(said.port), said.tag, engine::noChain, -1,
              message.bytes()});
    }
}

/// Whether something that is said is a data entry behind no select of its own.
bool isLooseEntry(const std::vector<Standing::Said>& all, std::size_t place) {
    const auto number = [&all](std::size_t at) {
        const midi::Bytes bytes = all[at].message.bytes();
        return !bytes.empty() && midi::kindOf(bytes) == midi::controlChange ? int{bytes[1]} : -1;
    };
    if (!midi::isDataEntry(number(place))) return false;
    const bool follows = place > 0 && all[place - 1].port == all[place].port &&
                         all[place - 1].message.data[0] == all[place].message.data[0];
    return !follows || !(midi::isDataEntry(number(place - 1)) || midi::selectsRegister(number(place - 1)));
}

}  // namespace

void takeOver(Engine& playing, Chased& chased, const engine::Sink& sink) {
    endNotes(playing, sink);
    for (std::size_t i = 0; i < chased.said.size(); ++i) {
        const Standing::Said& said = chased.said[i];
        if (isLooseEntry(chased.said, i)) selectNothing(playing, said, sink);
        const midi::Bytes bytes = said.message.bytes();
        const auto port = static_cast<engine::PortId>(said.port);
        if (bytes.empty()) {
            sink({playing.now(),
                  port,
                  said.tag,
                  engine::noChain,
                  -1,
                  {},
                  said.address,
                  static_cast<float>(said.number)});
        } else if (!isSaid(playing, said) || isReset(chased.said, said)) {
            sink({playing.now(), port, said.tag, engine::noChain, -1, bytes});
        }
    }
    std::swap(playing, chased.engine);
}

}  // namespace mellow
