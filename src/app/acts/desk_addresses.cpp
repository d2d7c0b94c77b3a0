#include "app/acts/desk_addresses.h"

#include "app/acts/element_targets.h"
#include "app/ground/words.h"

namespace mellow::app {

std::string onTablet(const std::string& address) {
    return std::string(io::deskAddress) + address;
}

QList<DeskAddress> deskAddresses(const Ensemble& ensemble) {
    QList<DeskAddress> all;
    const ElementTargets targets = elementTargets(ensemble);
    forEachElement(ensemble.desk, [&](const DeskElement& element) {
        if (element.kind == ElementKind::keys) return;  // It plays notes, and has no value to be sent.
        const std::size_t axes = std::max<std::size_t>(axesOf(element), 1);
        for (std::size_t i = 0; i < axes; ++i) {
            const auto axis = static_cast<Axis>(i);
            QStringList moves;
            const auto its = targets.find(element.id);
            for (std::size_t t = 0; its != targets.end() && t < its->second.size(); ++t) {
                const ElementTarget& target = its->second[t];
                if (axesOf(element) > 1 && target.axis != axis) continue;
                moves << (target.instrument.isEmpty()
                              ? target.name
                              : QStringLiteral("%1 %2").arg(target.instrument, target.name));
            }
            if (!isSource(element)) moves << joined(element.names);
            all << DeskAddress{toQt(onTablet(addressOf(element, axis))), nameToShow(nameOf(element)),
                               moves.join(QStringLiteral(", "))};
        }
    });
    return all;
}

}  // namespace mellow::app
