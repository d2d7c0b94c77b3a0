// What belongs to this machine and not to the work: what was connected to what, what of a port is heard, how
// fast its wire is.
//
// The window keeps the table in one file beside its settings; `run` and `ports` read the same file, so that
// what was connected in the window is connected without it, too.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/result.h"
#include "io/playing/port_filter.h"
#include "io/ports/wiring.h"

namespace mellow::io {

struct MachineTable {
    std::vector<Wire> wires;
    std::map<std::string, PortFilter, std::less<>> heard;  ///< by input port; others: all of it
    std::map<std::string, int, std::less<>> rates;         ///< by output port, bytes a second; others: 0
    std::string sound = {};  ///< by which of soundSystems (io/sound) the practice rack is heard

    [[nodiscard]] PortFilter filter(std::string_view port) const;
    /// In bytes a second; 0: as fast as it can.
    [[nodiscard]] int rate(std::string_view port) const;
    void setFilter(const std::string& port, const PortFilter& filter);
    void setRate(const std::string& port, int bytesASecond);

    bool operator==(const MachineTable&) const = default;
};

/// Where it is for this user: machine.json in the settings' folder (XDG base directories).
std::filesystem::path machineTablePath();
/// An empty one where there is no file. Error: a file that is none.
Result<MachineTable> readMachineTable(const std::filesystem::path& path);
/// Atomic; makes the folder. Error: it cannot be written.
Outcome writeMachineTable(const std::filesystem::path& path, const MachineTable& table);

}  // namespace mellow::io
