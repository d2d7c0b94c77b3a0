// What lies in files beside a document and belongs to it: takes, and whatever a page comes to keep there.
// When the document is saved elsewhere, all of it goes along first, so that a document never names what is
// not there.
#pragma once

#include <QString>

#include "core/result.h"

namespace mellow::app {

class Beside {
 public:
    Beside() = default;
    Beside(const Beside&) = delete;
    Beside& operator=(const Beside&) = delete;
    virtual ~Beside() = default;

    /// Copies what the document, and all that undo leads to, names to beside another path. Error: a file that
    /// cannot be written; what is missing is passed over.
    virtual Outcome carryTo(const QString& path) = 0;
    /// Puts files that nothing names any more into the wastebasket; after saving.
    virtual void clearOut() = 0;
};

}  // namespace mellow::app
