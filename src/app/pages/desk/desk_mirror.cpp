#include "app/pages/desk/desk_mirror.h"

#include "app/acts/desk_addresses.h"
#include "app/acts/element_targets.h"
#include "app/ground/words.h"
#include "app/pages/desk/surface.h"

namespace mellow::app {

DeskMirror::DeskMirror(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {
    connect(&document_, &Document::changed, this, [this](const Change& change) {
        if (change.everything || change.desk) tellAll();
    });
    tellAll();
    later_.setSingleShot(true);
    later_.setInterval(io::Surfaces::fingersLeave);
    connect(&later_, &QTimer::timeout, this, &DeskMirror::tellMoved);
    connect(&live_, &Live::movedAtAGlance, this, &DeskMirror::tellMoved);
    connect(&live_, &Live::statusChanged, this, &DeskMirror::tellMoved);
}

/// Names and colours, then every value anew.
void DeskMirror::tellAll() {
    told_.clear();
    reads_.clear();
    targets_ = elementTargets(document_.ensemble());
    std::set<std::string, std::less<>> addresses;
    forEachElement(document_.ensemble().desk, [&addresses](const DeskElement& element) {
        for (std::size_t i = 0; i < std::max<std::size_t>(axesOf(element), 1); ++i)
            addresses.insert(onTablet(addressOf(element, static_cast<Axis>(i))));
    });
    live_.ports().surfaces().setAddresses(std::move(addresses));
    if (live_.ports().surfaces().greetings() == 0) return;
    forEachElement(document_.ensemble().desk, [this](const DeskElement& element) {
        const std::string address = onTablet("/" + element.id);
        live_.ports().surfaces().tell(address + "/name", nameOf(element));
        live_.ports().surfaces().tell(address + "/tone", toneNamed(element.tone).name().toStdString());
    });
    tellMoved();
}

void DeskMirror::tellMoved() {
    const std::size_t now = live_.ports().surfaces().greetings();
    if (now == 0) return;
    if (std::exchange(greetings_, now) != now) return tellAll();
    forEachElement(document_.ensemble().desk, [this](const DeskElement& element) {
        for (std::size_t i = 0; i < axesOf(element); ++i) {
            const auto axis = static_cast<Axis>(i);
            const std::string address = addressOf(element, axis);
            const double value = live_.readings().deskPosition(address).value_or(restOf(element, axis));
            tellReading(element, axis);
            const auto [told, isNew] = told_.try_emplace(address, value);
            if (!isNew && told->second == value) continue;
            told->second = value;
            if (live_.ports().surfaces().tell(onTablet(address), value)) continue;
            told_.erase(told);
            later_.start();
        }
    });
}

/// What an axis leads to, in units, where that is another text than before.
void DeskMirror::tellReading(const DeskElement& element, Axis axis) {
    const auto its = targets_.find(element.id);
    if (its == targets_.end()) return;
    const std::string text = readoutOf(its->second, axis, live_).value.toStdString();
    std::string& told = reads_[addressOf(element, axis)];
    if (std::exchange(told, text) != text)
        live_.ports().surfaces().tell(onTablet(addressOf(element, axis)) + "/reads", text);
}

}  // namespace mellow::app
