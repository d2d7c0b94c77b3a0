// The words of the live calls, for the tool that takes them and the program that carries them out.
#pragma once

#include <CLI/CLI.hpp>

#include "cli/live_calls.h"

namespace mellow::cli {

struct LiveCalls {
    RunOptions options;
    CLI::App* run = nullptr;
    CLI::App* ports = nullptr;
    BounceCallOptions bounceOptions;
    CLI::App* bounce = nullptr;
};

inline void addLiveCalls(CLI::App& app, LiveCalls& calls) {
    calls.run = app.add_subcommand("run", "play live on real ports, until interrupted");
    calls.ports = app.add_subcommand("ports", "list the ports that an ensemble has live");
    for (CLI::App* call : {calls.run, calls.ports}) {
        call->add_option("ENSEMBLE", calls.options.ensemble, "the .lever document; - for standard input")
            ->required();
        call->add_flag("!--no-jack", calls.options.jack, "do not look for a JACK server");
    }
    calls.run->add_option("--network", calls.options.network,
                          "hear OSC at this address of the machine (127.0.0.1: from this machine only)");
    calls.run->add_flag("!--no-sound-card", calls.options.soundCard, "do not look for a sound card");

    BounceCallOptions& bounce = calls.bounceOptions;
    calls.bounce = app.add_subcommand("bounce", "render a take on the practice rack into a sound file");
    calls.bounce->add_option("ENSEMBLE", bounce.ensemble, "the .lever document")->required();
    calls.bounce->add_option("--take", bounce.take, "the take, by name or id")->required();
    calls.bounce->add_option("-o,--output", bounce.output, "the file to write, .wav or .flac")->required();
    calls.bounce
        ->add_option("--instrument", bounce.instruments, "only this instrument, by id; may be repeated")
        ->take_all()
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
    calls.bounce->add_flag("--apart", bounce.apart, "a file for each instrument, named after it");
    calls.bounce->add_option("--rate", bounce.sampleRate, "frames a second (48000)")
        ->check(CLI::Range(8000, 192000));
    calls.bounce
        ->add_option("--longest", bounce.longestHours, "render no take that lasts more hours than this (12)")
        ->check(CLI::PositiveNumber);
}

}  // namespace mellow::cli
