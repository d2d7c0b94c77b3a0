// The ensemble document: never a crash; what is read is printed and read again unchanged; and whatever it
// says, checks, sentences, the compiler and the engine can take it.
#include <cstdlib>

#include "core/checks/check.h"
#include "core/describe/sentence.h"
#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "core/store/ensemble_json.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto ensemble = store::parseEnsemble({reinterpret_cast<const char*>(data), size});
    if (!ensemble) {
        if (ensemble.problem().sentence().empty()) std::abort();
        return 0;
    }
    const std::string printed = store::printEnsemble(*ensemble);
    const auto again = store::parseEnsemble(printed);
    if (!again || store::printEnsemble(*again) != printed) std::abort();
    (void)check(*ensemble);
    for (const Instrument& instrument : ensemble->instruments) {
        for (const Chain& chain : instrument.chains)
            (void)describe::chainSentence(*ensemble, &instrument, chain);
    }
    if (size > 20000) return 0;
    const auto program = engine::compile(*ensemble);
    engine::Engine engine(program.get());
    auto nowhere = [](const engine::Output&) {};
    const engine::Sink sink = engine::sinkTo(nowhere);
    engine::Time time = 0;
    for (int control = 0; control < 128; ++control) {
        engine.process(
            {time += 777, engine::everyPort, midi::make(0xB0, control % 16, control, control).bytes()}, sink);
    }
    engine.process({time, engine::everyPort, midi::make(0x90, 0, 60, 100).bytes()}, sink);
    engine.process({time, engine::everyPort, midi::makeBend(0, 9000).bytes()}, sink);
    engine.process({time, engine::everyPort, midi::make(0xC0, 0, 5).bytes()}, sink);
    engine.process({time, engine::everyPort, midi::make(0xA0, 0, 60, 40).bytes()}, sink);
    engine.process({time, engine::everyPort, {}, "/tile/tilt", 0.75}, sink);
    const auto next = engine::compile(*again, &program->plan);
    engine.adopt(next.get(), sink);
    engine.advance(time + 50000, sink);
    engine.silenceAll(sink);
    return 0;
}
