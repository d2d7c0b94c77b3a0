// What an ensemble is asked: its takes, what is wrong with it, what it says. Every call has the same three
// parts: read all that is to be read and refuse what is not as it should be, do the work with nothing touched
// on disk, and only then write. One function says refusals, so that they are one sentence each, and exit 2.
#include "cli/calls.h"

#include <array>
#include <cstdio>
#include <iostream>
#include <nlohmann/json.hpp>
#include <string_view>

#include "core/checks/check.h"
#include "core/describe/sentence.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "core/store/schema.h"
#include "core/takes/take_folder.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

#include "cli/loading.h"

namespace mellow::cli {

namespace {

/// What the call `takes` says of a take.
struct TakeLine {
    double seconds = 0;
    std::size_t events = 0;
    std::vector<std::string> ports;
    std::string problem;  ///< why it cannot be played; empty: it can
};

TakeLine lookAtTake(const Ensemble& ensemble, const std::string& path, const KeptTake& kept,
                    std::ostream& err) {
    TakeLine line;
    const auto take = loadTake(ensemble, path, kept.id);
    const auto reading = take ? readTake(take->bytes, kept) : Result<TakeReading>(take.problem());
    if (!reading) {
        const Problem problem = take ? files::inFile(take->path.string(), reading.problem()) : take.problem();
        line.problem = problem.sentence();
        err << "warning: " << line.problem << ".\n";
        return line;
    }
    warnOfDoubts(*take, reading->warnings, err);
    line.seconds = static_cast<double>(reading->take.length) / 1e6;
    line.events = reading->take.events.size();
    line.ports = reading->take.ports;
    return line;
}

nlohmann::ordered_json asJson(const KeptTake& kept, const TakeLine& line) {
    nlohmann::ordered_json json;
    json["id"] = kept.id;
    json["name"] = nameOf(kept);
    json["file"] = kept.file;
    json["recorded"] = kept.recorded;
    json["seconds"] = line.seconds;
    json["events"] = line.events;
    json["ports"] = line.ports;
    if (!line.problem.empty()) json["problem"] = line.problem;
    return json;
}

/// "barometer  Barometer falls  64.208 s  1,204 events  keys, desk  2026-11-27T09:30:00Z"
std::string asText(const KeptTake& kept, const TakeLine& line) {
    constexpr std::size_t longest = 200;
    std::array<char, 64> seconds{};
    std::snprintf(seconds.data(), seconds.size(), "%.3f s", line.seconds);
    std::string words = text::printable(kept.id, longest);
    words += "  ";
    words += text::printable(nameOf(kept), longest);
    if (line.problem.empty()) {
        words += "  ";
        words += seconds.data();
        words += "  ";
        words += std::to_string(line.events);
        words += " events  ";
        words += text::printable(text::listed(line.ports), longest);
    } else {
        words += "  cannot be played";
    }
    if (!kept.recorded.empty()) words += "  " + text::printable(kept.recorded, longest);
    return words;
}

}  // namespace

int runTakes(const TakesOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    bool trouble = false;
    nlohmann::ordered_json all = nlohmann::ordered_json::array();
    for (const KeptTake& kept : ensemble->takes) {
        const TakeLine line = lookAtTake(*ensemble, options.ensemble, kept, err);
        trouble = trouble || !line.problem.empty();
        if (options.json) {
            all.push_back(asJson(kept, line));
        } else {
            out << asText(kept, line) << '\n';
        }
    }
    if (options.json)
        out << all.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) << '\n';
    return endOf(out, err, trouble ? hasTrouble : clear);
}

namespace {

/// A finding for programs: its place by ids, and its branch counted from 1.
nlohmann::ordered_json asJson(const Ensemble& ensemble, const Finding& finding) {
    nlohmann::ordered_json json;
    json["severity"] = finding.severity == Severity::trouble ? "trouble" : "note";
    json["place"] = nlohmann::ordered_json::object();
    const Place& place = finding.place;
    const Instrument* instrument = place.instrument ? &ensemble.instruments[*place.instrument] : nullptr;
    if (instrument != nullptr) json["place"]["instrument"] = instrument->id;
    if (place.chain) {
        const auto& chains = instrument != nullptr ? instrument->chains : ensemble.sharedChains;
        json["place"]["chain"] = chains[*place.chain].id;
    }
    if (place.branch) json["place"]["branch"] = *place.branch + 1;
    json["where"] = finding.problem.where;
    json["what"] = finding.problem.what;
    json["mend"] = finding.problem.mend;
    return json;
}

}  // namespace

int runCheck(const CheckOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    bool trouble = false;
    std::string_view between = "";
    if (options.json) out << "[";
    for (const Finding& finding : check(*ensemble)) {
        const bool isTrouble = finding.severity == Severity::trouble;
        trouble = trouble || isTrouble;
        if (options.json) {
            out << between << "\n  "
                << asJson(*ensemble, finding)
                       .dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
            between = ",";
        } else {
            out << (isTrouble ? "trouble: " : "note: ") << finding.problem.sentence() << '\n';
        }
    }
    if (options.json) out << "\n]\n";
    return endOf(out, err, trouble ? hasTrouble : clear);
}

int runDescribe(const std::string& path, std::ostream& out, std::ostream& err) {
    constexpr std::size_t longestSentence = 2000;
    const auto ensemble = loadEnsemble(path);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto describe = [&](const std::string& owner, const Instrument* instrument, const Chain& chain) {
        const std::string sentence =
            owner + ", " + nameOf(chain) + ": " + describe::chainSentence(*ensemble, instrument, chain);
        out << text::printable(sentence, longestSentence) << '\n';
    };
    for (const Instrument& instrument : ensemble->instruments) {
        for (const Chain& chain : instrument.chains) describe(nameOf(instrument), &instrument, chain);
    }
    for (const Chain& chain : ensemble->sharedChains) describe("Shared", nullptr, chain);
    return endOf(out, err, clear);
}

int runSchema(std::ostream& out, std::ostream& err) {
    out << store::printSchema();
    return endOf(out, err, clear);
}

}  // namespace mellow::cli
