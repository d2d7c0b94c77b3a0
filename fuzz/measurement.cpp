// A measurement's file: never a crash; what is read has positions that rise, is printed and read again
// unchanged, and whatever is asked of it can be answered.
#include <cstdlib>

#include "core/balance/curve_folder.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto curve = balance::readCurve({reinterpret_cast<const char*>(data), size});
    if (!curve) {
        if (curve.problem().sentence().empty()) std::abort();
        return 0;
    }
    for (const balance::KeyCurve& line : curve->keys) {
        for (std::size_t i = 1; i < line.points.size(); ++i) {
            if (!(line.points[i].position > line.points[i - 1].position)) std::abort();
        }
        (void)balance::readoutOf(line.points);
        (void)balance::loudnessAt(line.points, 0.5);
    }
    (void)balance::meanOf(*curve);
    (void)balance::doubtsAbout(*curve);
    (void)balance::printCsv(*curve);
    KeptCurve kept = balance::keptAs(*curve);
    const std::string printed = balance::printCurve(*curve);
    const auto again = balance::readCurve(printed);
    if (!again || balance::printCurve(*again) != printed) std::abort();
    balance::carry(kept, *curve);
    if (!balance::takeCarried(kept)) std::abort();
    return 0;
}
