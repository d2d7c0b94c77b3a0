// Reading and processing a long file: one million channel messages, as a minute of very busy hands.
//
// Prints one figure a line, "name value", for bench/run. The file is read from memory, so that the disk does
// not count; what it takes is counted in bytes of the structures that hold it. usage: bench-files FOLDER
#include <algorithm>
#include <array>
#include <chrono>
#include <cstdio>
#include <fstream>
#include <string>

#include "core/checks/check.h"
#include "core/engine/driving/file_run.h"
#include "core/files/files.h"
#include "core/profiles/columns.h"
#include "core/profiles/delimited.h"
#include "core/profiles/name_document.h"
#include "core/smf/read.h"
#include "core/smf/write.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"

using namespace mellow;

namespace {

constexpr int events = 1000000;

smf::File busyHands() {
    smf::File file;
    file.tracks.resize(1);
    for (int i = 0; i < events; ++i) {
        const auto value = static_cast<std::uint8_t>(i / 4 % 254 < 127 ? i / 4 % 254 : 254 - i / 4 % 254);
        const auto control = static_cast<std::uint8_t>(1 + i % 4);
        file.add(file.tracks[0], static_cast<std::uint64_t>(i) / 17, smf::EventKind::channel,
                 std::array<std::uint8_t, 3>{0xB0, control, value});
    }
    file.tracks[0].endTick = events / 17;
    return file;
}

/// A million note-ons and note-offs, while `held` other keys are down.
smf::File manyNotes(int held) {
    smf::File file;
    file.tracks.resize(1);
    const auto add = [&file](std::uint64_t tick, int status, int key) {
        file.add(file.tracks[0], tick, smf::EventKind::channel,
                 std::array<std::uint8_t, 3>{static_cast<std::uint8_t>(status),
                                             static_cast<std::uint8_t>(key), 64});
    };
    for (int i = 0; i < held; ++i) add(0, 0x90 + i / 128, i % 128);
    for (int i = held; i < events; ++i)
        add(static_cast<std::uint64_t>(i), i % 2 == 0 ? 0x9F : 0x8F, i / 2 % 128);
    return file;
}

/// Shared chains, each of which reads the tie line that the one before it writes.
Ensemble manyTieLines(int count) {
    Ensemble ensemble;
    ensemble.title = "Tie lines";
    for (int i = 0; i <= count; ++i) ensemble.tieLines.push_back({"t" + std::to_string(i), "", 0, {}});
    for (int i = 0; i < count; ++i) {
        Chain chain;
        chain.id = "c" + std::to_string(i);
        chain.source = makeSource(SourceKind::tieLine);
        chain.source.tieLine = "t" + std::to_string(i);
        Branch branch;
        branch.target = "tieLine:t" + std::to_string(i + 1);
        branch.high = 1.0;
        chain.branches = {branch};
        ensemble.sharedChains.push_back(std::move(chain));
    }
    return ensemble;
}

/// Chains of one control whose branches all lead to one parameter.
Ensemble manyThatMeet(int chains, int branches) {
    Instrument instrument;
    instrument.id = "one";
    instrument.output = {"out", 1, {}};
    Parameter parameter;
    parameter.id = "p";
    instrument.parameters = {parameter};
    for (int c = 0; c < chains; ++c) {
        Chain chain;
        chain.id = "c" + std::to_string(c);
        chain.source.number = 1;
        Branch branch;
        branch.target = parameter.id;
        chain.branches.assign(static_cast<std::size_t>(branches), branch);
        instrument.chains.push_back(chain);
    }
    Ensemble ensemble;
    ensemble.title = "They meet";
    ensemble.instruments.push_back(instrument);
    return ensemble;
}

/// Four controls, each through a window and a bend to one parameter.
Ensemble fourChains() {
    Instrument instrument;
    instrument.id = "one";
    instrument.output = {"out", 1, {}};
    for (int c = 0; c < 4; ++c) {
        Parameter parameter;
        parameter.id = "p" + std::to_string(c);
        parameter.message.number = 20 + c;
        instrument.parameters.push_back(parameter);
        Chain chain;
        chain.id = "c" + std::to_string(c);
        chain.source.number = 1 + c;
        chain.steps = {makeStep(*findStepKind("window")), makeStep(*findStepKind("bend"))};
        Branch branch;
        branch.target = parameter.id;
        chain.branches = {branch};
        instrument.chains.push_back(chain);
    }
    Ensemble ensemble;
    ensemble.title = "Four chains";
    ensemble.instruments = {instrument};
    return ensemble;
}

template<class Act>
double fastestSeconds(int times, Act&& act) {
    double best = 1e9;
    for (int i = 0; i < times; ++i) {
        const auto start = std::chrono::steady_clock::now();
        act();
        best =
            std::min(best, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    return best;
}

/// Two hundred controls of 14 bits, each with all values named by one list.
std::string manyNames() {
    std::string text =
        "<MIDINameDocument><MasterDeviceNames><Manufacturer>Tin</Manufacturer><Model>Observatory</Model>"
        "<ControlNameList Name=\"c\">";
    for (int i = 0; i < 200; ++i) {
        text += "<Control Type=\"NRPN\" Number=\"" + std::to_string(i) +
                "\" Name=\"Same\"><Values Min=\"0\" Max=\"16383\"><UsesValueNameList "
                "Name=\"v\"/></Values></Control>";
    }
    text += "</ControlNameList><ValueNameList Name=\"v\">";
    for (int i = 0; i < 16384; ++i) text += "<Value Number=\"" + std::to_string(i) + "\" Name=\"Same\"/>";
    return text + "</ValueNameList></MasterDeviceNames></MIDINameDocument>";
}

/// A table of a hundred thousand controls, all of one name.
std::string manyRows() {
    std::string text = "Name,Message,Low,High\n";
    for (int i = 0; i < 100'000; ++i) text += "Same,NRPN " + std::to_string(i % 16384) + ",0,127\n";
    return text;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) return 2;
    const std::string folder = argv[1];
    const std::vector<std::uint8_t> bytes = *smf::write(busyHands());
    std::size_t held = 0;
    const double reading = fastestSeconds(7, [&] {
        const auto result = smf::read(bytes);
        held = result->file.store.capacity() + result->file.tracks[0].events.capacity() * sizeof(smf::Event);
    });
    std::printf("read-ns-an-event %.1f\nread-bytes-an-event %.1f\n", reading * 1e9 / events,
                static_cast<double>(held) / events);
    const Ensemble tied = manyTieLines(20000);
    std::printf("check-tie-lines-ms %.0f\n", fastestSeconds(3, [&tied] { (void)check(tied); }) * 1e3);
    const Ensemble meeting = manyThatMeet(1000, 200);
    std::printf("check-meetings-ms %.0f\n", fastestSeconds(3, [&meeting] { (void)check(meeting); }) * 1e3);
    Step formula = makeStep(*findStepKind("formula"));
    formula.values = {std::string("0.5 + 0.5*sin(_pi*x) * min(x, 0.7)")};
    std::printf("formula-ready-us %.0f\n", fastestSeconds(20, [&formula] {
                                               std::vector<Step> steps{formula};
                                               if (flawOf(formula).empty()) prepare(steps);
                                           }) * 1e6);
    const std::string names = manyNames();
    std::printf("names-ms %.0f\n", fastestSeconds(3, [&names] { (void)profiles::parseNames(names); }) * 1e3);
    const std::string rows = manyRows();
    std::printf("rows-ms %.0f\n",
                fastestSeconds(3, [&rows] {
                    std::vector<Parameter> list;
                    profiles::merge(list,
                                    profiles::thingsIn<mellow::Parameter>(profiles::parseTable(rows)).things);
                }) * 1e3);
    const bool saved =
        static_cast<bool>(files::writeFile(folder + "/notes.mid", *smf::write(manyNotes(0)))) &&
        static_cast<bool>(files::writeFile(folder + "/held.mid", *smf::write(manyNotes(1400)))) &&
        static_cast<bool>(files::writeFile(folder + "/busy.mid", bytes)) &&
        static_cast<bool>(files::writeFile(folder + "/four.lever", store::printEnsemble(fourChains())));
    return saved ? 0 : 1;
}
