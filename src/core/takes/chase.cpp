// Events are looked at from the start. Each has a subject: what it says something about; a later one on the
// same subject stands for it. The select of a register is kept with the data entry that it was for.
#include "core/takes/chase.h"

#include <map>
#include <string>
#include <tuple>

#include "core/midi/controls.h"

namespace mellow {

namespace {

/// Which register is selected on a channel, by the events that selected it.
struct Select {
    int high = -1;
    int low = -1;
    bool registered = true;  ///< an RPN, and no NRPN
    std::uint32_t highPlace = 0;
    std::uint32_t lowPlace = 0;
    [[nodiscard]] bool isWhole() const { return high >= 0 && low >= 0; }
};

class Chase {
 public:
    explicit Chase(const Take& take) : take_(take) {}

    void see(std::uint32_t place) {
        const TakeEvent& event = take_.events[place];
        const midi::Bytes body = take_.bodyOf(event);
        if (const auto line = text::oscLineOf(body)) {
            said_[{event.port, -1, osc, 0, std::string(line->address)}] = {place};
        } else if (!body.empty() && midi::isChannelStatus(body[0])) {
            seeMessage(event.port, body, place);
        }
    }

    [[nodiscard]] std::vector<std::uint32_t> places() const {
        // In the order in which they came; what was said once is not said twice, but for selects, which stand
        // before each of their data entries.
        std::vector<std::vector<std::uint32_t>> groups;
        for (const auto& [subject, places] : said_) groups.push_back(places);
        std::sort(groups.begin(), groups.end(),
                  [](const auto& one, const auto& other) { return one.back() < other.back(); });
        std::vector<std::uint32_t> ordered;
        for (const auto& group : groups) ordered.insert(ordered.end(), group.begin(), group.end());
        std::vector<std::uint32_t> held;
        for (const auto& [key, strikes] : down_) held.insert(held.end(), strikes.begin(), strikes.end());
        std::sort(held.begin(), held.end());
        ordered.insert(ordered.end(), held.begin(), held.end());
        return ordered;
    }

 private:
    enum About : int { control, bend, pressure, program, keyPressure, dataEntry, selection, osc };
    /// Port, channel, about what, its number, its address.
    using Subject = std::tuple<std::uint16_t, int, int, int, std::string>;

    void seeMessage(std::uint16_t port, midi::Bytes body, std::uint32_t place) {
        const int channel = midi::channelOf(body);
        const auto say = [&](About about, int number) {
            said_[{port, channel, about, number, {}}] = {place};
        };
        const std::tuple key{port, channel, static_cast<int>(body[1])};
        if (midi::isNoteOff(body)) {
            const auto found = down_.find(key);
            if (found == down_.end()) return;
            found->second.pop_back();
            if (found->second.empty()) down_.erase(found);
            said_.erase({port, channel, keyPressure, body[1], {}});
            return;
        }
        switch (midi::kindOf(body)) {
            case midi::noteOn:
                down_[key].push_back(place);
                break;
            case midi::keyPressure:
                say(keyPressure, body[1]);
                break;
            case midi::controlChange:
                seeControl(port, channel, body, place);
                break;
            case midi::programChange:
                seeProgram(port, channel, place);
                break;
            case midi::channelPressure:
                say(pressure, 0);
                break;
            case midi::pitchBend:
                say(bend, 0);
                break;
            default:
                break;
        }
    }

    void seeControl(std::uint16_t port, int channel, midi::Bytes body, std::uint32_t place) {
        const int number = body[1];
        if (number == midi::resetAllControllers) return reset(port, channel);
        if (number > midi::lastOrdinary) return endNotes(port, channel);
        if (midi::selectsRegister(number)) return selectRegister(port, channel, body, place);
        const Select& select = selects_[{port, channel}];
        if (!midi::isDataEntry(number) || !select.isWhole()) {
            said_[{port, channel, control, number, {}}] = {place};
            return;
        }
        const int which = (select.registered ? 0 : 1 << 14) + (select.high << 7) + select.low;
        auto& entries = said_[{port, channel, dataEntry, which, {}}];
        if (number == midi::dataEntry || entries.empty()) entries = {select.highPlace, select.lowPlace};
        entries.push_back(place);
    }

    void selectRegister(std::uint16_t port, int channel, midi::Bytes body, std::uint32_t place) {
        Select& select = selects_[{port, channel}];
        const bool registered = body[1] >= midi::rpnSelectLow;
        if (select.registered != registered) select = {};
        select.registered = registered;
        const bool isHigh = body[1] == midi::rpnSelect || body[1] == midi::nrpnSelect;
        (isHigh ? select.high : select.low) = body[2];
        (isHigh ? select.highPlace : select.lowPlace) = place;
        if (select.isWhole()) said_[{port, channel, selection, 0, {}}] = {select.highPlace, select.lowPlace};
    }

    void seeProgram(std::uint16_t port, int channel, std::uint32_t place) {
        auto& said = said_[{port, channel, program, 0, {}}];
        said.clear();
        for (const int bank : {midi::bankSelect, midi::bankSelectLow}) {
            const auto found = said_.find({port, channel, control, bank, {}});
            if (found != said_.end()) said.push_back(found->second.front());
        }
        said.push_back(place);
    }

    void reset(std::uint16_t port, int channel) {
        std::erase_if(said_, [&](const auto& each) {
            const auto& [onPort, onChannel, about, number, address] = each.first;
            return onPort == port && onChannel == channel && about != program;
        });
        selects_.erase({port, channel});
    }
    void endNotes(std::uint16_t port, int channel) {
        std::erase_if(down_, [&](const auto& each) {
            return std::get<0>(each.first) == port && std::get<1>(each.first) == channel;
        });
    }

    const Take& take_;
    std::map<Subject, std::vector<std::uint32_t>> said_;
    std::map<std::tuple<std::uint16_t, int, int>, std::vector<std::uint32_t>> down_;
    std::map<std::pair<std::uint16_t, int>, Select> selects_;
};

}  // namespace

std::vector<std::uint32_t> eventsToChase(const Take& take, std::int64_t time) {
    Chase chase(take);
    const auto end = static_cast<std::uint32_t>(take.placeAt(time));
    for (std::uint32_t place = 0; place < end; ++place) chase.see(place);
    return chase.places();
}

}  // namespace mellow
