// What a person has chosen of how the sheet is read: which columns, how wide, which reading, grouped and
// sorted how. It is this person's, and is remembered beside the window's place; a document knows nothing of
// it.
#pragma once

#include <QStringList>

#include "core/sheet/sheet.h"

namespace mellow::app {

struct SheetLook {
    QStringList columns;  ///< by their keys; empty: the usual ones
    QStringList widths;   ///< as a view has them; empty: the usual ones
    sheet::Wish wish;     ///< its reading, grouping and sorting
};

/// What was kept last; what cannot be read of it is as at first.
SheetLook keptLook();
void keepLook(const SheetLook& look);

}  // namespace mellow::app
