// Tablets are told of axes alone: they have no tiles that answer, and no hand.
#include "app/pages/desk/desk_mirror.h"

#include <utility>

#include "app/acts/desk_addresses.h"
#include "app/live/desk_stands.h"
#include "app/pages/desk/surface.h"

namespace mellow::app {

DeskMirror::DeskMirror(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {
    connect(&document_, &Document::changed, this, [this](const Change& change) {
        isStale_ = true;
        if (change.everything || change.desk) followDesk();
    });
    followDesk();
    later_.setSingleShot(true);
    later_.setInterval(io::Surfaces::fingersLeave);
    connect(&later_, &QTimer::timeout, this, &DeskMirror::tellAgain);
    connect(&live_, &Live::movedAtAGlance, this, &DeskMirror::tellMoved);
    connect(&live_, &Live::statusChanged, this, &DeskMirror::tellMoved);
}

void DeskMirror::followDesk() {
    std::set<std::string, std::less<>> addresses;
    forEachElement(document_.ensemble().desk, [&addresses](const DeskElement& element) {
        for (std::size_t i = 0; i < std::max<std::size_t>(axesOf(element), 1); ++i)
            addresses.insert(onTablet(addressOf(element, static_cast<Axis>(i))));
    });
    live_.ports().surfaces().setAddresses(std::move(addresses));
    tellAll();
}

/// Names and colours, then every value anew.
void DeskMirror::tellAll() {
    io::Surfaces& surfaces = live_.ports().surfaces();
    if (surfaces.greetings() == 0) return;
    isStale_ = false;
    scene_.follow(document_.ensemble());
    for (const desk::ScenePage& page : scene_.pages()) {
        for (const desk::SceneElement& each : page.elements) {
            const std::string address = onTablet("/" + each.element.id);
            surfaces.tell(address + "/name", nameOf(each.element));
            surfaces.tell(address + "/tone", toneNamed(each.element.tone).name().toStdString());
        }
    }
    scene_.update(DeskStands(live_));
    for (const desk::SceneChange& change : scene_.whole()) tell(change);
}

void DeskMirror::tellMoved() {
    const std::size_t now = live_.ports().surfaces().greetings();
    if (now == 0) return;
    if (std::exchange(greetings_, now) != now) return tellAll();
    // Other chains may lead elsewhere, or be read in other units.
    if (std::exchange(isStale_, false)) scene_.follow(document_.ensemble());
    for (const desk::SceneChange& change : scene_.update(DeskStands(live_))) tell(change);
}

void DeskMirror::tell(const desk::SceneChange& change) {
    if (const auto* moved = std::get_if<desk::AxisMoved>(&change)) tell(moved->address, moved->position);
    if (const auto* reads = std::get_if<desk::AxisReads>(&change))
        live_.ports().surfaces().tell(onTablet(reads->address) + "/reads", reads->reads.value);
}

void DeskMirror::tell(const std::string& address, double position) {
    if (live_.ports().surfaces().tell(onTablet(address), position)) {
        untold_.erase(address);
        return;
    }
    untold_.insert(address);
    later_.start();
}

/// Where fingers that were on something may have left it.
void DeskMirror::tellAgain() {
    for (const std::string& address : std::exchange(untold_, {})) {
        if (const desk::SceneAxis* axis = scene_.axis(address)) tell(address, axis->position);
    }
}

}  // namespace mellow::app
