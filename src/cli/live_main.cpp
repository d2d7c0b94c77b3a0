// mellow-lever-live: carries out the live calls of mellow-lever-cli, by the same words. A program of its own,
// so that calls over files need not load what real ports and the practice rack need.
#include <CLI/CLI.hpp>
#include <cstdlib>
#include <iostream>

#include "cli/live_options.h"

int main(int argc, char** argv) {
    // Whoever looks for a JACK server must not start one.
    setenv("JACK_NO_START_SERVER", "1", 1);
    CLI::App app("Mellow Lever live, without a window.");
    app.require_subcommand(1);
    mellow::cli::LiveCalls calls;
    mellow::cli::addLiveCalls(app, calls);
    CLI11_PARSE(app, argc, argv);
    if (*calls.balance) return mellow::cli::runBalance(calls.balanceOptions, std::cout, std::cerr);
    if (*calls.bounce) return mellow::cli::runBounce(calls.bounceOptions, std::cout, std::cerr);
    return *calls.ports ? mellow::cli::runPorts(calls.options, std::cout, std::cerr)
                        : mellow::cli::runLive(calls.options, std::cout, std::cerr);
}
