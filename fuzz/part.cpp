// A part, from the clipboard or the library: never a crash; what is read is printed and read again unchanged;
// and wherever it is put, the ensemble can be checked and saved.
#include <cstdlib>

#include "core/checks/check.h"
#include "core/library/shelf.h"
#include "core/reuse/parts.h"
#include "core/store/ensemble_json.h"
#include "core/store/part_json.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto part = store::parsePart({reinterpret_cast<const char*>(data), size});
    if (!part) {
        if (part.problem().sentence().empty()) std::abort();
        return 0;
    }
    const std::string printed = store::printPart(*part);
    const auto again = store::parsePart(printed);
    if (!again || store::printPart(*again) != printed) std::abort();
    (void)library::contents(*part);
    if (size > 20000) return 0;
    Ensemble ensemble;
    ensemble.title = "Fuzz";
    reuse::putControllers(ensemble, *part);
    reuse::putInstruments(ensemble, *part);
    for (const std::string& owner :
         {sharedOwner,
          ensemble.instruments.empty() ? std::string("nobody") : std::as_const(ensemble.instruments)[0].id}) {
        const auto matches = reuse::proposal(ensemble, owner, *part);
        reuse::putChains(ensemble, owner, *part, matches);
        (void)reuse::putBranches(ensemble, owner, *part, matches);
    }
    (void)reuse::putSteps(ensemble, *part);
    (void)check(ensemble);
    if (!store::parseEnsemble(store::printEnsemble(ensemble))) std::abort();
    return 0;
}
