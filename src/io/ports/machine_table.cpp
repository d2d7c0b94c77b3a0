// The file is JSON that a person can read: {"wires": [{"ours", "theirs", "way", "by"}], "ports": {NAME:
// {"heard": packed, "bytesASecond"}}, "sound": system}. What is not understood in it is passed over.
#include "io/ports/machine_table.h"

#include <algorithm>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/files/files.h"

namespace mellow::io {

namespace {

using Json = nlohmann::json;

std::string textOf(const Json& object, const char* key) {
    const auto found = object.find(key);
    return found != object.end() && found->is_string() ? found->get<std::string>() : std::string();
}

/// Up to a limit; nothing where it is no whole number.
std::optional<std::uint32_t> wholeOf(const Json& object, const char* key) {
    constexpr std::uint64_t most = 1'000'000'000;
    const auto found = object.find(key);
    if (found == object.end() || !found->is_number_unsigned()) return std::nullopt;
    return static_cast<std::uint32_t>(std::min(found->get<std::uint64_t>(), most));
}

void readWires(const Json& list, MachineTable& table) {
    for (const Json& each : list) {
        if (!each.is_object()) continue;
        Wire wire{textOf(each, "ours"), textOf(each, "theirs"), textOf(each, "way") == "in"};
        if (const std::string by = textOf(each, "by"); !by.empty()) wire.by = by;
        if (!wire.ours.empty() && !wire.theirs.empty()) table.wires.push_back(std::move(wire));
    }
}

void readPorts(const Json& ports, MachineTable& table) {
    for (const auto& [name, each] : ports.items()) {
        if (!each.is_object()) continue;
        if (const auto heard = wholeOf(each, "heard")) table.setFilter(name, PortFilter::unpacked(*heard));
        table.setRate(name, static_cast<int>(wholeOf(each, "bytesASecond").value_or(0)));
    }
}

std::string printed(const MachineTable& table) {
    Json json = {{"wires", Json::array()}, {"ports", Json::object()}};
    for (const Wire& wire : table.wires)
        json["wires"].push_back({{"ours", wire.ours},
                                 {"theirs", wire.theirs},
                                 {"way", wire.input ? "in" : "out"},
                                 {"by", wire.by}});
    for (const auto& [name, filter] : table.heard) json["ports"][name]["heard"] = filter.packed();
    for (const auto& [name, rate] : table.rates) json["ports"][name]["bytesASecond"] = rate;
    if (!table.sound.empty()) json["sound"] = table.sound;
    // A port may be called anything.
    return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace

PortFilter MachineTable::filter(std::string_view port) const {
    const auto found = heard.find(port);
    return found == heard.end() ? PortFilter{} : found->second;
}

int MachineTable::rate(std::string_view port) const {
    const auto found = rates.find(port);
    return found == rates.end() ? 0 : found->second;
}

void MachineTable::setFilter(const std::string& port, const PortFilter& filter) {
    if (filter == PortFilter{}) {
        heard.erase(port);
    } else {
        heard[port] = filter;
    }
}

void MachineTable::setRate(const std::string& port, int bytesASecond) {
    if (bytesASecond <= 0) {
        rates.erase(port);
    } else {
        rates[port] = bytesASecond;
    }
}

std::filesystem::path machineTablePath() {
    const auto of = [](const char* variable) {
        const char* value = std::getenv(variable);
        return std::filesystem::path(value == nullptr ? "" : value);
    };
    const std::filesystem::path settings = of("XDG_CONFIG_HOME");
    return (settings.is_absolute() ? settings : of("HOME") / ".config") / "mellow-lever" / "machine.json";
}

Result<MachineTable> readMachineTable(const std::filesystem::path& path) {
    std::error_code error;
    if (!std::filesystem::exists(path, error)) return MachineTable{};
    const auto text = files::readTextFile(path);
    if (!text) return text.problem();
    const Json json = Json::parse(*text, nullptr, false);
    if (!json.is_object())
        return Problem{path.string(), "what it says of this machine's ports cannot be read",
                       "connect them again in Gear, which writes it anew"};
    MachineTable table;
    if (const auto wires = json.find("wires"); wires != json.end() && wires->is_array())
        readWires(*wires, table);
    if (const auto ports = json.find("ports"); ports != json.end() && ports->is_object())
        readPorts(*ports, table);
    table.sound = textOf(json, "sound");
    return table;
}

Outcome writeMachineTable(const std::filesystem::path& path, const MachineTable& table) {
    std::error_code error;
    std::filesystem::create_directories(path.parent_path(), error);
    return files::writeFile(path, printed(table));
}

}  // namespace mellow::io
