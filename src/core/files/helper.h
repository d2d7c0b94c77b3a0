// Programs of this project that carry out what most calls do not need, or what must not be done inside a
// program that goes on: real ports, printing, telling names. Nobody calls them by hand, so an installation
// keeps them apart from what stands on the path.
#pragma once

#include <string>

namespace mellow::files {

/// Where a helper is: in libexec/mellow-lever as it is installed, or beside the program or in bin as it is
/// built. Where it is in none of them, the path beside the program.
std::string helperPath(const std::string& name);

}  // namespace mellow::files
