// A keyboard says how many channels its zones have by RPN 6 on channel 1 or 16, often only when it is
// switched on; so a person can say it too, and what a person says stands (docs/expressive-keyboards.md).
#include "app/pages/gear/zone_rows.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QGridLayout>
#include <QLabel>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

namespace {

constexpr const char* context = "mellow::app::ZoneRows";

QString tr(const char* text, int count = -1) {
    return QCoreApplication::translate(context, text, nullptr, count);
}

/// How many members a port's configuration message gave a zone; nothing before one came.
std::optional<int> told(const PortActivity& activity, const std::string& port, midi::Zone zone) {
    const PortActivity::Port* heard = activity.find({true, port});
    if (heard == nullptr) return std::nullopt;
    const auto channel = static_cast<std::uint8_t>(zone == midi::Zone::lower ? 0 : 15);
    const auto found = heard->shapes.all().find({midi::ControlKey::Kind::rpn, channel, midi::zoneRegister});
    if (found == heard->shapes.all().end()) return std::nullopt;
    return found->second.value >> 7;
}

QComboBox* makeZone(const Workspace& workspace, std::size_t controller, midi::Zone zone,
                    const std::optional<int>& said) {
    const auto at = [controller, zone](auto& ensemble) {
        auto& zones = ensemble.controllers[controller].zones;
        return zone == midi::Zone::lower ? &zones.lower : &zones.upper;
    };
    auto* choice = new QComboBox;
    choice->setObjectName(zone == midi::Zone::lower ? QStringLiteral("lowerZone")
                                                    : QStringLiteral("upperZone"));
    choice->setAccessibleName(zone == midi::Zone::lower ? tr("Lower zone") : tr("Upper zone"));
    choice->setToolTip(
        tr("How many channels its fingers have beside the manager’s; what is chosen here stands "
           "whatever the keyboard says"));
    choice->addItem(!said ? tr("As it says") : tr("As it says: %1").arg(*said));
    choice->addItem(tr("None"));
    for (int members = 1; members <= midi::mostMembers; ++members)
        choice->addItem(tr("%n channel(s)", members));
    choice->setCurrentIndex(std::clamp(*at(workspace.document.ensemble()), -1, midi::mostMembers) + 1);
    QObject::connect(choice, &QComboBox::activated, choice, [&workspace, at, controller](int index) {
        workspace.document.edit(tr("Zones of a keyboard"), [&](Ensemble& e) {
            if (controller < e.controllers.size()) *at(e) = index == 0 ? byMessage : index - 1;
        });
    });
    return choice;
}

}  // namespace

QString toldZones(const PortActivity& activity, const std::string& port) {
    const auto text = [&](midi::Zone zone) {
        return QString::number(told(activity, port, zone).value_or(-1));
    };
    return text(midi::Zone::lower) + QLatin1Char(' ') + text(midi::Zone::upper);
}

QWidget* makeZoneRows(const Workspace& workspace, const PortActivity& activity, std::size_t controller) {
    const Controller& owner = workspace.document.ensemble().controllers[controller];
    auto* rows = new QWidget;
    auto* grid = new QGridLayout(rows);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(scaled(8));
    grid->setVerticalSpacing(scaled(4));
    grid->setColumnStretch(1, 1);
    const auto add = [&](const QString& name, QWidget* field) {
        const int line = grid->rowCount();
        grid->addWidget(new QLabel(name), line, 0);
        grid->addWidget(field, line, 1);
    };
    add(tr("Lower zone"),
        makeZone(workspace, controller, midi::Zone::lower, told(activity, owner.port, midi::Zone::lower)));
    add(tr("Upper zone"),
        makeZone(workspace, controller, midi::Zone::upper, told(activity, owner.port, midi::Zone::upper)));
    const auto addBend = [&](const QString& id, const QString& name, const QString& help,
                             double ZoneSettings::*semitones) {
        auto* bend = new NumberField;
        bend->setObjectName(id);
        bend->setAccessibleName(name);
        bend->setToolTip(help);
        bend->setUnit(QStringLiteral("semitones"));
        bend->setBounds(1, midi::widestBend, 1);
        bend->setValue(owner.zones.*semitones);
        QObject::connect(bend, &NumberField::entered, bend,
                         [&workspace, controller, semitones](double value) {
                             workspace.document.edit(tr("Zones of a keyboard"), [&](Ensemble& e) {
                                 if (controller < e.controllers.size())
                                     e.controllers[controller].zones.*semitones = value;
                             });
                         });
        add(name, bend);
    };
    addBend(QStringLiteral("noteBend"), tr("Its notes bend"),
            tr("How far a finger bends its note at most, in semitones, until the keyboard says (RPN 0)"),
            &ZoneSettings::noteBend);
    addBend(QStringLiteral("allBend"), tr("All together bend"),
            tr("How far the manager’s wheel bends all notes at most, in semitones, until the keyboard says "
               "(RPN 0)"),
            &ZoneSettings::allBend);
    return rows;
}

}  // namespace mellow::app
