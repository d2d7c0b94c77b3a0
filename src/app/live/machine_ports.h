// The ports as this machine has them: what is there, what it is connected to, how it is heard and from where.
//
// What a person says here belongs to the machine (machine.h) and not to the document, which opens nothing to
// a network by itself: nor does it find open what was opened for another.
#pragma once

#include <QObject>
#include <set>

#include "app/document/document.h"
#include "app/live/machine.h"
#include "io/session/cabling.h"

namespace mellow::app {

class MachinePorts : public QObject {
    Q_OBJECT

 public:
    MachinePorts(Document& document, io::Cabling& cabling, QObject* parent = nullptr);

    /// Ports and what they are connected to; they may be others after changed().
    [[nodiscard]] std::vector<io::PortState> present() const { return cabling_.present(); }
    [[nodiscard]] std::vector<io::Wire> wires() const { return cabling_.wires(); }
    [[nodiscard]] std::vector<std::pair<std::string, io::PortNames>> others() const {
        return cabling_.others();
    }
    /// Whether a port that the document names has nothing at its other end. Never true of what is inside the
    /// program, or of any port.
    [[nodiscard]] bool waitsFor(const std::string& port, bool input) const;
    void connectPorts(const io::Wire& wire);
    void disconnectPorts(const io::Wire& wire);

    /// How a port is heard on this machine.
    [[nodiscard]] io::PortFilter filter(const std::string& port) const;
    void setFilter(const std::string& port, const io::PortFilter& filter);
    /// How fast the wire of an output port is here, in bytes a second; 0: as fast as it can.
    [[nodiscard]] int rate(const std::string& port) const { return machine_.table().rate(port); }
    void setRate(const std::string& port, int bytesASecond);
    /// How full a paced wire was in the last second, 0 to 1.
    [[nodiscard]] std::optional<float> wireLoad(const std::string& port) { return cabling_.wireLoad(port); }
    /// By which of io::soundSystems the practice rack is to be heard here.
    [[nodiscard]] const std::string& sound() const { return machine_.table().sound; }
    void setSound(const std::string& system);
    /// Why nothing is known of this machine's ports; empty when it is.
    [[nodiscard]] const QString& machineTrouble() const { return machine_.trouble(); }

    /// Hears tablets that move the desk; kept in this machine's settings.
    void openDesk(bool on);
    [[nodiscard]] bool isDeskOpen() const { return machine_.isDeskOpen(); }
    [[nodiscard]] io::Surfaces& surfaces() { return cabling_.surfaces(); }
    /// Audio that comes in, while somebody wants it.
    [[nodiscard]] io::JackInputs& inputs() { return cabling_.inputs(); }
    /// Hears OSC though nothing listens to it yet.
    void learnOsc(bool on) { cabling_.learnOsc(on); }
    /// From where an OSC port is heard: an address of this machine, io::thisMachine or io::allNetworks.
    [[nodiscard]] QString network(const std::string& port) const;
    void setNetwork(const std::string& port, const QString& address);
    /// What is listened to in which way, in words; empty: not at all.
    [[nodiscard]] QString listeningText(const std::string& port) const;

    /// Before what the document wishes for is opened: from where it is heard.
    void openNetworks();
    /// Another document was opened, which may be somebody else's.
    void judgeAnew() { isJudged_ = false; }
    /// Looks who is connected. newly: ports may have come.
    void look(bool newly);

 signals:
    void changed();
    void troubled(const QString& sentence);
    void soundChosen();

 private:
    void judgeDocument();
    void letListen();
    [[nodiscard]] std::vector<std::string> oscPorts() const;

    Document& document_;
    io::Cabling& cabling_;
    Machine machine_;
    bool isJudged_ = false;
    /// Ports that are open, and at which the document is not heard from networks.
    std::set<std::string> unheard_;
    /// Inputs and outputs that have something at the other end.
    std::set<std::pair<bool, std::string>> connected_;
};

}  // namespace mellow::app
