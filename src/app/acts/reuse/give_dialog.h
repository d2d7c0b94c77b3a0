// Which instruments are to have a chain too.
#pragma once

#include <QDialog>
#include <functional>

#include "app/document/address.h"

namespace mellow::app {

class GiveDialog : public QDialog {
    Q_OBJECT

 public:
    using Accepted = std::function<void(const std::vector<std::string>& instruments)>;
    static GiveDialog* ask(QWidget* window, const Ensemble& ensemble, const Selected& chain,
                           Accepted accepted);

 private:
    GiveDialog(const Ensemble& ensemble, const Selected& chain, QWidget* window);
};

}  // namespace mellow::app
