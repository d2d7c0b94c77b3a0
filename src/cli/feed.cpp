// Events as lines, and what they cause as lines.
#include "cli/calls.h"
#include "cli/loading.h"

#include <functional>
#include <iostream>
#include <string_view>
#include <utility>

#include "core/engine/compiling/compile.h"
#include "core/engine/driving/feed.h"
#include "core/engine/playing/engine.h"
#include "core/files/files.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::cli {

namespace {

/// Calls each(line, number) for every line of a text, until it returns false.
template<class Each>
void forEachLine(std::string_view text, Each&& each) {
    for (std::size_t number = 1; !text.empty(); ++number) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        if (!each(text.substr(0, end), number)) return;
        text.remove_prefix(std::min(end + 1, text.size()));
    }
}

/// Where a line stands, for a complaint.
std::string lineOf(std::size_t number) {
    return "standard input, line " + std::to_string(number);
}

/// Takes the lines of `feed`, one after the other.
class FeedReader {
 public:
    explicit FeedReader(engine::Names& ports) : ports_(ports) {}

    /// A line, with its port numbered; or why it is not as it should be, after which it counts for nothing.
    Result<engine::FeedLine> read(std::string_view words, std::size_t number) {
        auto line = engine::parseFeedLine(words, earliest_);
        if (!line) {
            Problem problem = line.problem();
            problem.where = lineOf(number);
            return problem;
        }
        const bool isNew = !ports_.find(line->port);
        if (isNew && ports_.size() >= engine::Hands::portCount) {
            return Problem{lineOf(number),
                           "the port " + text::quoted(line->port) + " is one more than the " +
                               std::to_string(engine::Hands::portCount) + " that can be told apart",
                           "use a port that came before"};
        }
        earliest_ = line->time;
        ports_.intern(line->port);
        return line;
    }

 private:
    engine::Names& ports_;
    std::int64_t earliest_ = 0;
};

/// The first line that is not as it should be. ports: takes the names of those that are used.
Outcome checkLines(std::string_view text, engine::Names& ports) {
    Outcome outcome = Done{};
    FeedReader reader(ports);
    forEachLine(text, [&](std::string_view words, std::size_t number) {
        const auto line = reader.read(words, number);
        if (!line) outcome = line.problem();
        return static_cast<bool>(line);
    });
    return outcome;
}

/// Reads a line of at most `longest` letters, without its end. Nothing at the end of the stream; of a longer
/// one its beginning, with the rest passed over.
std::optional<std::string> nextLine(std::istream& in, std::size_t longest) {
    std::string line;
    for (int letter = in.get(); letter != '\n'; letter = in.get()) {
        if (letter == std::istream::traits_type::eof())
            return line.empty() ? std::nullopt : std::optional(std::move(line));
        if (line.size() <= longest) line += static_cast<char>(letter);
    }
    return line;
}

/// An engine that lines are played into.
class Feeding {
 public:
    Feeding(engine::Program& program, engine::Names& ports, std::ostream& out)
        : program_(program), ports_(ports), out_(out), engine_(&program) {}

    void play(const engine::FeedLine& line) {
        if (!advance(line.time)) return;
        engine_.makeRoom();
        engine::playFeedLine(engine_, line, static_cast<engine::PortId>(ports_.intern(line.port)), sink_);
    }
    /// A second at a time, since whoever reads may have had enough of it. False when nobody reads any more.
    bool advance(std::int64_t until) {
        constexpr std::int64_t slice = 1'000'000;
        while (engine_.moving() && until - engine_.now() > slice) {
            engine_.advance(engine_.now() + slice, sink_);
            if (std::exchange(wrote_, false) && !out_.flush()) return false;
        }
        engine_.advance(until, sink_);
        return static_cast<bool>(out_);
    }

 private:
    engine::Program& program_;
    engine::Names& ports_;
    std::ostream& out_;
    engine::Engine engine_;
    bool wrote_ = false;
    std::function<void(const engine::Output&)> print_ = [this](const engine::Output& output) {
        out_ << engine::feedLine(program_.plan, output) << '\n';
        wrote_ = true;
    };
    engine::Sink sink_ = engine::sinkTo(print_);
};

/// Whoever writes to a pipe that stays open wants an answer to each line, and goes on after one that is
/// wrong.
int feedLive(Feeding& feeding, engine::Names& ports, std::ostream& out, std::ostream& err) {
    constexpr std::size_t longestLine = std::size_t{16} << 20;
    FeedReader reader(ports);
    int code = clear;
    for (std::size_t number = 1; out; ++number) {
        const auto words = nextLine(std::cin, longestLine);
        if (!words) break;
        const auto line =
            words->size() > longestLine
                ? Result<engine::FeedLine>(Problem{lineOf(number), "it is longer than 16 MB", ""})
                : reader.read(*words, number);
        if (line) {
            feeding.play(*line);
            out.flush();
        } else {
            code = refuse(err, line.problem());
            err.flush();
        }
    }
    return code;
}

}  // namespace

int runFeed(const FeedOptions& options, std::ostream& out, std::ostream& err) {
    if (const auto apart = checkFiles({options.ensemble, standardStream}, standardStream); !apart)
        return refuse(err, apart.problem());
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto program = engine::compile(*ensemble);
    engine::Names ports = program->plan.numbering.ports;
    Feeding feeding(*program, ports, out);
    int code = clear;
    if (options.live) {
        warnOfSilence(*ensemble, err);
        code = feedLive(feeding, ports, out, err);
    } else {
        const auto text = files::readTextFile(standardStream);
        if (!text) return refuse(err, text.problem());
        if (const auto fine = checkLines(*text, ports); !fine) return refuse(err, fine.problem());
        warnOfSilence(*ensemble, err);
        forEachLine(*text, [&](std::string_view words, std::size_t) {
            feeding.play(*engine::parseFeedLine(words, 0));
            return static_cast<bool>(out);
        });
    }
    if (options.until) feeding.advance(*options.until);
    return endOf(out, err, code);
}

}  // namespace mellow::cli
