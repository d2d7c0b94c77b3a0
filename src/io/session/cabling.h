// The cabling of a session: all classes of ports that it has, what an ensemble wishes for among them, and
// what they are connected to.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "io/ports/jack_inputs.h"
#include "io/ports/jack_outputs.h"
#include "io/ports/jack_ports.h"
#include "io/ports/machine_table.h"
#include "io/ports/osc_link.h"
#include "io/ports/patchbay.h"
#include "io/ports/rtmidi_ports.h"
#include "io/session/rack_ports.h"

namespace mellow::io {

class Cabling {
 public:
    struct Options {
        bool jack = true;
        bool alsa = true;
        std::string server = {};  ///< the JACK server's name; empty: the default one
        std::string name = JackClient::usualName;
    };
    Cabling(Player& player, const Options& options);

    /// tell: called, from any thread, when present() or problems() may say something else.
    void onChange(const std::function<void()>& tell);
    /// Opens what an ensemble wishes for.
    void want(const PortNames& wishes);
    /// How people call its ports, for whatever shows them.
    void entitle(std::vector<PortTitle> titles) { jackPorts_.entitle(std::move(titles)); }
    /// Hears OSC by the usual port for a while, though nothing that is played listens to it.
    void learnOsc(bool on);
    /// Hears tablets that move the desk, by the usual port, though nothing that is played listens to it.
    void openDesk(bool on);
    /// Surfaces that moved the desk by OSC.
    [[nodiscard]] Surfaces& surfaces() { return osc_.surfaces(); }
    /// On which address of this machine an OSC port is heard; see OscLink.
    void openOsc(const std::string& port, const std::string& address) { osc_.openTo(port, address); }
    [[nodiscard]] std::vector<OscLink::Listening> oscListening() const { return osc_.listening(); }

    /// Every port that is there.
    [[nodiscard]] std::vector<PortState> present() const;
    /// Ports of other programs and devices, by the names of the systems that have them.
    [[nodiscard]] std::vector<std::pair<std::string, PortNames>> others() const {
        return {{"JACK", jackPorts_.others()}, {"ALSA", alsa_.others()}};
    }
    /// What the classes of ports cannot do, with the reason and the mend.
    [[nodiscard]] std::vector<Problem> problems() const;
    /// A phrase each of ports that have something to say.
    [[nodiscard]] std::vector<std::string> status() const;

    void connect(const Wire& wire) { wire.by == "JACK" ? jackPorts_.connect(wire) : alsa_.lead(wire); }
    void disconnect(const Wire& wire) {
        wire.by == "JACK" ? jackPorts_.disconnect(wire) : alsa_.leadNoMore(wire);
    }
    /// Connections to other programs' ports, those included whose other end is gone for now.
    [[nodiscard]] std::vector<Wire> wires() const;
    /// Connections that were there when the program last ran; before a clock starts.
    void rememberWires(const std::vector<Wire>& wires);

    /// What of an input port is heard, by its name.
    void setFilter(std::string_view port, const PortFilter& filter) {
        player_.setFilter(player_.ports().of(port), filter);
    }
    /// How fast the wire of an output port is, in bytes a second; 0: as fast as it can.
    void setRate(std::string_view port, int bytesASecond) {
        patchbay_.setRate(player_.ports().of(port), bytesASecond);
    }
    /// How full the wire of a paced port was in the last second, 0 to 1; nothing for one that is not paced.
    [[nodiscard]] std::optional<float> wireLoad(std::string_view port);
    /// Ports that are there are heard and paced as the table says; anew when others came.
    void heed(const MachineTable& table);

    [[nodiscard]] JackClient& jack() { return jack_; }
    [[nodiscard]] const JackClient& jack() const { return jack_; }
    /// Audio that comes in.
    [[nodiscard]] JackInputs& inputs() { return inputs_; }
    /// Audio that goes out.
    [[nodiscard]] JackOutputs& outputs() { return outputs_; }
    [[nodiscard]] RackPorts& rack() { return rack_; }
    [[nodiscard]] const RackPorts& rack() const { return rack_; }
    /// All of it, as one thing that a clock drives.
    [[nodiscard]] Patchbay& patchbay() { return patchbay_; }

 private:
    void wantAll();

    Player& player_;
    Patchbay patchbay_;
    JackClient jack_;
    JackPorts jackPorts_{jack_};
    JackInputs inputs_{jack_};
    RackPorts rack_;  ///< outlives what renders it
    JackOutputs outputs_{jack_};
    OscLink osc_;
    RtMidiPorts alsa_;
    std::vector<Ports*> ports_;
    PortNames wishes_;  ///< of the ensemble that is played
    bool learnsOsc_ = false;
    bool deskIsOpen_ = false;
};

}  // namespace mellow::io
