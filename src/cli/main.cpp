// mellow-lever-cli: the engine without a window. The four calls are specified in the ensemble format; all of
// them read an ensemble, and none of them needs more than the core.
#include <CLI/CLI.hpp>
#include <iostream>

#include "cli/calls.h"

// What can be thrown here is an out-of-memory error, which nothing could be done about.
int main(int argc, char** argv) {  // NOLINT(bugprone-exception-escape)
    using namespace mellow::cli;

    CLI::App app("Mellow Lever without a window: runs the chains of an ensemble over files and streams.");
    app.require_subcommand(1);

    ApplyOptions apply;
    CLI::App* applyCall =
        app.add_subcommand("apply", "play a MIDI file into the instruments and write what they are sent");
    applyCall->add_option("ENSEMBLE", apply.ensemble, "the .lever document")->required();
    applyCall->add_option("IN.mid", apply.input, "a Standard MIDI File")->required();
    applyCall->add_option("-o,--output", apply.output, "the file to write, format 1")->required();
    applyCall->add_option("--instrument", apply.instruments, "only this instrument, by id; may be repeated")
        ->take_all()
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
    applyCall->add_option("--port", apply.port, "the port on which the file arrives (any)");

    FeedOptions feed;
    CLI::App* feedCall = app.add_subcommand(
        "feed", "read TIME_US PORT HEXBYTES lines, write TIME_US INSTRUMENT HEXBYTES lines");
    feedCall->add_option("ENSEMBLE", feed.ensemble, "the .lever document")->required();
    feedCall->add_option("--until", feed.until, "run the clock on to this time in microseconds");

    std::string checked;
    CLI::App* checkCall =
        app.add_subcommand("check", "list every problem; exit 1 when something does not work");
    checkCall->add_option("ENSEMBLE", checked, "the .lever document")->required();

    std::string described;
    CLI::App* describeCall = app.add_subcommand("describe", "each chain as one plain sentence");
    describeCall->add_option("ENSEMBLE", described, "the .lever document")->required();

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : badInput;
    }
    if (*applyCall) return runApply(apply, std::cerr);
    if (*feedCall) return runFeed(feed, std::cin, std::cout, std::cerr);
    if (*checkCall) return runCheck(checked, std::cout, std::cerr);
    if (*describeCall) return runDescribe(described, std::cout, std::cerr);
    return badInput;
}
