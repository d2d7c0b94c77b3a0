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
    /// Writes a curve's file, and has the document name it: one step of undo. Error: it cannot be written;
    /// the document may only be looked at.
    Outcome keep(const balance::Curve& curve);
    /// Has the document forget a measurement, by id.
    void forget(const std::string& id);

    Outcome carryTo(const QString& path) override;
    void clearOut() override;

 private:
    Document& document_;
};

}  // namespace mellow::app
