#include "io/session/port_titles.h"

#include "core/text/printable.h"
#include "io/ports/ports.h"

namespace mellow::io {

namespace {

constexpr std::size_t longestName = 80;

class Owners {
 public:
    void add(const std::string& name) {
        constexpr std::size_t shown = 2;
        if (++count_ > shown) return;
        if (count_ > 1) text_ += ", ";
        text_ += name;
    }
    [[nodiscard]] std::string text() const {
        constexpr std::size_t shown = 2;
        return count_ <= shown ? text_ : text_ + ", " + std::to_string(count_ - shown) + " more";
    }

 private:
    std::string text_;
    std::size_t count_ = 0;
};

template<class Thing>
std::string printableName(const Thing& thing) {
    return text::printable(nameOf(thing), longestName);
}

}  // namespace

std::string portTitle(const Ensemble& ensemble, bool input, std::string_view port) {
    Owners owners;
    for (const Controller& controller : ensemble.controllers) {
        if (input && controller.port == port) owners.add(printableName(controller));
    }
    for (const Instrument& instrument : ensemble.instruments) {
        if (!input && instrument.output.port == port) owners.add(printableName(instrument));
    }
    for (const Controller& controller : ensemble.controllers) {
        if (!input && controller.feedback == port)
            owners.add("Motors and lights of " + printableName(controller));
    }
    if (std::string text = owners.text(); !text.empty()) return text;
    return input && port == "hands" ? "Any hands" : std::string();
}

std::vector<PortTitle> portTitles(const Ensemble& ensemble) {
    const PortNames wishes = wishesOf(ensemble);
    std::vector<PortTitle> titles;
    for (const std::string& port : wishes.inputs)
        titles.push_back({true, port, portTitle(ensemble, true, port)});
    for (const std::string& port : wishes.outputs)
        titles.push_back({false, port, portTitle(ensemble, false, port)});
    return titles;
}

}  // namespace mellow::io
