// The sheet: any text as a spreadsheet that comes back, as what is typed into any cell, and as a search.
// Never a crash; what is typed leaves a document that can be written and read again, and one that is refused
// leaves it as it was.
#include <cstdlib>
#include <memory>

#include "core/assignments/search.h"
#include "core/sheet/csv.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"

using namespace mellow;

namespace {

Ensemble small() {
    Ensemble ensemble;
    ensemble.title = "Night";
    Controller keys;
    keys.id = "keys";
    keys.controls.resize(2);
    keys.controls[0].id = keys.controls[0].name = "wheel";
    keys.controls[1].id = "free";
    keys.controls[1].message.number = 9;
    ensemble.controllers = {keys};
    ensemble.tieLines = {{"swell", "Swell", 0, {}}};
    Instrument glass;
    glass.id = "glass";
    glass.output.port = "hall";
    for (const char* id : {"level", "tone", "still"}) {
        Parameter parameter;
        parameter.id = id;
        parameter.message.number = 11;
        glass.parameters.push_back(parameter);
    }
    glass.parameters[1].display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
    Chain chain;
    chain.id = "swell";
    chain.source.kind = SourceKind::control;
    chain.source.controller = "keys";
    chain.source.control = "wheel";
    chain.branches.resize(3);
    chain.branches[0].target = "level";
    chain.branches[1].target = "tone";
    chain.branches[2].target = "tieLine:swell";
    glass.chains = {chain};
    ensemble.instruments.push_back(glass);
    return ensemble;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const auto ensemble = std::make_shared<const Ensemble>(small());
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto read = sheet::readCsv(*ensemble, text);
    if (!read && read.problem().sentence().empty()) std::abort();
    if (read && read->changed == 0 && !(read->after == *ensemble)) std::abort();
    sheet::Wish wish;
    wish.find = text.substr(0, 200);
    (void)sheet::Sheet(ensemble).arranged(wish);
    (void)sheet::parseId(text);
    for (const Assignment& row : assignmentsOf(*ensemble)) {
        for (const AssignmentColumn& column : assignmentColumns()) {
            Ensemble typed = *ensemble;
            if (typeInto(typed, column, idOf(row), text.substr(0, 300))) {
                if (!(typed == *ensemble)) std::abort();
            } else if (!store::parseEnsemble(store::printEnsemble(typed))) {
                std::abort();
            }
        }
    }
    return 0;
}
