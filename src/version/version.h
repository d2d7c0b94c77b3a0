// Which version this is. The number stands in one place, the first heading of CHANGELOG.md; the commit is
// that of the tree it was built from, where that is known (cmake/version.cmake).
#pragma once

namespace mellow {

/// "0.2.0", or "0.2.0 (1a2b3c4)" where the commit is known; "-changed" is added to a commit whose tree was
/// edited.
const char* versionText();

}  // namespace mellow
