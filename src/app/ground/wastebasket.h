// The wastebasket of the desktop, into which whatever is cleared away goes, so that a person can have it
// back.
#pragma once

#include <QString>

namespace mellow::app {

/// False where a file cannot be put there; then it stays where it is.
bool toWastebasket(const QString& path);

}  // namespace mellow::app
