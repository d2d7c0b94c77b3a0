// What belongs to this machine and not to the work: how ports are heard here, and what was connected to what.
// It lives in the settings.
#pragma once

#include <QSettings>
#include <QString>
#include <vector>

#include "io/port_filter.h"
#include "io/wiring.h"

namespace mellow::app {

class Machine {
 public:
    [[nodiscard]] io::PortFilter filter(const QString& port) const;
    void setFilter(const QString& port, const io::PortFilter& filter);

    /// How fast the wire of an output port is, in bytes a second; 0: as fast as it can.
    [[nodiscard]] int rate(const QString& port) const;
    void setRate(const QString& port, int bytesASecond);

    /// From where an OSC port is heard: an address of this machine; this machine alone unless a person chose.
    [[nodiscard]] QString network(const QString& port) const;
    void setNetwork(const QString& port, const QString& address);

    /// Whether a port is opened as network() says when a document, by its path, listens there; the last two
    /// hundred of such pairs are remembered.
    [[nodiscard]] bool mayListen(const QString& document, const QString& port) const;
    void letListen(const QString& document, const QString& port);

    /// Whether tablets that move the desk are heard.
    [[nodiscard]] bool isDeskOpen() const {
        return settings_.value(QStringLiteral("desk/open"), false).toBool();
    }
    void setDeskOpen(bool open) { settings_.setValue(QStringLiteral("desk/open"), open); }

    [[nodiscard]] std::vector<io::Wire> wires() const;
    void setWires(const std::vector<io::Wire>& wires);

 private:
    QSettings settings_;
};

}  // namespace mellow::app
