#include "app/document/curve_store.h"

#include "app/document/kept_beside.h"
#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/model/edit.h"

namespace mellow::app {

CurveStore::CurveStore(Document& document, QObject* parent) : QObject(parent), document_(document) {}

Result<balance::Curve> CurveStore::load(const KeptCurve& kept) const {
    return doneAside({tr("Reading a measurement")},
                     [folder = folderNow(balance::measurements, document_.path()), kept] {
                         return balance::readKeptCurve(folder, kept);
                     });
}

Result<KeptCurve> CurveStore::store(KeptCurve kept, const balance::Curve& curve) {
    const QString path = document_.path();
    return doneAside({tr("Keeping a measurement")},
                     [&kept, &curve, path, folder = folderNow(balance::measurements, path)] {
                         bool wrote = false;
                         auto written = balance::storeCurve(folder, std::move(kept), curve, &wrote);
                         if (written && wrote && !path.isEmpty())
                             noteWritten(balance::measurements, filePathOf(path), balance::fileOf(*written));
                         return written;
                     });
}

Outcome CurveStore::keep(const std::vector<balance::Curve>& curves) {
    if (document_.isReadOnly()) {
        emit document_.editRefused();
        return Problem{"The measurement", "another window has this ensemble",
                       "take it over, and keep it then"};
    }
    std::vector<KeptCurve> stored;
    for (const balance::Curve& curve : curves) {
        auto one = store(balance::keptAs(curve), curve);
        if (!one) return one.problem();
        stored.push_back(std::move(*one));
    }
    document_.edit(tr("Keep %n measurement(s)", nullptr, static_cast<int>(stored.size())), [&](Ensemble& e) {
        for (KeptCurve& one : stored) {
            // What was measured of the same before is replaced: undo has it.
            erase_if(e.measurements, [&](const KeptCurve& each) {
                return each.instrument == one.instrument && each.moved == one.moved &&
                       each.heardFrom == one.heardFrom;
            });
            one.id = newId(e.measurements, one.name);
            e.measurements.push_back(std::move(one));
        }
    });
    return Done{};
}

void CurveStore::forget(const std::string& id) {
    document_.edit(tr("Forget a measurement"), [&id](Ensemble& e) {
        erase_if(e.measurements, [&](const KeptCurve& each) { return each.id == id; });
    });
}

QStringList CurveStore::carryInto(std::vector<KeptCurve>& measurements) const {
    QStringList left;
    std::vector<KeptCurve> carried;
    for (KeptCurve& each : measurements) {
        const auto curve = load(each);
        if (curve) {
            balance::carry(each, *curve);
            carried.push_back(std::move(each));
        } else {
            left << toQt(curve.problem().sentence());
        }
    }
    measurements = std::move(carried);
    return left;
}

Outcome CurveStore::settle(std::vector<KeptCurve>& measurements) {
    std::vector<KeptCurve> settled;
    Outcome outcome = Done{};
    for (KeptCurve& each : std::exchange(measurements, {})) {
        const auto curve = balance::takeCarried(each);
        auto stored = curve ? store(std::move(each), *curve) : Result<KeptCurve>(curve.problem());
        if (stored)
            settled.push_back(std::move(*stored));
        else
            outcome = stored.problem();
    }
    measurements = std::move(settled);
    return outcome;
}

Outcome CurveStore::carryTo(const QString& path) {
    const auto all = everyKept(document_, &Ensemble::measurements, balance::fileOf);
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
