// Each message has a subject, and stands for all before it of the same subject.
#include "core/midi/standing.h"

#include <algorithm>

#include "core/midi/controls.h"

namespace mellow {

void Standing::say(const Subject& subject, std::vector<Said> said) {
    entries_[subject] = {std::move(said), ++count_};
}

void Standing::hearNumber(std::uint32_t port, std::string_view address, double number, std::uint32_t tag) {
    say({port, -1, osc, 0, std::string(address)}, {{port, tag, {}, std::string(address), number}});
}

void Standing::hear(std::uint32_t port, midi::Bytes message, std::uint32_t tag) {
    if (message.empty() || message.size() > 3 || !midi::isChannelStatus(message[0])) return;
    const int channel = midi::channelOf(message);
    const Said said{port, tag, midi::shortOf(message), {}, 0};
    switch (midi::kindOf(message)) {
        case midi::noteOn:
        case midi::noteOff:
            return hearNote(message, said);
        case midi::keyPressure:
            return say({port, channel, keyPressure, message[1], {}}, {said});
        case midi::controlChange:
            return hearControl(channel, message, said);
        case midi::programChange:
            return hearProgram(channel, said);
        case midi::channelPressure:
            return say({port, channel, pressure, 0, {}}, {said});
        default:
            return say({port, channel, bend, 0, {}}, {said});
    }
}

void Standing::hearNote(midi::Bytes message, const Said& said) {
    const int channel = midi::channelOf(message);
    const std::tuple key{said.port, channel, static_cast<int>(message[1])};
    if (midi::isNoteOn(message)) {
        Entry& entry = down_[key];
        entry.said.push_back(said);
        entry.when = ++count_;
        return;
    }
    // A key that was struck twice and released once is released (signal rules, section 6).
    if (down_.erase(key) == 0) return;
    entries_.erase({said.port, channel, keyPressure, message[1], {}});
}

void Standing::hearControl(int channel, midi::Bytes message, const Said& said) {
    const int number = message[1];
    if (number == midi::allSoundOff || number >= midi::allNotesOff) {
        std::erase_if(down_, [&](const auto& each) {
            return std::get<0>(each.first) == said.port && std::get<1>(each.first) == channel;
        });
        return;
    }
    if (number > midi::lastOrdinary && number != midi::resetAllControllers) return;
    if (midi::selectsRegister(number)) return hearSelect(channel, message, said);
    const Select& select = selects_[{said.port, channel}];
    const bool selects = select.high >= 0 || select.low >= 0;
    if (!midi::isDataEntry(number) || !selects) return say({said.port, channel, control, number, {}}, {said});
    // An entry while half a select is missing is for nobody.
    if (!select.isWhole()) return;
    const int which = (select.registered ? 0 : 1 << 14) + (select.high << 7) + select.low;
    Entry& entry = entries_[{said.port, channel, dataEntry, which, {}}];
    if (entry.said.empty()) entry.said = {select.highSaid, select.lowSaid};
    // A value begins anew with its high byte, whose steps go; the low byte that stood may stand on.
    std::erase_if(entry.said, [number](const Said& each) {
        const int was = each.message.data[1];
        const bool isStep = was == midi::dataIncrement || was == midi::dataDecrement;
        return was == number ? number == midi::dataEntry || number == midi::dataEntryLow
                             : number == midi::dataEntry && isStep;
    });
    entry.said.push_back(said);
    entry.when = ++count_;
}

void Standing::hearSelect(int channel, midi::Bytes message, const Said& said) {
    Select& select = selects_[{said.port, channel}];
    const bool registered = message[1] >= midi::rpnSelectLow;
    if (select.registered != registered) select = {};
    select.registered = registered;
    const bool isHigh = message[1] == midi::rpnSelect || message[1] == midi::nrpnSelect;
    (isHigh ? select.high : select.low) = message[2];
    (isHigh ? select.highSaid : select.lowSaid) = said;
    std::vector<Said> all;
    if (select.high >= 0) all.push_back(select.highSaid);
    if (select.low >= 0) all.push_back(select.lowSaid);
    say({said.port, channel, selection, 0, {}}, std::move(all));
}

void Standing::hearProgram(int channel, const Said& said) {
    std::vector<Said> all;
    for (const int bank : {midi::bankSelect, midi::bankSelectLow}) {
        const auto found = entries_.find({said.port, channel, control, bank, {}});
        if (found != entries_.end()) all.push_back(found->second.said.front());
    }
    all.push_back(said);
    say({said.port, channel, program, 0, {}}, std::move(all));
}

std::vector<midi::Short> Standing::lettingGo() const {
    std::map<std::pair<std::uint32_t, int>, std::vector<midi::Short>> byChannel;
    // Subjects are in order of port, channel and what they are about.
    for (const auto& [subject, entry] : entries_) {
        const auto& [port, channel, about, number, address] = subject;
        const auto reset = entries_.find({port, channel, control, midi::resetAllControllers, {}});
        if (reset != entries_.end() && reset->second.when > entry.when) continue;
        const midi::Short& last = entry.said.back().message;
        auto& messages = byChannel[{port, channel}];
        if (about == control && midi::isHoldingPedal(number) && last.data[2] > 0)
            messages.push_back(midi::make(midi::controlChange, channel, number, 0));
        if (about == bend && midi::bendOf(last.bytes()) != midi::bendCentre)
            messages.push_back(midi::makeBend(channel, midi::bendCentre));
        if (about == pressure && last.data[1] > 0)
            messages.push_back(midi::make(midi::channelPressure, channel, 0));
    }
    std::vector<midi::Short> all;
    for (const auto& [channel, messages] : byChannel) all.insert(all.end(), messages.begin(), messages.end());
    return all;
}

std::vector<Standing::Said> Standing::all() const {
    std::vector<Said> said;
    const auto add = [&said](const auto& entries) {
        std::vector<const Entry*> order;
        for (const auto& [subject, entry] : entries) order.push_back(&entry);
        std::sort(order.begin(), order.end(),
                  [](const Entry* one, const Entry* other) { return one->when < other->when; });
        for (const Entry* entry : order) said.insert(said.end(), entry->said.begin(), entry->said.end());
    };
    add(entries_);
    add(down_);
    return said;
}

}  // namespace mellow
