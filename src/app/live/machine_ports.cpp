// Who is connected is looked at now and then, since JACK tells of it from its own threads.
#include "app/live/machine_ports.h"

#include <utility>

#include "app/ground/words.h"

namespace mellow::app {

MachinePorts::MachinePorts(Document& document, io::Cabling& cabling, QObject* parent)
    : QObject(parent), document_(document), cabling_(cabling) {
    cabling_.rememberWires(machine_.table().wires);
    cabling_.openDesk(machine_.isDeskOpen());
    connect(&document_, &Document::stateChanged, this, &MachinePorts::letListen);
}

std::vector<std::string> MachinePorts::oscPorts() const {
    std::vector<std::string> ports = io::wishesOf(document_.ensemble()).inputs;
    std::erase_if(ports, [](const std::string& port) { return !io::isOscPort(port); });
    return ports;
}

/// A document that listens to the network when it is opened may be somebody else's, who knows which ports are
/// open here: a person says of each once that it may. What a person adds later is their own.
void MachinePorts::judgeDocument() {
    if (std::exchange(isJudged_, true)) return;
    unheard_.clear();
    QStringList open;
    for (const std::string& port : oscPorts()) {
        if (machine_.mayListen(document_.path(), toQt(port))) continue;
        unheard_.insert(port);
        if (machine_.network(toQt(port)) != toQt(io::thisMachine)) open << toQt(port);
    }
    if (open.isEmpty()) return;
    emit troubled(tr("This ensemble listens at %1, and is heard from this machine only. Where it is yours, "
                     "open the port to a network, on Gear.")
                      .arg(open.join(tr(" and "))));
}

/// What a document is heard at stays so when it is saved, under whatever name.
void MachinePorts::letListen() {
    if (!isJudged_ || document_.path().isEmpty()) return;
    for (const std::string& port : oscPorts()) {
        if (!unheard_.contains(port)) machine_.letListen(document_.path(), toQt(port));
    }
}

QString MachinePorts::network(const std::string& port) const {
    const bool isTablets = port == io::usualOscPort && machine_.isDeskOpen();
    return unheard_.contains(port) && !isTablets ? toQt(io::thisMachine) : machine_.network(toQt(port));
}

void MachinePorts::openNetworks() {
    judgeDocument();
    cabling_.openOsc(std::string(io::usualOscPort), network(std::string(io::usualOscPort)).toStdString());
    for (const Controller& controller : document_.ensemble().controllers) {
        if (io::isOscPort(controller.port))
            cabling_.openOsc(controller.port, network(controller.port).toStdString());
    }
}

void MachinePorts::setNetwork(const std::string& port, const QString& address) {
    machine_.setNetwork(toQt(port), address);
    if (address != toQt(io::thisMachine)) {
        unheard_.erase(port);
        machine_.letListen(document_.path(), toQt(port));
    }
    openNetworks();
    cabling_.openOsc(port, network(port).toStdString());
    emit changed();
}

QString MachinePorts::listeningText(const std::string& port) const {
    for (const io::OscLink::Listening& each : cabling_.oscListening()) {
        if (each.name != port) continue;
        const QString where = each.address == io::thisMachine   ? tr("Heard from this machine only")
                              : each.address == io::allNetworks ? tr("Heard from every network")
                                                                : tr("Heard at %1").arg(toQt(each.address));
        return each.lastFrom.empty() ? tr("%1; nobody has sent anything yet.").arg(where)
                                     : tr("%1; last used by %2.").arg(where, toQt(each.lastFrom));
    }
    return {};
}

void MachinePorts::openDesk(bool on) {
    machine_.setDeskOpen(on);
    openNetworks();
    cabling_.openDesk(on);
    emit changed();
}

io::PortFilter MachinePorts::filter(const std::string& port) const {
    return machine_.table().filter(port);
}

void MachinePorts::setFilter(const std::string& port, const io::PortFilter& filter) {
    machine_.change([port, filter](io::MachineTable& table) { table.setFilter(port, filter); });
    cabling_.setFilter(port, filter);
    emit changed();
}

void MachinePorts::setRate(const std::string& port, int bytesASecond) {
    machine_.change([port, bytesASecond](io::MachineTable& table) { table.setRate(port, bytesASecond); });
    cabling_.setRate(port, bytesASecond);
    emit changed();
}

void MachinePorts::setSound(const std::string& system) {
    machine_.change([system](io::MachineTable& table) { table.sound = system; });
    emit soundChosen();
    emit changed();
}

void MachinePorts::connectPorts(const io::Wire& wire) {
    cabling_.connect(wire);
    look(false);
}

void MachinePorts::disconnectPorts(const io::Wire& wire) {
    cabling_.disconnect(wire);
    look(false);
}

bool MachinePorts::waitsFor(const std::string& port, bool input) const {
    const bool inside =
        port.empty() || port == anyPort || port == io::practiceKeysPort || port == io::practiceRackPort;
    return !inside && !connected_.contains({input, port});
}

void MachinePorts::look(bool newly) {
    std::set<std::pair<bool, std::string>> connected;
    for (const io::PortState& port : cabling_.present()) {
        if (port.connected) connected.emplace(port.input, port.name);
    }
    const bool others = std::exchange(connected_, connected) != connected;
    if (newly) cabling_.heed(machine_.table());
    std::vector<io::Wire> wires = cabling_.wires();
    const bool otherWires = wires != machine_.table().wires;
    if (otherWires)
        machine_.change([wires = std::move(wires)](io::MachineTable& table) { table.wires = wires; });
    if (others || newly || otherWires) emit changed();
}

}  // namespace mellow::app
