// What ports have sent and been sent lately: how much a second, and what their controls are.
#pragma once

#include <QObject>
#include <QTimer>
#include <array>
#include <map>
#include <tuple>
#include <vector>

#include "app/live/live.h"
#include "core/midi/shapes.h"

namespace mellow::app {

/// A port of the document, by name.
struct PortName {
    bool input = false;
    std::string name;
    bool operator==(const PortName&) const = default;
    bool operator<(const PortName& other) const {
        return std::tie(input, name) < std::tie(other.input, other.name);
    }
};

class PortActivity : public QObject {
    Q_OBJECT

 public:
    explicit PortActivity(Live& live, QObject* parent = nullptr);

    struct Port {
        midi::Shapes shapes;
        int rate = 0;        ///< messages a second
        bool moves = false;  ///< something came or went a moment ago
    };
    /// nullptr where nothing was seen.
    [[nodiscard]] const Port* find(const PortName& name) const;
    /// The time of what came last, on the same clock as the shapes, microseconds.
    [[nodiscard]] std::int64_t now() const { return now_; }

 signals:
    /// Rates, or what came, may be other than before; a few times a second.
    void changed();

 private:
    void see(const io::Happening& happening);
    void count();

    struct Counted : Port {
        int messages = 0;
        int quiet = 0;  ///< counts since the last message
    };
    Counted& portOf(const io::Happening& happening);

    Live& live_;
    QTimer counting_;
    std::map<PortName, Counted> ports_;
    std::array<std::vector<Counted*>, 2> byNumber_;  ///< those that come in, and go out; into ports_
    std::int64_t now_ = 0;
};

}  // namespace mellow::app
