// Zones of keyboards that bend and press each note by itself (docs/expressive-keyboards.md): said by hand as
// they cannot be, wanted where nobody says them, or out of reach behind a channel that only one note has.
#include <algorithm>
#include <initializer_list>

#include "core/checks/rules.h"
#include "core/model/edit.h"

namespace mellow::checks {

namespace {

/// A sentence of parts.
std::string said(std::initializer_list<std::string_view> parts) {
    std::string all;
    for (const std::string_view part : parts) all += part;
    return all;
}

std::string_view nameOf(midi::Zone zone) {
    return zone == midi::Zone::lower ? "lower" : "upper";
}

/// What is wrong with what a controller says by hand, and an edit of it.
void lookAtController(const Ensemble& ensemble, std::size_t place, Findings& findings) {
    const Controller& controller = ensemble.controllers[place];
    const ZoneSettings& zones = controller.zones;
    const auto tell = [&](Severity severity, std::string what, std::string mend, std::string name,
                          std::function<void(ZoneSettings&)> edit) {
        findings.push_back({severity,
                            Stops::nothing,
                            {},
                            {said({"Controller ", nameAmong(ensemble.controllers, controller)}),
                             std::move(what), std::move(mend)},
                            {{std::move(name), [place, edit = std::move(edit)](Ensemble& mended) {
                                  if (place < mended.controllers.size())
                                      edit(mended.controllers[place].zones);
                              }}}});
    };
    for (const midi::Zone zone : {midi::Zone::lower, midi::Zone::upper}) {
        const int members = zone == midi::Zone::lower ? zones.lower : zones.upper;
        if (members == byMessage || (members >= 0 && members <= midi::mostMembers)) continue;
        tell(Severity::trouble,
             said({"its ", nameOf(zone), " zone has ", std::to_string(members),
                   " members, and a zone has 0 to 15"}),
             "correct the number", "Use the nearest that can be", [zone](ZoneSettings& mended) {
                 int& wrong = zone == midi::Zone::lower ? mended.lower : mended.upper;
                 wrong = std::clamp(wrong, 0, midi::mostMembers);
             });
    }
    const auto isBend = [](double bend) { return bend > 0 && bend <= midi::widestBend; };
    if (!isBend(zones.noteBend))
        tell(Severity::trouble, "its notes bend by what is not from 0 to 96 semitones", "correct the number",
             "Use 48", [](ZoneSettings& mended) { mended.noteBend = midi::memberBend; });
    if (!isBend(zones.allBend))
        tell(Severity::trouble, "its notes bend together by what is not from 0 to 96 semitones",
             "correct the number", "Use 2", [](ZoneSettings& mended) { mended.allBend = midi::managerBend; });
    const midi::ZoneSizes wanted{std::clamp(zones.lower, 0, midi::mostMembers),
                                 std::clamp(zones.upper, 0, midi::mostMembers)};
    const int left = wanted.fitted(midi::Zone::upper).upper;
    if (left != wanted.upper)
        tell(Severity::note,
             said({"its zones want ", std::to_string(wanted.lower + wanted.upper),
                   " channels, and there are 14 for two, so the upper one has ", std::to_string(left)}),
             "make one of them smaller", "Let the upper one have what is left",
             [left](ZoneSettings& mended) { mended.upper = left; });
}

bool fits(const Controller& controller, const std::string* port) {
    return port == nullptr || *port == anyPort || controller.port == anyPort || controller.port == *port;
}

/// What controllers say by hand of a zone of a port. port: nullptr or any: whichever.
enum class Said { nothing, thatItIs, thatThereIsNone };

Said saidOf(const Ensemble& ensemble, midi::Zone zone, const std::string* port) {
    // Of one port the first that says it counts. Of any port one is enough, and somebody else may yet play on
    // a port of which nothing is said.
    const bool onePort = port != nullptr && *port != anyPort;
    for (const Controller& each : ensemble.controllers) {
        const int members = zone == midi::Zone::lower ? each.zones.lower : each.zones.upper;
        if (!fits(each, port) || members < 0) continue;
        if (members > 0) return Said::thatItIs;
        if (onePort || each.port == anyPort) return Said::thatThereIsNone;
    }
    return Said::nothing;
}

/// Edits by which a controller would say it.
std::vector<Mend> sayIt(const Ensemble& ensemble, midi::Zone zone, const std::string* port) {
    std::vector<Mend> mends;
    for (std::size_t c = 0; c < ensemble.controllers.size(); ++c) {
        const Controller& each = ensemble.controllers[c];
        if (!fits(each, port)) continue;
        mends.push_back(
            {said({"Give “", mellow::nameOf(each), "” a ", nameOf(zone), " zone of all channels"}),
             [c, zone](Ensemble& mended) {
                 if (c >= mended.controllers.size()) return;
                 ZoneSettings& zones = mended.controllers[c].zones;
                 (zone == midi::Zone::lower ? zones.lower : zones.upper) = midi::mostMembers;
             }});
    }
    return mends;
}

constexpr const char* whoSays = "say by hand in Gear how many channels it has, unless the keyboard tells";

std::string waitsFor(midi::Zone zone) {
    return said({"it waits for the keyboard's configuration message, since no controller says what the ",
                 nameOf(zone), " zone is"});
}

std::string hasNone(midi::Zone zone) {
    return said(
        {"it never hears anything, since a controller says that there is no ", nameOf(zone), " zone"});
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    const Ensemble& ensemble = at.directory.ensemble();
    bool told = false;
    forEachSource(at.chain, [&](const Source& source) {
        if (source.kind != SourceKind::zoneNote || told) return;
        told = true;
        const midi::Zone zone = zoneNoteOf(source).zone;
        const std::optional<int> only = source.channel             ? source.channel
                                        : at.instrument == nullptr ? std::nullopt
                                                                   : at.instrument->input.channel;
        if (only) {
            std::vector<Mend> mends{mendSources(at, "Listen to any channel", [](Source& mended) {
                if (mended.kind == SourceKind::zoneNote) mended.channel.reset();
            })};
            if (!source.channel && at.place.instrument)
                mends = {mendInstrument(at.directory, *at.place.instrument,
                                        "Let the instrument hear any channel",
                                        [](Instrument& mended) { mended.input.channel.reset(); })};
            findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                     said({"it follows the fingers of a zone, and hears channel ",
                                           std::to_string(*only), " only, which is one finger's at most"}),
                                     "listen to any channel", std::move(mends)));
        }
        const std::string* port = portOf(at.directory, source);
        if (port == nullptr && at.instrument != nullptr) port = &at.instrument->input.port;
        const bool elsewhere = at.instrument != nullptr && at.instrument->input.zone.value_or(zone) != zone;
        if (elsewhere && at.place.instrument)
            findings.push_back(
                about(at, {}, Severity::trouble, Stops::nothing,
                      said({"it follows the ", nameOf(zone), " zone, and ", mellow::nameOf(*at.instrument),
                            " takes the other one only"}),
                      "follow the zone that the instrument takes",
                      {mendSources(at, "Follow the instrument's zone",
                                   [wrong = zone](Source& mended) {
                                       constexpr std::size_t zoneField = 2;
                                       if (mended.kind != SourceKind::zoneNote) return;
                                       if (zoneNoteOf(mended).zone == wrong)
                                           mended.values[zoneField] = wrong == midi::Zone::lower ? 1 : 0;
                                   }),
                       mendInstrument(at.directory, *at.place.instrument, "Let the instrument take all",
                                      [](Instrument& mended) { mended.input.zone.reset(); })}));
        switch (saidOf(ensemble, zone, port)) {
            case Said::nothing:
                findings.push_back(about(at, {}, Severity::note, Stops::nothing, waitsFor(zone), whoSays,
                                         sayIt(ensemble, zone, port)));
                break;
            case Said::thatThereIsNone:
                findings.push_back(about(at, {}, Severity::trouble, Stops::nothing, hasNone(zone),
                                         "say in Gear how many channels it has",
                                         sayIt(ensemble, zone, port)));
                break;
            case Said::thatItIs:
                break;
        }
    });
}

void lookAtInstrument(const InstrumentAt& at, Findings& findings) {
    const Instrument& instrument = at.instrument;
    const Ensemble& ensemble = at.directory.ensemble();
    const Said asked = instrument.input.zone
                           ? saidOf(ensemble, *instrument.input.zone, &instrument.input.port)
                           : Said::thatItIs;
    if (asked != Said::thatItIs) {
        const midi::Zone zone = *instrument.input.zone;
        const bool waits = asked == Said::nothing;
        findings.push_back(about(at.place, Severity::note, Stops::nothing,
                                 waits ? waitsFor(zone)
                                       : said({"it hears its manager's channel only, since a controller says "
                                               "that there is no ",
                                               nameOf(zone), " zone"}),
                                 waits ? whoSays : "say in Gear how many channels it has",
                                 sayIt(ensemble, zone, &instrument.input.port)));
    }
    const bool isManager = instrument.output.channel == 1 || instrument.output.channel == 16;
    if (instrument.output.keepChannels && !isManager)
        findings.push_back(
            about(at.place, Severity::note, Stops::nothing,
                  said({"it keeps the channels of fingers, and itself plays on channel ",
                        std::to_string(instrument.output.channel), ", which is no zone's manager"}),
                  "play on channel 1, or 16 for the upper zone",
                  {mendInstrument(at, "Play on channel 1",
                                  [](Instrument& mended) { mended.output.channel = 1; })}));
}

void lookAtAll(const Whole& whole, Findings& findings) {
    for (std::size_t c = 0; c < whole.ensemble().controllers.size(); ++c)
        lookAtController(whole.ensemble(), c, findings);
}

}  // namespace

extern const Rule zonesOfKeyboards{.chain = lookAtChain, .instrument = lookAtInstrument, .whole = lookAtAll};

}  // namespace mellow::checks
