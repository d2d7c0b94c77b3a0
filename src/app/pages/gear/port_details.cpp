// Rows are made anew where what they stand for is other than before; that is said by one text.
#include "app/pages/gear/port_details.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QSignalBlocker>
#include <algorithm>

#include "app/acts/network_choice.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/gear/feedback_rows.h"
#include "app/pages/gear/zone_rows.h"
#include "io/sound/sound_systems.h"

namespace mellow::app {

PortDetails::PortDetails(Workspace& workspace, const PortActivity& activity, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      activity_(activity),
      title_(new QLabel),
      body_(new QWidget),
      column_(nullptr) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    title_->setProperty("role", "title");
    title_->setWordWrap(true);
    title_->setContentsMargins(0, 0, scaled(10), 0);
    outer->addWidget(title_);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(body_);
    outer->addWidget(scroll, 1);
    // A choice that is made here changes what the rows are made from, and they must outlive its own signal.
    const auto later = [this] {
        QMetaObject::invokeMethod(this, &PortDetails::follow, Qt::QueuedConnection);
    };
    connect(&workspace_.selection, &Selection::changed, this, later);
    connect(&workspace_.document, &Document::changed, this, later);
    connect(&workspace_.live, &Live::statusChanged, this, later);
    connect(&activity_, &PortActivity::changed, this, later);
}

/// Everything that rows are made from.
QString PortDetails::fingerprint() const {
    const auto& place = workspace_.selection.on<GearPlace>();
    const Live& live = workspace_.live;
    QString text = toQt(place.port) + QLatin1Char(place.input ? 'i' : 'o') +
                   QString::number(live.ports().filter(place.port).packed()) + QLatin1Char(' ') +
                   QString::number(live.ports().rate(place.port));
    for (const io::Wire& wire : live.ports().wires()) text += toQt("\n" + wire.ours + ">" + wire.theirs);
    for (const auto& [system, names] : live.ports().others()) {
        for (const std::string& name : place.input ? names.inputs : names.outputs)
            text += QLatin1Char('\n') + toQt(system) + toQt(name);
    }
    for (const Controller& controller : workspace_.document.ensemble().controllers) {
        text += toQt("\n" + nameOf(controller) + ">" + controller.port + ">" + controller.feedback) +
                QString::number(controller.zones.lower) + QLatin1Char(' ') +
                QString::number(controller.zones.upper) + QLatin1Char(' ') +
                QString::number(controller.zones.noteBend) + QLatin1Char(' ') +
                QString::number(controller.zones.allBend);
        for (const ControllerControl& control : controller.controls) text += toQt("\n" + nameOf(control));
    }
    if (place.input) text += live.ports().listeningText(place.port) + live.ports().network(place.port);
    if (place.input) text += QLatin1Char('\n') + toldZones(activity_, place.port);
    for (const Problem& problem : live.problems()) text += toQt("\n" + problem.sentence());
    text += toQt("\n" + live.ports().sound()) + QString::number(live.soundSystemsThere());
    if (live.rack() != nullptr) text += toQt(live.rack()->status());
    for (const Instrument& instrument : workspace_.document.ensemble().instruments) {
        if (!place.input && instrument.output.port == place.port)
            text += toQt("\n" + nameOf(instrument)) +
                    QString::number(static_cast<int>(instrument.output.onConnect));
    }
    return text;
}

void PortDetails::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    follow();
}

/// Edits made on another page cost nothing here.
void PortDetails::follow() {
    if (!isVisible()) return;
    // What is being typed here is finished first, and then comes back as an edit.
    const auto fields = body_->findChildren<const QLineEdit*>();
    if (std::any_of(fields.begin(), fields.end(), [](const auto* field) { return field->isModified(); }))
        return;
    QString now = fingerprint();
    if (now == shown_ && column_ != nullptr) return;
    shown_ = std::move(now);
    rebuild();
}

void PortDetails::rebuild() {
    qDeleteAll(body_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
    delete body_->layout();
    column_ = new QVBoxLayout(body_);
    column_->setContentsMargins(0, scaled(6), scaled(8), 0);
    column_->setSpacing(scaled(6));
    const auto& place = workspace_.selection.on<GearPlace>();
    const PortName port{place.input, place.port};
    title_->setText(port.name.empty() ? tr("Ports") : titleOf(workspace_.document.ensemble(), port));
    if (!port.name.empty()) {
        if (port.input) addNames(port);
        if (port.input) addHeard(port);
        addFeedback(port);
        if (port.input) addZones(port);
        if (!port.input && port.name == io::practiceRackPort) addSound();
        if (!port.input) addInstruments(port);
        if (!port.input && port.name != io::practiceRackPort) addWire(port);
        if (port.name != io::practiceKeysPort && port.name != io::practiceRackPort) addConnections(port);
    }
    addSystems();
    column_->addStretch(1);
}

QLabel* PortDetails::addText(const QString& text, const char* role) {
    auto* label = new QLabel(text);
    label->setProperty("role", role);
    label->setWordWrap(true);
    column_->addWidget(label);
    return label;
}

/// Who plays there is named where it is seen.
void PortDetails::addNames(const PortName& port) {
    const auto& controllers = workspace_.document.ensemble().controllers;
    for (std::size_t i = 0; i < controllers.size(); ++i) {
        if (controllers[i].port != port.name) continue;
        auto* field = new QLineEdit(nameToShow(nameOf(controllers[i])));
        field->setObjectName(QStringLiteral("controllerName%1").arg(i));
        field->setAccessibleName(tr("The controller’s name"));
        field->setToolTip(tr("What the controller is called"));
        connect(field, &QLineEdit::editingFinished, this, [this, field, i] {
            if (!field->isModified()) return;
            field->setModified(false);
            const std::string name = field->text().trimmed().toStdString();
            workspace_.document.edit(tr("Name a controller"), [&name, i](Ensemble& e) {
                if (i < e.controllers.size()) e.controllers[i].name = name;
            });
        });
        column_->addWidget(field);
    }
}

void PortDetails::addHeard(const PortName& port) {
    addText(tr("On this machine"), "section");
    const auto addChoice = [&](const QString& text, const QString& tip, auto read, auto write) {
        auto* box = new QCheckBox(text);
        box->setToolTip(tip);
        box->setChecked(read(workspace_.live.ports().filter(port.name)));
        connect(box, &QCheckBox::toggled, this, [this, name = port.name, write](bool on) {
            io::PortFilter filter = workspace_.live.ports().filter(name);
            write(filter, on);
            workspace_.live.ports().setFilter(name, filter);
        });
        column_->addWidget(box);
    };
    using io::PortFilter;
    addChoice(
        tr("Hear it"), tr("Off: nothing of it is heard, on this machine"),
        [](const PortFilter& f) { return !f.silenced; }, [](PortFilter& f, bool on) { f.silenced = !on; });
    if (port.name == io::practiceKeysPort) return;  // They have one channel, and send nothing else.
    addChoice(
        tr("Clock"), tr("MIDI clock, start, continue and stop"), [](const PortFilter& f) { return f.clock; },
        [](PortFilter& f, bool on) { f.clock = on; });
    addChoice(
        tr("Active sensing"), tr("Which some devices send three times a second"),
        [](const PortFilter& f) { return f.activeSensing; },
        [](PortFilter& f, bool on) { f.activeSensing = on; });
    addChoice(
        tr("SysEx"), tr("Messages of any length that only one maker's devices understand"),
        [](const PortFilter& f) { return f.sysEx; }, [](PortFilter& f, bool on) { f.sysEx = on; });
    if (io::isOscPort(port.name)) {
        addText(workspace_.live.ports().listeningText(port.name), "help");
        column_->addWidget(new NetworkChoice(workspace_.live, port.name));
        return;  // It has no channels.
    }
    addText(tr("Channels"), "caption");
    auto* grid = new QGridLayout;
    grid->setSpacing(scaled(3));
    constexpr int inARow = 8;
    for (int channel = 0; channel < 16; ++channel) {
        auto* button = new QPushButton(QString::number(channel + 1));
        button->setCheckable(true);
        button->setProperty("role", "small");
        button->setFixedWidth(scaled(24));
        button->setToolTip(tr("Hear channel %1").arg(channel + 1));
        button->setAccessibleName(button->toolTip());
        button->setChecked((workspace_.live.ports().filter(port.name).channels >> channel & 1) != 0);
        connect(button, &QPushButton::toggled, this, [this, name = port.name, channel](bool on) {
            PortFilter filter = workspace_.live.ports().filter(name);
            const auto bit = static_cast<std::uint16_t>(1U << channel);
            filter.channels = static_cast<std::uint16_t>(on ? filter.channels | bit : filter.channels & ~bit);
            workspace_.live.ports().setFilter(name, filter);
        });
        grid->addWidget(button, channel / inARow, channel % inARow);
    }
    column_->addLayout(grid);
}

/// Ports of JACK are joined in any number. A name of the document is one port of the sequencer: the one that
/// is called so, or another that is chosen here.
void PortDetails::addConnections(const PortName& port) {
    addText(port.input ? tr("Played by") : tr("Plays to"), "section");
    const auto wires = workspace_.live.ports().wires();
    std::vector<io::Wire> there;
    for (const auto& [system, names] : workspace_.live.ports().others()) {
        for (const std::string& theirs : port.input ? names.inputs : names.outputs)
            there.push_back({port.name, theirs, port.input, system});
    }
    const auto isThere = [&there](const io::Wire& wire) {
        return std::find(there.begin(), there.end(), wire) != there.end();
    };
    for (const io::Wire& wire : there) addWireChoice(wire, wires, true);
    std::size_t shown = there.size();
    for (const io::Wire& wire : wires) {
        if (wire.ours != port.name || wire.input != port.input || isThere(wire)) continue;
        addWireChoice(wire, wires, false);
        ++shown;
        offerMatch(wire, there);
    }
    const io::Wire namesake{port.name, port.name, port.input, "ALSA"};
    if (workspace_.live.ports().waitsFor(port.name, port.input) && !isThere(namesake))
        offerMatch(namesake, there);
    if (shown == 0) addText(tr("No other program has a port for it now."), "caption");
}

void PortDetails::addWireChoice(const io::Wire& wire, const std::vector<io::Wire>& wires, bool there) {
    const bool led = std::any_of(wires.begin(), wires.end(), [&wire](const io::Wire& each) {
        return each.by == wire.by && each.ours == wire.ours && each.input == wire.input;
    });
    const bool byName = wire.by != "JACK" && wire.ours == wire.theirs && !led;
    auto* box = new QCheckBox(there ? toQt(wire.theirs) : tr("%1 (not here)").arg(toQt(wire.theirs)));
    box->setChecked(byName || std::find(wires.begin(), wires.end(), wire) != wires.end());
    box->setEnabled(!byName);
    box->setToolTip(byName  ? tr("It is called as the document says; silence it to be without it")
                    : there ? tr("Connect it, or take the connection away")
                            : tr("It is connected again when it is back"));
    connect(box, &QCheckBox::toggled, this, [this, wire](bool on) {
        on ? workspace_.live.ports().connectPorts(wire) : workspace_.live.ports().disconnectPorts(wire);
    });
    column_->addWidget(box);
}

/// Something that is there and looks like what is not.
void PortDetails::offerMatch(const io::Wire& gone, const std::vector<io::Wire>& there) {
    std::vector<std::string> names;
    for (const io::Wire& wire : there) {
        if (wire.by == gone.by) names.push_back(wire.theirs);
    }
    const std::string match = likelyMatch(gone.theirs, names);
    if (match.empty()) return;
    auto* use = new QPushButton(tr("Use “%1” instead").arg(toQt(match)));
    use->setToolTip(tr("It looks like %1, which is not here").arg(toQt(gone.theirs)));
    connect(use, &QPushButton::clicked, this, [this, gone, match] {
        workspace_.live.ports().disconnectPorts(gone);
        workspace_.live.ports().connectPorts({gone.ours, match, gone.input, gone.by});
    });
    column_->addWidget(use);
}

void PortDetails::addInstruments(const PortName& port) {
    addText(tr("When it is connected"), "section");
    for (const Instrument& instrument : workspace_.document.ensemble().instruments) {
        if (instrument.output.port != port.name) continue;
        addText(nameToShow(nameOf(instrument)), "caption");
        auto* choice = new QComboBox;
        choice->addItems(
            {tr("is sent nothing"), tr("is sent its resting values"), tr("is sent its last values")});
        choice->setCurrentIndex(static_cast<int>(instrument.output.onConnect));
        choice->setAccessibleName(tr("When %1 is connected").arg(nameToShow(nameOf(instrument))));
        connect(choice, &QComboBox::activated, this, [this, id = instrument.id](int index) {
            workspace_.document.edit(tr("When connected"), [id, index](Ensemble& e) {
                if (auto* found = findById(e.instruments, id))
                    found->output.onConnect = static_cast<OnConnect>(index);
            });
        });
        column_->addWidget(choice);
    }
}

void PortDetails::addWire(const PortName& port) {
    addText(tr("Its wire"), "section");
    auto* choice = new QComboBox;
    choice->setObjectName(QStringLiteral("wire"));
    choice->addItems({tr("As fast as it can"), tr("5-pin DIN, 3,125 bytes/s")});
    choice->setCurrentIndex(workspace_.live.ports().rate(port.name) > 0 ? 1 : 0);
    choice->setToolTip(tr("On a slow wire notes and pedals go first, and of each control the newest value"));
    connect(choice, &QComboBox::activated, this, [this, name = port.name](int index) {
        workspace_.live.ports().setRate(name, index == 1 ? io::Pacer::dinRate : 0);
    });
    column_->addWidget(choice);
}

/// By which of the machine's systems the practice rack is heard.
void PortDetails::addSound() {
    addText(tr("Heard through"), "section");
    const Live& live = workspace_.live;
    auto* choice = new QComboBox;
    choice->setObjectName(QStringLiteral("sound"));
    choice->setAccessibleName(tr("Heard through"));
    choice->setToolTip(tr("On this machine: the system that the practice rack plays into"));
    choice->addItem(tr("Whichever is there"), QString());
    for (const io::SoundSystem& system : io::soundSystems) {
        const QString name = QLatin1String(system.name);
        choice->addItem(
            io::isAmong(live.soundSystemsThere(), system.id) ? name : tr("%1 (not here)").arg(name),
            QLatin1String(system.id));
    }
    choice->addItem(tr("Nothing"), toQt(io::noSound));
    choice->setCurrentIndex(std::max(0, choice->findData(toQt(live.ports().sound()))));
    connect(choice, &QComboBox::activated, this, [this, choice] {
        workspace_.live.ports().setSound(choice->currentData().toString().toStdString());
    });
    column_->addWidget(choice);
    if (live.rackProblem()) {
        addText(toQt(live.rackProblem()->sentence()) + QLatin1Char('.'), "caption");
    } else if (live.rack() != nullptr) {
        addText(toQt(live.rack()->status()) + QLatin1Char('.'), "caption");
    }
}

/// Of a controller: where it is told what its controls stand at. Of a port by which one is: what it is told.
void PortDetails::addFeedback(const PortName& port) {
    const auto& controllers = workspace_.document.ensemble().controllers;
    for (std::size_t i = 0; i < controllers.size(); ++i) {
        if ((port.input ? controllers[i].port : controllers[i].feedback) != port.name) continue;
        addText(tr("Motors and lights of %1").arg(nameToShow(nameOf(controllers[i]))), "section");
        if (port.input) column_->addWidget(makeFeedbackChoice(workspace_, i));
        if (!controllers[i].feedback.empty())
            column_->addWidget(new FeedbackRows(workspace_, static_cast<std::uint32_t>(i)));
    }
}

/// Of a controller: how its fingers' channels lie.
void PortDetails::addZones(const PortName& port) {
    const auto& controllers = workspace_.document.ensemble().controllers;
    for (std::size_t i = 0; i < controllers.size(); ++i) {
        const bool isSaid = controllers[i].zones != ZoneSettings{};
        if (controllers[i].port != port.name || (port.name == io::practiceKeysPort && !isSaid)) continue;
        addText(tr("Channels for each finger (MPE) of %1").arg(nameToShow(nameOf(controllers[i]))),
                "section");
        column_->addWidget(makeZoneRows(workspace_, activity_, i));
    }
}

/// Which systems there are, in plain words.
void PortDetails::addSystems() {
    addText(tr("Systems"), "section");
    std::vector<std::string> there;
    for (const io::PortState& port : workspace_.live.ports().present()) {
        if (std::find(there.begin(), there.end(), port.by) == there.end() && port.by != "built in")
            there.push_back(port.by);
    }
    for (const std::string& system : there) addText(tr("%1 is there.").arg(toQt(system)), "caption");
    for (const Problem& problem : workspace_.live.problems())
        addText(toQt(problem.sentence()) + QStringLiteral("."), "caption");
    addText(tr("Practice keys and practice rack are always there."), "caption");
}

}  // namespace mellow::app
