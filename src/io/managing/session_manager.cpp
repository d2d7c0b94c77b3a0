#include "io/managing/session_manager.h"

#include <lo/lo.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <cstdint>
#include <cstdlib>
#include <type_traits>
#include <utility>

namespace mellow::io {

namespace {

/// As LO_TT_IMMEDIATE, which is no C++ (OSC 1.0: the time tag 1).
constexpr lo_timetag atOnce{0, 1};

constexpr const char* openPath = "/nsm/client/open";
constexpr const char* savePath = "/nsm/client/save";
constexpr const char* announcePath = "/nsm/server/announce";
constexpr int majorVersion = 1;
constexpr int minorVersion = 1;
/// What this program can do beyond what all must: say whether it has something to save, and hide.
constexpr const char* capabilities = ":dirty:optional-gui:";

struct AddressGone {
    void operator()(lo_address address) const { lo_address_free(address); }
};
struct ServerGone {
    void operator()(lo_server_thread server) const { lo_server_thread_free(server); }
};

std::string text(lo_arg* argument) {
    return &argument->s;
}

}  // namespace

struct SessionManager::Link {
    Hear hear;
    std::unique_ptr<std::remove_pointer_t<lo_address>, AddressGone> manager;
    std::unique_ptr<std::remove_pointer_t<lo_server_thread>, ServerGone> server;

    lo_server from() const { return lo_server_thread_get_server(server.get()); }
    void listen();
    void answer(const char* path) const {
        lo_send_from(manager.get(), from(), atOnce, "/reply", "ss", path, "OK");
    }
    void refuse(const char* path, Failure failure, const std::string& why) const {
        lo_send_from(manager.get(), from(), atOnce, "/error", "sis", path, static_cast<int>(failure),
                     why.c_str());
    }
    void tell(const char* path) const { lo_send_from(manager.get(), from(), atOnce, path, ""); }

    template<class What>
    static int hand(const char*, const char*, lo_arg**, int, lo_message, void* link) {
        static_cast<Link*>(link)->hear(What{});
        return 0;
    }
    static int handOpen(const char*, const char*, lo_arg** arguments, int, lo_message, void* link) {
        static_cast<Link*>(link)->hear(Open{text(arguments[0]), text(arguments[1]), text(arguments[2])});
        return 0;
    }
    /// What comes is about the announcement alone: nothing else is asked of the manager.
    static int handReply(const char*, const char* types, lo_arg** arguments, int count, lo_message,
                         void* link) {
        if (text(arguments[0]) != announcePath) return 0;
        const bool named = count > 2 && types[2] == 's';
        static_cast<Link*>(link)->hear(Welcome{named ? text(arguments[2]) : std::string()});
        return 0;
    }
    static int handError(const char*, const char*, lo_arg** arguments, int, lo_message, void* link) {
        if (text(arguments[0]) == announcePath) static_cast<Link*>(link)->hear(Refusal{text(arguments[2])});
        return 0;
    }
};

void SessionManager::Link::listen() {
    lo_server_thread thread = server.get();
    lo_server_thread_add_method(thread, openPath, "sss", handOpen, this);
    lo_server_thread_add_method(thread, savePath, "", hand<Save>, this);
    lo_server_thread_add_method(thread, "/nsm/client/show_optional_gui", "", hand<Show>, this);
    lo_server_thread_add_method(thread, "/nsm/client/hide_optional_gui", "", hand<Hide>, this);
    lo_server_thread_add_method(thread, "/reply", "ssss", handReply, this);
    lo_server_thread_add_method(thread, "/reply", "ss", handReply, this);
    lo_server_thread_add_method(thread, "/error", "sis", handError, this);
    lo_server_thread_start(thread);
}

SessionManager::SessionManager(std::unique_ptr<Link> link) : link_(std::move(link)) {}

SessionManager::~SessionManager() {
    if (link_ != nullptr && link_->server != nullptr) lo_server_thread_stop(link_->server.get());
}

Result<std::unique_ptr<SessionManager>> SessionManager::at(const std::string& url, Hear hear) {
    auto link = std::make_unique<Link>();
    link->hear = std::move(hear);
    link->manager.reset(lo_address_new_from_url(url.c_str()));
    const bool udp = link->manager != nullptr && lo_address_get_protocol(link->manager.get()) == LO_UDP;
    if (!udp)
        return Problem{"NSM_URL", url + " is no address of a session manager",
                       "it is of the form osc.udp://HOST:PORT/; the manager sets it"};
    link->server.reset(lo_server_thread_new_with_proto(nullptr, LO_UDP, nullptr));
    if (link->server == nullptr)
        return Problem{"The session manager", "no port can be opened to hear it", "close other programs"};
    link->listen();
    return std::unique_ptr<SessionManager>(new SessionManager(std::move(link)));
}

void SessionManager::announce(const std::string& name, const std::string& executable) {
    lo_send_from(link_->manager.get(), link_->from(), atOnce, announcePath, "sssiii", name.c_str(),
                 capabilities, executable.c_str(), majorVersion, minorVersion, static_cast<int>(getpid()));
}

void SessionManager::done(const Open&) const {
    link_->answer(openPath);
}
void SessionManager::done(const Save&) const {
    link_->answer(savePath);
}
void SessionManager::failed(const Open&, Failure failure, const std::string& why) const {
    link_->refuse(openPath, failure, why);
}
void SessionManager::failed(const Save&, Failure failure, const std::string& why) const {
    link_->refuse(savePath, failure, why);
}

void SessionManager::tellUnsaved(bool unsaved) const {
    link_->tell(unsaved ? "/nsm/client/is_dirty" : "/nsm/client/is_clean");
}

void SessionManager::tellShown(bool shown) const {
    link_->tell(shown ? "/nsm/client/gui_is_shown" : "/nsm/client/gui_is_hidden");
}

/// Nobody else can have a port that somebody listens at.
bool SessionManager::isThere() const {
    const std::string port = lo_address_get_port(link_->manager.get());
    const std::string host = lo_address_get_hostname(link_->manager.get());
    char own[256]{};
    gethostname(own, sizeof(own) - 1);
    if (host != "localhost" && host != "127.0.0.1" && host != "::1" && host != own) return true;
    const int descriptor = socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    if (descriptor < 0) return true;
    sockaddr_in address{};
    address.sin_family = AF_INET;
    address.sin_port = htons(static_cast<std::uint16_t>(std::strtoul(port.c_str(), nullptr, 10)));
    const bool taken = bind(descriptor, reinterpret_cast<const sockaddr*>(&address), sizeof(address)) != 0;
    close(descriptor);
    return taken;
}

}  // namespace mellow::io
