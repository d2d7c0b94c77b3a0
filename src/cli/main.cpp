// mellow-lever-cli: the engine without a window. The calls are specified in the ensemble format; those over
// files and streams need the core alone, `run` and `ports` have a session with real ports.
//
// Whatever goes wrong ends in one sentence on standard error and exit 2: a mistyped word, a file that is
// none, a pipe that nobody reads, memory that is not there.
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <csignal>
#include <iostream>

#include "cli/file_options.h"
#include "cli/live_options.h"
#include "cli/loading.h"
#include "core/files/helper.h"
#include "core/result.h"
#include "core/text/printable.h"
#include "version/version.h"

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
    const std::string live = mellow::files::helperPath("mellow-lever-live");
    execv(live.c_str(), argv);
    return refuse({live, "it is not there, and playing live needs it", "install Mellow Lever whole"});
}

int run(int argc, char** argv) {
    CLI::App app(summary);
    app.require_subcommand(1);
    app.set_version_flag("--version", std::string("mellow-lever-cli ") + mellow::versionText());

    FileCalls calls;
    addFileCalls(app, calls);
    LiveCalls live;
    addLiveCalls(app, live);

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() != 0) return refuse(commandProblem(app, error));
        app.exit(error);
        return std::cout.flush() ? clear : badInput;
    }
    if (*calls.apply) return runApply(calls.applyOptions, std::cerr);
    if (*calls.takes) return runTakes(calls.takesOptions, std::cout, std::cerr);
    if (*calls.feed) return runFeed(calls.feedOptions, std::cout, std::cerr);
    if (*calls.check) return runCheck(calls.checkOptions, std::cout, std::cerr);
    if (*calls.describe) return runDescribe(calls.described, std::cout, std::cerr);
    if (*calls.sheet) return runSheet(calls.sheetOptions, std::cerr);
    if (*calls.compare) return runCompare(calls.compareOptions, std::cout, std::cerr);
    if (*calls.schema) return runSchema(std::cout, std::cerr);
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
