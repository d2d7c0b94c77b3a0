// Where the library and the templates of this person are, and what came with the program.
#pragma once

#include <QString>

#include "core/library/shelf.h"

namespace mellow::app {

/// The folder of the person's own parts.
std::filesystem::path libraryFolder();
/// The folder of ensembles to start from.
QString templatesFolder();

/// The person's own parts, and those that came with the program.
library::Shelf wholeLibrary();

}  // namespace mellow::app
