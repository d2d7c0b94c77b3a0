// Where the document's measurements are on the disk, and what becomes of their files.
#pragma once

#include <QObject>

#include "app/document/beside.h"
#include "app/document/document.h"
#include "core/balance/curve_folder.h"

namespace mellow::app {

class CurveStore : public QObject, public Beside {
    Q_OBJECT

 public:
    explicit CurveStore(Document& document, QObject* parent = nullptr);

    Result<balance::Curve> load(const KeptCurve& kept) const;
    /// Writes the files of curves, and has the document name them: one step of undo. Error: one cannot be
    /// written; the document may only be looked at.
    Outcome keep(const std::vector<balance::Curve>& curves);
    /// Has the document forget a measurement, by id.
    void forget(const std::string& id);

    /// Has the measurements of a part carry their curves. What cannot be read stays behind: why, a sentence
    /// each.
    QStringList carryInto(std::vector<KeptCurve>& measurements) const;
    /// Writes the curves that the measurements of a part carry, so that the document may name them. Error:
    /// one carries none, or it cannot be written; that one is left out.
    Outcome settle(std::vector<KeptCurve>& measurements);

    Outcome carryTo(const QString& path) override;
    void clearOut() override;

 private:
    Result<KeptCurve> store(KeptCurve kept, const balance::Curve& curve);

    Document& document_;
};

}  // namespace mellow::app
