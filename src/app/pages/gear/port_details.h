// What can be chosen about a port: whether and how it is heard on this machine, what it is connected to, and
// for the instruments on it what they are told when they are connected.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QVBoxLayout>
#include <QWidget>

#include "app/acts/workspace.h"
#include "app/pages/gear/port_cards.h"

namespace mellow::app {

class PortDetails : public QWidget {
    Q_OBJECT

 public:
    /// activity: what came from each port.
    PortDetails(Workspace& workspace, const PortActivity& activity, QWidget* parent = nullptr);

 protected:
    void showEvent(QShowEvent* event) override;

 private:
    void follow();
    void rebuild();
    void addNames(const PortName& port);
    void addHeard(const PortName& port);
    void addConnections(const PortName& port);
    void addWireChoice(const io::Wire& wire, const std::vector<io::Wire>& wires, bool there);
    void offerMatch(const io::Wire& gone, const std::vector<io::Wire>& there);
    void addInstruments(const PortName& port);
    void addWire(const PortName& port);
    void addSound();
    void addFeedback(const PortName& port);
    void addZones(const PortName& port);
    void addSystems();
    QLabel* addText(const QString& text, const char* role);
    [[nodiscard]] QString fingerprint() const;

    Workspace& workspace_;
    const PortActivity& activity_;
    QLabel* title_;
    QWidget* body_;
    QVBoxLayout* column_;
    QString shown_;  ///< what the rows were made for
};

}  // namespace mellow::app
