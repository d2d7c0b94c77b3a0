// The words of the calls over files and streams: the tool reads them, and man page and completion are made
// from them.
#pragma once

#include <CLI/CLI.hpp>
#include <charconv>
#include <cstdint>
#include <string>

#include "cli/calls.h"
#include "cli/compare_call.h"
#include "cli/sheet_call.h"
#include "core/text/printable.h"

namespace mellow::cli {

inline constexpr const char* summary =
    "Mellow Lever without a window: runs the chains of an ensemble over files and streams.";

struct FileCalls {
    ApplyOptions applyOptions;
    CLI::App* apply = nullptr;
    TakesOptions takesOptions;
    CLI::App* takes = nullptr;
    FeedOptions feedOptions;
    CLI::App* feed = nullptr;
    CheckOptions checkOptions;
    CLI::App* check = nullptr;
    std::string described;
    CLI::App* describe = nullptr;
    SheetOptions sheetOptions;
    CLI::App* sheet = nullptr;
    CompareOptions compareOptions;
    CLI::App* compare = nullptr;
    CLI::App* schema = nullptr;
};

/// Why a word is no time in microseconds; empty: it is one.
inline std::string isTime(const std::string& word) {
    std::int64_t time = 0;
    const char* const last = word.data() + word.size();
    const auto [end, error] = std::from_chars(word.data(), last, time);
    constexpr std::int64_t latest = std::int64_t{1} << 61;
    if (error == std::errc() && end == last && time >= 0 && time <= latest) return {};
    return text::quoted(word) + " is no time in microseconds";
}

inline void addSheetOptions(CLI::App& call, SheetOptions& options) {
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

inline void addFileCalls(CLI::App& app, FileCalls& calls) {
    calls.apply =
        app.add_subcommand("apply", "play a MIDI file into the instruments and write what they are sent");
    calls.apply
        ->add_option("ENSEMBLE", calls.applyOptions.ensemble, "the .lever document; - for standard input")
        ->required();
    calls.apply->add_option("IN.mid", calls.applyOptions.input, "a Standard MIDI File; - for standard input");
    calls.apply->add_option("--take", calls.applyOptions.take,
                            "one of the ensemble's own takes instead, by name or id");
    calls.apply
        ->add_option("-o,--output", calls.applyOptions.output,
                     "the file to write, format 1; - for standard output")
        ->required();
    calls.apply
        ->add_option("--instrument", calls.applyOptions.instruments,
                     "only this instrument, by id; may be repeated")
        ->take_all()
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
    calls.apply->add_option("--port", calls.applyOptions.port, "the port on which the file arrives (any)");

    calls.apply->add_option("--from", calls.applyOptions.from, "with --take: write from this second on")
        ->check(CLI::NonNegativeNumber);
    calls.apply->add_option("--to", calls.applyOptions.to, "with --take: write up to this second")
        ->check(CLI::NonNegativeNumber);

    calls.takes = app.add_subcommand("takes", "list the takes of an ensemble; exit 1 when one is missing");
    calls.takes->add_option("ENSEMBLE", calls.takesOptions.ensemble, "the .lever document")->required();
    calls.takes->add_flag("--json", calls.takesOptions.json, "the same for programs");

    calls.feed = app.add_subcommand(
        "feed", "read TIME_US PORT HEXBYTES lines, write TIME_US INSTRUMENT HEXBYTES lines");
    calls.feed->add_option("ENSEMBLE", calls.feedOptions.ensemble, "the .lever document")->required();
    calls.feed
        ->add_option("--until", calls.feedOptions.until, "run the clock on to this time in microseconds")
        ->check(CLI::Validator(isTime, "US"));
    calls.feed->add_flag("--live", calls.feedOptions.live,
                         "answer each line as it comes; a line that is wrong is told of and passed over");

    calls.check = app.add_subcommand("check", "list every problem; exit 1 when something does not work");
    calls.check
        ->add_option("ENSEMBLE", calls.checkOptions.ensemble, "the .lever document; - for standard input")
        ->required();
    calls.check->add_flag("--json", calls.checkOptions.json, "the same for programs");

    calls.describe = app.add_subcommand("describe", "each chain as one plain sentence");
    calls.describe->add_option("ENSEMBLE", calls.described, "the .lever document; - for standard input")
        ->required();

    calls.sheet = app.add_subcommand("sheet", "list what moves what");
    addSheetOptions(*calls.sheet, calls.sheetOptions);

    calls.compare = app.add_subcommand(
        "compare", "what differs between two ensembles; exit 0 where they are the same, 1 where not");
    calls.compare->add_option("A", calls.compareOptions.one, "a .lever document; - for standard input")
        ->required();
    calls.compare->add_option("B", calls.compareOptions.other, "the one it is compared with")->required();
    calls.compare->add_flag("--json", calls.compareOptions.json, "the same for programs");

    calls.schema = app.add_subcommand("schema", "the JSON Schema of ensembles");
}

}  // namespace mellow::cli
