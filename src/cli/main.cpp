// mellow-lever-cli: the engine without a window. The calls are specified in the ensemble format; those over
// files and streams need the core alone, `run` and `ports` have a session with real ports.
//
// Whatever goes wrong ends in one sentence on standard error and exit 2: a mistyped word, a file that is
// none, a pipe that nobody reads, memory that is not there.
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <charconv>
#include <csignal>
#include <cstdint>
#include <filesystem>
#include <iostream>

#include "cli/calls.h"
#include "cli/compare_call.h"
#include "cli/live_options.h"
#include "cli/loading.h"
#include "cli/sheet_call.h"
#include "core/result.h"
#include "core/text/printable.h"

namespace {

using namespace mellow::cli;

int refuse(const mellow::Problem& problem) {
    return mellow::cli::refuse(std::cerr, problem);
}

/// What was wrong with the words of the command, with the word.
mellow::Problem commandProblem(const CLI::App& app, const CLI::ParseError& error) {
    const std::vector<std::string> unknown = app.remaining(true);
    std::string what = error.what();
    while (!what.empty() && (what.back() == '\n' || what.back() == '.')) what.pop_back();
    if (!unknown.empty()) what = mellow::text::quoted(unknown.front()) + " was not expected";
    return {"mellow-lever-cli", what, "--help lists the calls, and with a call its options"};
}

/// Hands a live call to the program beside this one, which has the ports: files and streams need none, and
/// should not pay for them. Returns only where that program is not there.
int carryOutLive(char** argv) {
    std::error_code error;
    const auto self = std::filesystem::read_symlink("/proc/self/exe", error);
    const std::string live = (self.parent_path() / "mellow-lever-live").string();
    execv(live.c_str(), argv);
    return refuse({live, "it is not there, and playing live needs it", "install Mellow Lever whole"});
}

/// Why a word is no time in microseconds; empty: it is one.
std::string isTime(const std::string& word) {
    std::int64_t time = 0;
    const char* const last = word.data() + word.size();
    const auto [end, error] = std::from_chars(word.data(), last, time);
    constexpr std::int64_t latest = std::int64_t{1} << 61;
    if (error == std::errc() && end == last && time >= 0 && time <= latest) return {};
    return mellow::text::quoted(word) + " is no time in microseconds";
}

void addSheetOptions(CLI::App& call, SheetOptions& options) {
    call.add_option("ENSEMBLE", options.ensemble, "the .lever document; - for standard input")->required();
    CLI::Option_group* form = call.add_option_group("form");
    form->add_flag("--csv", options.csv, "for a spreadsheet; what is changed there can be read in again");
    form->add_flag("--html", options.html, "one file for a browser");
    form->add_flag("--pdf", options.pdf, "pages to be printed");
    form->add_flag("--md", options.markdown, "Markdown");
    form->require_option(1);
    call.add_option("-o,--output", options.output, "the file to write (- for standard output, the default)");
    call.add_option("--by", options.by, "in the order of what is moved, or of what is heard (move)")
        ->check(CLI::IsMember({"move", "hear"}));
    call.add_option("--paper", options.paper, "with --pdf: A4 or Letter (A4)")
        ->check(CLI::IsMember({"A4", "Letter"}));
    call.add_option("--find", options.find, "only rows with these words: \"cc 11 falls\", \"> 5 kHz\"");
}

int run(int argc, char** argv) {
    CLI::App app("Mellow Lever without a window: runs the chains of an ensemble over files and streams.");
    app.require_subcommand(1);
    app.set_version_flag("--version", std::string("mellow-lever-cli " MELLOW_VERSION));

    ApplyOptions apply;
    CLI::App* applyCall =
        app.add_subcommand("apply", "play a MIDI file into the instruments and write what they are sent");
    applyCall->add_option("ENSEMBLE", apply.ensemble, "the .lever document; - for standard input")
        ->required();
    applyCall->add_option("IN.mid", apply.input, "a Standard MIDI File; - for standard input");
    applyCall->add_option("--take", apply.take, "one of the ensemble's own takes instead, by name or id");
    applyCall->add_option("-o,--output", apply.output, "the file to write, format 1; - for standard output")
        ->required();
    applyCall->add_option("--instrument", apply.instruments, "only this instrument, by id; may be repeated")
        ->take_all()
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
    applyCall->add_option("--port", apply.port, "the port on which the file arrives (any)");

    applyCall->add_option("--from", apply.from, "with --take: write from this second on")
        ->check(CLI::NonNegativeNumber);
    applyCall->add_option("--to", apply.to, "with --take: write up to this second")
        ->check(CLI::NonNegativeNumber);

    TakesOptions takes;
    CLI::App* takesCall =
        app.add_subcommand("takes", "list the takes of an ensemble; exit 1 when one is missing");
    takesCall->add_option("ENSEMBLE", takes.ensemble, "the .lever document")->required();
    takesCall->add_flag("--json", takes.json, "the same for programs");

    FeedOptions feed;
    CLI::App* feedCall = app.add_subcommand(
        "feed", "read TIME_US PORT HEXBYTES lines, write TIME_US INSTRUMENT HEXBYTES lines");
    feedCall->add_option("ENSEMBLE", feed.ensemble, "the .lever document")->required();
    feedCall->add_option("--until", feed.until, "run the clock on to this time in microseconds")
        ->check(CLI::Validator(isTime, "US"));
    feedCall->add_flag("--live", feed.live,
                       "answer each line as it comes; a line that is wrong is told of and passed over");

    CheckOptions checked;
    CLI::App* checkCall =
        app.add_subcommand("check", "list every problem; exit 1 when something does not work");
    checkCall->add_option("ENSEMBLE", checked.ensemble, "the .lever document; - for standard input")
        ->required();
    checkCall->add_flag("--json", checked.json, "the same for programs");

    std::string described;
    CLI::App* describeCall = app.add_subcommand("describe", "each chain as one plain sentence");
    describeCall->add_option("ENSEMBLE", described, "the .lever document; - for standard input")->required();

    SheetOptions sheet;
    CLI::App* sheetCall = app.add_subcommand("sheet", "list what moves what");
    addSheetOptions(*sheetCall, sheet);

    CompareOptions compared;
    CLI::App* compareCall = app.add_subcommand(
        "compare", "what differs between two ensembles; exit 0 where they are the same, 1 where not");
    compareCall->add_option("A", compared.one, "a .lever document; - for standard input")->required();
    compareCall->add_option("B", compared.other, "the one it is compared with")->required();
    compareCall->add_flag("--json", compared.json, "the same for programs");

    CLI::App* schemaCall = app.add_subcommand("schema", "the JSON Schema of ensembles");

    LiveCalls live;
    addLiveCalls(app, live);

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() != 0) return refuse(commandProblem(app, error));
        app.exit(error);
        return std::cout.flush() ? clear : badInput;
    }
    if (*applyCall) return runApply(apply, std::cerr);
    if (*takesCall) return runTakes(takes, std::cout, std::cerr);
    if (*feedCall) return runFeed(feed, std::cout, std::cerr);
    if (*checkCall) return runCheck(checked, std::cout, std::cerr);
    if (*describeCall) return runDescribe(described, std::cout, std::cerr);
    if (*sheetCall) return runSheet(sheet, std::cerr);
    if (*compareCall) return runCompare(compared, std::cout, std::cerr);
    if (*schemaCall) return runSchema(std::cout, std::cerr);
    return carryOutLive(argv);
}

}  // namespace

int main(int argc, char** argv) {
    // A reader that goes away is a write that fails, and is said like any other.
    std::signal(SIGPIPE, SIG_IGN);
    std::ios::sync_with_stdio(false);
    try {
        return run(argc, argv);
    } catch (const std::exception&) {
        // The core throws nothing of its own; what is left is memory that is not there.
        return refuse({"mellow-lever-cli", "there is not enough memory for this", "use a smaller file"});
    }
}
