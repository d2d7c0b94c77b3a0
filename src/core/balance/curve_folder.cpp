#include "core/balance/curve_folder.h"

#include <cmath>

#include "core/files/files.h"
#include "core/files/sum.h"

namespace mellow::balance {

namespace fs = std::filesystem;

const files::KeptKind measurements{
    .thing = "measurement",
    .ending = ".measurements",
    .head = "{\n  \"kind\": \"measurement\"",
    .listHead = "mellow-lever measurement list 1\n",
    .mendGone = "put it back, or measure again",
};

files::KeptFile fileOf(const KeptCurve& kept) {
    return {nameOf(kept), kept.file, kept.sha256};
}

KeptCurve keptAs(const Curve& curve) {
    const std::vector<CurvePoint> mean = meanOf(curve);
    const Readout readout = readoutOf(mean);
    KeptCurve kept;
    kept.name = curve.instrumentName + ", " + curve.movedName;
    kept.instrument = curve.instrument;
    kept.moved = curve.moved;
    kept.heardFrom = curve.heardFrom;
    kept.measured = curve.measured;
    kept.state = curve.state;
    // Hundredths are finer than anybody hears.
    const auto rounded = [](std::optional<double> level) {
        constexpr double fine = 100;
        return level ? std::optional(std::round(*level * fine) / fine) : level;
    };
    kept.rest = rounded(readout.rest);
    kept.half = rounded(readout.half);
    kept.full = rounded(readout.full);
    if (readout.quiet < mean.size()) {
        kept.range = rounded(readout.range);
        kept.bump = rounded(readout.bump);
    }
    return kept;
}

namespace {

constexpr std::string_view carriedKey = "curve";

}  // namespace

void carry(KeptCurve& kept, const Curve& curve) {
    std::erase_if(kept.extras, [](const auto& extra) { return extra.first == carriedKey; });
    kept.extras.emplace_back(carriedKey, printCurve(curve));
}

Result<Curve> takeCarried(KeptCurve& kept) {
    Result<Curve> curve = Problem{nameOf(kept), "it carries no curve", "measure again"};
    for (const auto& [key, text] : kept.extras) {
        if (key == carriedKey) curve = readCurve(text);
    }
    std::erase_if(kept.extras, [](const auto& extra) { return extra.first == carriedKey; });
    return curve;
}

Result<Curve> readKeptCurve(const fs::path& folder, const KeptCurve& kept) {
    const auto bytes = files::readKept(measurements, folder, fileOf(kept));
    if (!bytes) return bytes.problem();
    auto curve = readCurve({reinterpret_cast<const char*>(bytes->data()), bytes->size()});
    if (!curve) return files::inFile(*files::keptPath(measurements, folder, fileOf(kept)), curve.problem());
    return curve;
}

Result<KeptCurve> storeCurve(const fs::path& folder, KeptCurve kept, const Curve& curve, bool* wrote) {
    const std::string text = printCurve(curve);
    const std::vector<std::uint8_t> bytes(text.begin(), text.end());
    kept.sha256 = files::sha256Of(bytes);
    auto name = files::storeKept(measurements, folder, files::summedName(kept.name, kept.sha256, ".json"),
                                 bytes, wrote);
    if (!name) return name.problem();
    kept.file = std::move(*name);
    return kept;
}

void nameCurves(const Ensemble& ensemble, std::set<std::string>& names) {
    for (const KeptCurve& kept : ensemble.measurements) names.insert(fs::path(kept.file).filename().string());
}

}  // namespace mellow::balance
