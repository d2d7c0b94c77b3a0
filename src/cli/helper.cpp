#include "cli/helper.h"

#include <filesystem>

namespace mellow::cli {

std::string helperPath(const std::string& name) {
    std::error_code error;
    const auto here = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
    const auto apart = here.parent_path() / "libexec" / "mellow-lever" / name;
    return (std::filesystem::exists(apart, error) ? apart : here / name).string();
}

}  // namespace mellow::cli
