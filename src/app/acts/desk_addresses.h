// Which address of a tablet moves which element of the desk, and what that leads to.
#pragma once

#include <QList>
#include <QString>
#include <string>

#include "core/desk/element_targets.h"
#include "core/model/ensemble.h"

namespace mellow::app {

/// An address of the desk as tablets know it.
std::string onTablet(const std::string& address);

/// Where an element leads, in words: "Dynamics of Glass".
QString placeOf(const desk::ElementTarget& target);

/// A line of the sheet that says which address does what.
struct DeskAddress {
    QString address;
    QString element;
    QString moves;
};
QList<DeskAddress> deskAddresses(const Ensemble& ensemble);

}  // namespace mellow::app
