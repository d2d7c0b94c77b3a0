// Values follow what is played; why a control has no way back may change with each edit, and is asked for
// with them.
#include "app/pages/gear/feedback_rows.h"

#include <QCoreApplication>
#include <QGridLayout>

#include "app/acts/details/port_offers.h"

namespace mellow::app {

FeedbackRows::FeedbackRows(const Workspace& workspace, std::uint32_t controller, QWidget* parent)
    : QWidget(parent), live_(workspace.live), controller_(controller) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(scaled(8));
    grid->setVerticalSpacing(scaled(2));
    grid->setColumnStretch(0, 1);
    const auto& controllers = workspace.document.ensemble().controllers;
    for (const ControllerControl& control : controllers[controller].controls) {
        const int line = grid->rowCount();
        auto* name = new QLabel(nameToShow(nameOf(control)));
        auto* stands = new MovingText(QStringLiteral("16383"));
        stands->setToolTip(
            tr("Where it stands: where its hand has left it, or where it was told to be since"));
        auto* note = new QLabel(tr("A message of this kind moves no motor and lights nothing."));
        note->setProperty("role", "caption");
        note->setWordWrap(true);
        grid->addWidget(name, line, 0);
        grid->addWidget(stands, line, 1);
        grid->addWidget(note, line + 1, 0, 1, 2);
        rows_.push_back({stands, note, {}});
    }
    connect(&workspace.live, &Live::moved, this, &FeedbackRows::follow);
    connect(&workspace.live, &Live::statusChanged, this, &FeedbackRows::follow);
}

void FeedbackRows::follow() {
    if (!isVisible()) return;
    const engine::Feedback& feedback = live_.readings().feedback();
    for (std::size_t i = 0; i < feedback.controls().size(); ++i) {
        const engine::FollowedControl& control = feedback.controls()[i];
        if (control.controller != controller_ || control.control >= rows_.size()) continue;
        Row& row = rows_[control.control];
        const int stands = feedback.standsAt(i);
        row.stands->setText(stands < 0 ? QStringLiteral("–") : QString::number(stands));
        const engine::NoWayBack reason = feedback.reasonOf(i);
        if (std::exchange(row.reason, reason) == reason) continue;
        row.note->setText(sentenceOf(reason));
        row.note->setVisible(!row.note->text().isEmpty());
    }
}

void FeedbackRows::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    follow();
}

QComboBox* makeFeedbackChoice(const Workspace& workspace, std::size_t controller) {
    auto* choice = new QComboBox;
    choice->setObjectName(QStringLiteral("feedback"));
    choice->setToolTip(FeedbackRows::tr("The port by which it is told where its controls now stand"));
    choice->setAccessibleName(FeedbackRows::tr("Motors and lights are told by"));
    choice->addItem(FeedbackRows::tr("are told nothing"));
    const Controller& now = workspace.document.ensemble().controllers[controller];
    QStringList names = portNames(workspace.document, workspace.live, false);
    if (now.port != anyPort && now.port != io::practiceKeysPort) names.prepend(toQt(now.port));
    names.removeAll(toQt(io::practiceRackPort));
    names.removeDuplicates();
    for (const QString& name : names) choice->addItem(FeedbackRows::tr("are told by %1").arg(name), name);
    choice->setCurrentIndex(now.feedback.empty() ? 0 : choice->findData(toQt(now.feedback)));
    QObject::connect(
        choice, &QComboBox::activated, choice,
        [&document = workspace.document, &live = workspace.live, controller, choice](int index) {
            const PortChoice port =
                portFor(choice->itemData(index).toString().toStdString(), live, document.ensemble(), false);
            document.edit(FeedbackRows::tr("Motors and lights"), [controller, &port](Ensemble& e) {
                if (controller < e.controllers.size()) e.controllers[controller].feedback = port.name;
            });
            if (port.wire) live.ports().connectPorts(*port.wire);
        });
    return choice;
}

QString sentenceOf(engine::NoWayBack reason) {
    using engine::NoWayBack;
    switch (reason) {
        case NoWayBack::hasOne:
            return {};
        case NoWayBack::unheard:
            return FeedbackRows::tr("It is no chain’s source, and is told only what takes do.");
        case NoWayBack::secondSource:
            return FeedbackRows::tr("No way back through its chain: a second source has a say.");
        case NoWayBack::waits:
            return FeedbackRows::tr("No way back through its chain: a step waits or latches.");
        case NoWayBack::twoPlaces:
            return FeedbackRows::tr("No way back through its chain: one value comes from two places.");
        case NoWayBack::standsStill:
            return FeedbackRows::tr("No way back through its chain: it always sends the same.");
        case NoWayBack::mixed:
            return FeedbackRows::tr("No way back through its chain: its target is mixed from several.");
        case NoWayBack::noValue:
            return FeedbackRows::tr("No way back through its chain: its target keeps no value.");
    }
    return {};
}

}  // namespace mellow::app
