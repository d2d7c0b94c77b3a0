#include "app/acts/network_choice.h"

#include "app/ground/words.h"
#include "io/ports/own_addresses.h"

namespace mellow::app {

NetworkChoice::NetworkChoice(Live& live, std::string port, QWidget* parent)
    : QComboBox(parent), live_(live), port_(std::move(port)) {
    setObjectName(QStringLiteral("heardFrom"));
    setAccessibleName(tr("From where it is heard"));
    setToolTip(tr("What sends OSC from elsewhere is heard only where you open this to its network"));
    connect(this, &QComboBox::activated, this,
            [this] { live_.ports().setNetwork(port_, currentData().toString()); });
    refresh();
}

void NetworkChoice::refresh() {
    const QString chosen = live_.ports().network(port_);
    clear();
    addItem(tr("This machine only"), toQt(io::thisMachine));
    for (const std::string& address : io::ownAddresses())
        addItem(tr("The network at %1").arg(toQt(address)), toQt(address));
    addItem(tr("Every network"), toQt(io::allNetworks));
    if (findData(chosen) < 0) addItem(tr("The network at %1, which is not here now").arg(chosen), chosen);
    setCurrentIndex(findData(chosen));
}

}  // namespace mellow::app
