// The measurements of a document: files of curves in NAME.measurements beside NAME.lever (core/files/kept.h).
#pragma once

#include <filesystem>
#include <set>
#include <string>

#include "core/balance/curve.h"
#include "core/files/kept.h"
#include "core/model/ensemble.h"

namespace mellow::balance {

extern const files::KeptKind measurements;

files::KeptFile fileOf(const KeptCurve& kept);
/// How a document names a curve, without its id and file.
KeptCurve keptAs(const Curve& curve);

/// Error: its file is not there, or is no measurement.
Result<Curve> readKeptCurve(const std::filesystem::path& folder, const KeptCurve& kept);
/// Writes a curve into a folder. Gives `kept` with its file and sum.
Result<KeptCurve> storeCurve(const std::filesystem::path& folder, KeptCurve kept, const Curve& curve,
                             bool* wrote = nullptr);
/// A part has no folder, so what it says of a measurement carries the curve, and is relieved of it where it
/// is put.
void carry(KeptCurve& kept, const Curve& curve);
/// Error: it carries none, or one that cannot be read.
Result<Curve> takeCarried(KeptCurve& kept);

/// The names of the files of an ensemble's measurements.
void nameCurves(const Ensemble& ensemble, std::set<std::string>& names);

}  // namespace mellow::balance
