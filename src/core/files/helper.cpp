#include "core/files/helper.h"

#include <filesystem>

namespace mellow::files {

std::string helperPath(const std::string& name) {
    std::error_code error;
    const auto here = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
    for (const auto& folder :
         {here.parent_path() / "libexec" / "mellow-lever", here, here.parent_path() / "bin"}) {
        if (std::filesystem::exists(folder / name, error)) return (folder / name).string();
    }
    return (here / name).string();
}

}  // namespace mellow::files
