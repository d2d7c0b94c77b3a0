// What an instrument makes of the messages that come to it: values, and notes that sound.
#pragma once

#include <map>
#include <set>
#include <tuple>
#include <utility>

#include "core/midi/controls.h"
#include "core/midi/message.h"
#include "core/midi/pairs.h"

namespace mellow::test {

/// An instrument at the end of the wire.
struct Receiver {
    std::map<std::pair<int, int>, int> controls;  ///< by channel and number
    std::map<int, int> bends;
    std::map<std::tuple<int, int, int>, std::pair<int, int>> registers;
    std::map<int, midi::Selection> selected;
    std::set<std::pair<int, int>> sounding;

    void hear(midi::Bytes bytes) {
        const int channel = midi::channelOf(bytes);
        const int kind = midi::kindOf(bytes);
        if (midi::isNoteOn(bytes)) sounding.insert({channel, bytes[1]});
        if (midi::isNoteOff(bytes)) sounding.erase({channel, bytes[1]});
        if (kind == midi::pitchBend) bends[channel] = midi::bendOf(bytes);
        if (kind != midi::controlChange) return;
        const int number = bytes[1];
        if (midi::selectsRegister(number)) return selected[channel].take(number, bytes[2]);
        if (number == midi::dataEntry || number == midi::dataEntryLow) {
            const midi::Selection& at = selected[channel];
            if (at.number() == midi::Selection::unknown) return;
            auto& value = registers[{channel, static_cast<int>(at.kind), at.number()}];
            (number == midi::dataEntry ? value.first : value.second) = bytes[2];
            return;
        }
        controls[{channel, number}] = bytes[2];
        const bool endsNotes = number == midi::allSoundOff || number >= midi::allNotesOff;
        if (endsNotes) std::erase_if(sounding, [channel](const auto& note) { return note.first == channel; });
        if (number == midi::resetAllControllers) controls[{channel, midi::sustain}] = 0;
    }
};

}  // namespace mellow::test
