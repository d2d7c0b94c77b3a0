// From where an OSC port is heard: a choice that a person makes for this machine, and no document.
#pragma once

#include <QComboBox>

#include "app/live/live.h"

namespace mellow::app {

/// This machine only, each of its networks, every network; what is chosen holds at once.
class NetworkChoice : public QComboBox {
    Q_OBJECT

 public:
    NetworkChoice(Live& live, std::string port, QWidget* parent = nullptr);
    /// Shows what holds now.
    void refresh();

 private:
    Live& live_;
    std::string port_;
};

}  // namespace mellow::app
