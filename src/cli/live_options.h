// The words of the live calls, for the tool that takes them and the program that carries them out.
#pragma once

#include <CLI/CLI.hpp>

#include "cli/live_calls.h"

namespace mellow::cli {

struct LiveCalls {
    RunOptions options;
    CLI::App* run = nullptr;
    CLI::App* ports = nullptr;
};

inline void addLiveCalls(CLI::App& app, LiveCalls& calls) {
    calls.run = app.add_subcommand("run", "play live on real ports, until interrupted");
    calls.ports = app.add_subcommand("ports", "list the ports that an ensemble has live");
    for (CLI::App* call : {calls.run, calls.ports}) {
        call->add_option("ENSEMBLE", calls.options.ensemble, "the .lever document; - for standard input")
            ->required();
        call->add_flag("!--no-jack", calls.options.jack, "do not look for a JACK server");
    }
    calls.run->add_flag("!--no-sound-card", calls.options.soundCard, "do not look for a sound card");
}

}  // namespace mellow::cli
