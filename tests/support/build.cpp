// Structs with what tests seldom care about filled in, and an engine behind the notation of `feed`, so that a
// test can say what goes in and what comes out in lines that a person can read.
#include "support/build.h"

#include "core/store/ensemble_json.h"

#include <QFile>
#include <sstream>

#include "core/engine/compiling/compile.h"
#include "core/engine/driving/feed.h"
#include "core/engine/driving/file_run.h"
#include "core/smf/read.h"

namespace mellow::test {

Parameter ccParameter(const std::string& id, int number) {
    Parameter parameter;
    parameter.id = id;
    parameter.message.number = number;
    return parameter;
}

Source ccSource(int number) {
    Source source;
    source.number = number;
    return source;
}

Step step(const std::string& kind, std::initializer_list<double> numbers) {
    Step made = makeStep(*findStepKind(kind));
    std::size_t field = 0;
    for (const double number : numbers) made.values[field++] = number;
    return made;
}

Branch branch(const std::string& target, double low, double high) {
    Branch made;
    made.target = target;
    made.low = low;
    made.high = high;
    return made;
}

Chain chain(const std::string& id, const Source& source, std::vector<Step> steps,
            std::vector<Branch> branches) {
    Chain made;
    made.id = id;
    made.source = source;
    made.steps = std::move(steps);
    made.branches = std::move(branches);
    return made;
}

Instrument instrument(const std::string& id, int channel) {
    Instrument made;
    made.id = id;
    made.output = {"out", channel, OnConnect::nothing, {}};
    made.parameters = {ccParameter("expression", 11), ccParameter("tone", 74)};
    return made;
}

Ensemble ensemble(std::vector<Instrument> instruments) {
    Ensemble made;
    made.title = "Test";
    made.instruments = std::move(instruments);
    return made;
}

std::vector<std::uint8_t> bytes(const std::string& hex) {
    std::istringstream in(hex);
    std::vector<std::uint8_t> result;
    for (std::string word; in >> word;) result.push_back(*midi::byteFromHex(word));
    return result;
}

Feeder::Feeder(const Ensemble& ensemble)
    : program_(engine::compile(ensemble)), engine_(program_.get()), ports_(program_->plan.numbering.ports) {}

template<class Act>
std::vector<std::string> Feeder::collect(Act&& act) {
    std::vector<std::string> lines;
    auto take = [&](const engine::Output& output) {
        lines.push_back(engine::feedLine(engine_.program().plan, output));
    };
    act(engine::sinkTo(take));
    return lines;
}

std::vector<std::string> Feeder::feed(const std::vector<std::string>& lines) {
    return collect([&](const engine::Sink& sink) {
        for (const std::string& line : lines) {
            const auto read = engine::parseFeedLine(line, 0);
            if (!read) qFatal("%s", read.problem().sentence().c_str());
            engine::playFeedLine(engine_, *read, static_cast<engine::PortId>(ports_.intern(read->port)),
                                 sink);
        }
    });
}

std::vector<std::string> Feeder::until(engine::Time time) {
    return collect([&](const engine::Sink& sink) { engine_.advance(time, sink); });
}

std::vector<std::string> Feeder::edit(const Ensemble& ensemble) {
    auto next = engine::compile(ensemble, &program_->plan, &ports_);
    ports_ = next->plan.numbering.ports;
    return collect([&](const engine::Sink& sink) {
        engine_.adopt(next.get(), sink);
        program_ = std::move(next);
    });
}

std::vector<std::string> Feeder::silenceAll() {
    return collect([&](const engine::Sink& sink) { engine_.silenceAll(sink); });
}

smf::File played(const Ensemble& ensemble, const smf::File& file) {
    std::vector<std::uint8_t> bytes;
    const auto outcome = engine::runFile(ensemble, file, {}, [&bytes](smf::Writer& writer) {
        return writer.print([&bytes](midi::Bytes piece) {
            bytes.insert(bytes.end(), piece.begin(), piece.end());
            return true;
        });
    });
    if (!outcome) qFatal("%s", outcome.problem().sentence().c_str());
    return smf::read(bytes)->file;
}

QByteArray sourceFile(const QString& path) {
    QFile file(QStringLiteral(MELLOW_SOURCE_DIR "/") + path);
    if (!file.open(QIODevice::ReadOnly)) qFatal("cannot open %s", qPrintable(file.fileName()));
    return file.readAll();
}

Ensemble demo() {
    const QByteArray text = sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
    const auto read = store::parseEnsemble({text.data(), static_cast<std::size_t>(text.size())});
    if (!read) qFatal("the demo cannot be read");
    return *read;
}

}  // namespace mellow::test
