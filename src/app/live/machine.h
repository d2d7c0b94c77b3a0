// What belongs to this machine and not to the work: how ports are heard here, and what was connected to what.
// The table of ports (io/ports/machine_table.h) is a file that the command line reads, too; the rest lives in
// the settings beside it. What is changed is known here at once, and written aside, into what another window
// may have written meanwhile.
#pragma once

#include <QSettings>
#include <QString>
#include <QThreadPool>
#include <functional>
#include <vector>

#include "io/ports/machine_table.h"

namespace mellow::app {

class Machine {
 public:
    Machine();
    Machine(const Machine&) = delete;
    Machine& operator=(const Machine&) = delete;

    [[nodiscard]] const io::MachineTable& table() const { return table_; }
    /// Why the file could not be read as the program began, and what becomes of it; empty when it could.
    [[nodiscard]] const QString& trouble() const { return trouble_; }
    /// Changes it here and in the file.
    void change(const std::function<void(io::MachineTable&)>& how);

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

 private:
    /// What earlier versions had in the settings.
    [[nodiscard]] io::MachineTable fromSettings() const;

    QSettings settings_;
    std::filesystem::path path_;
    io::MachineTable table_;
    QString trouble_;
    QThreadPool writer_;  ///< one thread; what it has begun is finished before this goes
};

}  // namespace mellow::app
