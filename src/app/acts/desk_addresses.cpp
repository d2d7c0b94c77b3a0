#include "app/acts/desk_addresses.h"

#include <QCoreApplication>

#include "app/ground/words.h"
#include "core/desk/element_targets.h"
#include "io/playing/happenings.h"

namespace mellow::app {

std::string onTablet(const std::string& address) {
    return std::string(io::deskAddress) + address;
}

QString placeOf(const desk::ElementTarget& target) {
    QString name = nameToShow(target.name);
    if (target.instrument.empty()) return name;
    return QCoreApplication::translate("DeskAddresses", "%1 of %2").arg(name, nameToShow(target.instrument));
}

QList<DeskAddress> deskAddresses(const Ensemble& ensemble) {
    QList<DeskAddress> all;
    const desk::ElementTargets targets = desk::elementTargets(ensemble);
    forEachElement(ensemble.desk, [&](const DeskElement& element) {
        if (element.kind == ElementKind::keys) return;  // It plays notes, and has no value to be sent.
        const std::size_t axes = std::max<std::size_t>(axesOf(element), 1);
        for (std::size_t i = 0; i < axes; ++i) {
            const auto axis = static_cast<Axis>(i);
            QStringList moves;
            const auto its = targets.find(element.id);
            for (std::size_t t = 0; its != targets.end() && t < its->second.size(); ++t) {
                const desk::ElementTarget& target = its->second[t];
                if (axesOf(element) > 1 && target.axis != axis) continue;
                const QString name = nameToShow(target.name);
                moves << (target.instrument.empty()
                              ? name
                              : QStringLiteral("%1 %2").arg(nameToShow(target.instrument), name));
            }
            if (!isSource(element)) moves << joined(element.names);
            all << DeskAddress{toQt(onTablet(addressOf(element, axis))), nameToShow(nameOf(element)),
                               moves.join(QStringLiteral(", "))};
        }
    });
    return all;
}

}  // namespace mellow::app
