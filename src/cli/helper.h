// Programs that carry out what a call needs but most calls do not: real ports, printing. Nobody calls them by
// hand, so an installation keeps them apart from what stands on the path.
#pragma once

#include <string>

namespace mellow::cli {

/// Where a helper is: beside the tool as it is built, or in libexec/mellow-lever as it is installed. Where it
/// is in neither, the path at which it was looked for first.
std::string helperPath(const std::string& name);

}  // namespace mellow::cli
