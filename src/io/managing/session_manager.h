// A session manager starts the programs of a piece, has all of them save at once, and ends them. This is the
// client's side of the open protocol that those on Linux speak, by OSC over UDP (NSM protocol 1.1): the
// manager gives its address in NSM_URL, the program announces itself, and is then told which file is its own,
// and when to save, to show itself and to hide.
//
// Messages arrive on a thread of liblo's and are handed to a callback; the owner takes them where it lives,
// and answers. Nothing here waits: a manager that is gone is simply not heard of again.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <variant>

#include "core/result.h"

namespace mellow::io {

class SessionManager {
 public:
    /// The program's file is `path`, without an ending; it is made where it is not there.
    struct Open {
        std::string path;
        std::string sessionName;  ///< as people call the session
        std::string clientId;     ///< the name that the program is to have in JACK's graph
    };
    struct Save {};
    struct Show {};
    struct Hide {};
    /// The manager took the announcement; its name, as people call it.
    struct Welcome {
        std::string manager;
    };
    /// It did not, with its reason.
    struct Refusal {
        std::string reason;
    };
    using Call = std::variant<Open, Save, Show, Hide, Welcome, Refusal>;
    /// Called on a thread of its own.
    using Hear = std::function<void(const Call&)>;

    /// Why an open or a save did not come about, as the protocol numbers it.
    enum class Failure { general = -1, badProject = -9, createFailed = -10 };

    /// url: as NSM_URL has it, osc.udp://HOST:PORT/. Error: it is no such address, or no port can be opened.
    static Result<std::unique_ptr<SessionManager>> at(const std::string& url, Hear hear);
    ~SessionManager();
    SessionManager(const SessionManager&) = delete;
    SessionManager& operator=(const SessionManager&) = delete;

    /// name: of the program, for people; executable: by which the manager starts it again.
    void announce(const std::string& name, const std::string& executable);
    /// Answers Open or Save.
    void done(const Open&) const;
    void done(const Save&) const;
    void failed(const Open&, Failure failure, const std::string& why) const;
    void failed(const Save&, Failure failure, const std::string& why) const;
    /// There is something to be saved, or nothing any more.
    void tellUnsaved(bool unsaved) const;
    void tellShown(bool shown) const;
    /// False when it was on this machine, and its port is nobody's any more.
    [[nodiscard]] bool isThere() const;

 private:
    struct Link;
    explicit SessionManager(std::unique_ptr<Link> link);
    std::unique_ptr<Link> link_;
};

}  // namespace mellow::io
