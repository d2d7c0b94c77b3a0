// The words of the live calls, for the tool that takes them and the program that carries them out.
#pragma once

#include <CLI/CLI.hpp>

#include "cli/balance_call.h"
#include "cli/live_calls.h"

namespace mellow::cli {

struct LiveCalls {
    RunOptions options;
    CLI::App* run = nullptr;
    CLI::App* ports = nullptr;
    BounceCallOptions bounceOptions;
    CLI::App* bounce = nullptr;
    BalanceOptions balanceOptions;
    CLI::App* balance = nullptr;
};

inline void addBalanceOptions(CLI::App& call, BalanceOptions& options) {
    call.add_option("ENSEMBLE", options.ensemble, "the .lever document; - for standard input")->required();
    call.add_option("--instrument", options.instrument, "the instrument, by id")->required();
    call.add_option(
            "--source", options.source,
            "what moves it: a chain's id, \"cc 1\", \"bend\", \"velocity\", \"keys\", \"tie line ID\", "
            "\"desk ID x\", \"parameter ID\"")
        ->required();
    call.add_option("--keys", options.keys, "the keys that are struck, C3,C4 (one in the middle)");
    call.add_option("--velocity", options.velocity, "with which velocity (90)")->check(CLI::Range(1, 127));
    call.add_option("--positions", options.positions, "at how many places of its travel (64)")
        ->check(CLI::Range(2, 128));
    call.add_option("--settle", options.settle, "seconds left out when a key goes down (as its chain needs)")
        ->check(CLI::Range(0.0, 10.0));
    call.add_option("--hold", options.hold, "seconds that are measured (0.4)")->check(CLI::Range(0.4, 10.0));
    CLI::Option* wav =
        call.add_option("--wav", options.wav, "measure this sound file instead of the practice rack");
    call.add_option("--sweep", options.sweep, "with --wav: the MIDI file that was rendered to it")
        ->needs(wav);
    call.add_option("--begins", options.begins,
                    "with --wav: the second at which the sweep begins (by its click)")
        ->needs(wav);
    call.add_option("--write-sweep", options.writeSweep,
                    "write the sweep as a MIDI file, to be rendered elsewhere");
    CLI::Option* level = call.add_option("--level", options.level,
                                         "level it by this parameter: an id, or a message such as \"cc 7\"");
    call.add_option(
            "--goal", options.goal,
            "with --level: flat, flat:LUFS, or line:A,B from one end of the travel to the other (flat)")
        ->needs(level);
    call.add_option("--within", options.within, "with --level: LU from the goal that are allowed (0.5)")
        ->check(CLI::Range(0.1, 6.0))
        ->needs(level);
    call.add_option("--ceiling", options.ceiling, "with --level: never above this true peak, dB (-1)")
        ->check(CLI::Range(-60.0, 6.0))
        ->needs(level);
    call.add_option("-o,--output", options.output, "with --level: the document to write");
    CLI::Option_group* form = call.add_option_group("form");
    form->add_flag("--csv", options.csv, "the curve for a spreadsheet");
    form->add_flag("--json", options.json, "the curve for programs");
    form->require_option(0, 1);
}

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
    calls.run
        ->add_option("--sound", calls.options.sound,
                     "by what the practice rack is heard: pipewire, jack, pulseaudio, alsa or none (as Gear "
                     "was told)")
        ->check(CLI::IsMember({"pipewire", "jack", "pulseaudio", "alsa", "none"}));

    calls.balance =
        app.add_subcommand("balance", "measure how loud an instrument is along what moves it, and level it");
    addBalanceOptions(*calls.balance, calls.balanceOptions);

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
