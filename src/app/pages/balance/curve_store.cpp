#include "app/pages/balance/curve_store.h"

#include "app/document/kept_beside.h"
#include "app/ground/aside.h"
#include "core/model/edit.h"

namespace mellow::app {

CurveStore::CurveStore(Document& document, QObject* parent) : QObject(parent), document_(document) {}

Result<balance::Curve> CurveStore::load(const KeptCurve& kept) const {
    return doneAside({tr("Reading a measurement")},
                     [folder = folderNow(balance::measurements, document_.path()), kept] {
                         return balance::readKeptCurve(folder, kept);
                     });
}

Outcome CurveStore::keep(const balance::Curve& curve) {
    if (document_.isReadOnly()) {
        emit document_.editRefused();
        return Problem{"The measurement", "another window has this ensemble",
                       "take it over, and keep it then"};
    }
    const QString path = document_.path();
    auto stored = doneAside(
        {tr("Keeping a measurement")}, [&curve, path, folder = folderNow(balance::measurements, path)] {
            bool wrote = false;
            auto written = balance::storeCurve(folder, balance::keptAs(curve), curve, &wrote);
            if (written && wrote && !path.isEmpty())
                noteWritten(balance::measurements, filePathOf(path), balance::fileOf(*written));
            return written;
        });
    if (!stored) return stored.problem();
    document_.edit(tr("Keep a measurement"), [&stored](Ensemble& e) {
        // What was measured of the same before is replaced: undo has it.
        erase_if(e.measurements, [&](const KeptCurve& each) {
            return each.instrument == stored->instrument && each.moved == stored->moved &&
                   each.heardFrom == stored->heardFrom;
        });
        stored->id = newId(e.measurements, stored->name);
        e.measurements.push_back(*stored);
    });
    return Done{};
}

void CurveStore::forget(const std::string& id) {
    document_.edit(tr("Forget a measurement"), [&id](Ensemble& e) {
        erase_if(e.measurements, [&](const KeptCurve& each) { return each.id == id; });
    });
}

Outcome CurveStore::carryTo(const QString& path) {
    std::vector<files::KeptFile> all;
    std::set<std::string> seen;
    document_.forEachState([&](const Ensemble& ensemble) {
        for (const KeptCurve& kept : ensemble.measurements) {
            if (seen.insert(kept.file).second) all.push_back(balance::fileOf(kept));
        }
    });
    if (all.empty()) return Done{};
    return doneAside({tr("Keeping measurements")},
                     [all, from = folderNow(balance::measurements, document_.path()), to = filePathOf(path)] {
                         return carryAll(balance::measurements, all, from, to);
                     });
}

void CurveStore::clearOut() {
    if (document_.path().isEmpty()) return;
    std::set<std::string> names;
    document_.forEachState([&names](const Ensemble& ensemble) { balance::nameCurves(ensemble, names); });
    aside::wait({tr("Clearing measurements away")}, [names, document = filePathOf(document_.path())] {
        clearUnnamed(balance::measurements, document, names, balance::nameCurves);
    });
}

}  // namespace mellow::app
