// Short ways to write ensembles, streams and expectations in tests.
#pragma once

#include <QByteArray>
#include <initializer_list>
#include <string>
#include <vector>

#include "core/engine/playing/engine.h"
#include "core/model/ensemble.h"
#include "core/smf/file.h"
#include "core/steps/step.h"

namespace mellow::test {

Parameter ccParameter(const std::string& id, int number);
Source ccSource(int number);
Step step(const std::string& kind, std::initializer_list<double> numbers = {});
Branch branch(const std::string& target, double low, double high);
Chain chain(const std::string& id, const Source& source, std::vector<Step> steps,
            std::vector<Branch> branches);
/// An instrument "one" on port "out", channel 1, with parameters expression (CC 11) and tone (CC 74).
Instrument instrument(const std::string& id = "one", int channel = 1);
Ensemble ensemble(std::vector<Instrument> instruments);

std::vector<std::uint8_t> bytes(const std::string& hex);

/// An engine fed with lines such as "1000 keys B0 01 40", giving lines such as "1000 one B0 0B 40": the
/// notation of the command line's `feed`.
class Feeder {
 public:
    explicit Feeder(const Ensemble& ensemble);

    std::vector<std::string> feed(const std::vector<std::string>& lines);
    std::vector<std::string> until(engine::Time time);
    std::vector<std::string> edit(const Ensemble& ensemble);
    std::vector<std::string> silenceAll();
    engine::Engine& engine() { return engine_; }
    const engine::Plan& plan() const { return program_->plan; }

 private:
    template<class Act>
    std::vector<std::string> collect(Act&& act);

    std::unique_ptr<engine::Program> program_;
    engine::Engine engine_;
    engine::Names ports_;
};

/// What a file of format 0 or 1 becomes when it is played into an ensemble.
smf::File played(const Ensemble& ensemble, const smf::File& file);

/// A file of the source tree, whole.
QByteArray sourceFile(const QString& path);
/// The demo ensemble.
Ensemble demo();

}  // namespace mellow::test
