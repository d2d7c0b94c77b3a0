// A session manager for tests: the server's side of the protocol, over liblo, that keeps what it hears and
// says what it is told to.
#pragma once

#include <lo/lo.h>

#include <QtTest/QtTest>
#include <mutex>
#include <string>
#include <vector>

namespace mellow::test {

/// As LO_TT_IMMEDIATE, which is no C++ (OSC 1.0: the time tag 1).
inline constexpr lo_timetag atOnce{0, 1};

class Manager {
 public:
    struct Heard {
        std::string path;
        std::vector<std::string> words;  ///< arguments, numbers as text
    };

    Manager() : server_(lo_server_thread_new_with_proto(nullptr, LO_UDP, nullptr)) {
        if (server_ == nullptr) qFatal("no port for the test's session manager");
        lo_server_thread_add_method(server_, nullptr, nullptr, take, this);
        lo_server_thread_start(server_);
    }
    ~Manager() { end(); }
    void end() {
        if (server_ == nullptr) return;
        lo_server_thread_stop(server_);
        lo_server_thread_free(server_);
        server_ = nullptr;
        if (client_ != nullptr) lo_address_free(client_);
        client_ = nullptr;
    }

    [[nodiscard]] std::string url() const {
        return "osc.udp://127.0.0.1:" + std::to_string(lo_server_thread_get_port(server_)) + "/";
    }
    std::vector<Heard> heard(const std::string& path) {
        const std::lock_guard lock(mutex_);
        std::vector<Heard> found;
        for (const Heard& each : heard_) {
            if (each.path == path) found.push_back(each);
        }
        return found;
    }
    std::size_t count(const std::string& path) { return heard(path).size(); }
    /// Whether an answer to a call has come: "/reply" or "/error".
    bool answered(const std::string& how, const std::string& call) {
        for (const Heard& each : heard(how)) {
            if (!each.words.empty() && each.words[0] == call) return true;
        }
        return false;
    }
    void forget() {
        const std::lock_guard lock(mutex_);
        heard_.clear();
    }

    void welcome() { send("/reply", "ssss", "/nsm/server/announce", "Welcome", "The test's manager", ""); }
    void refuse(const char* why) { send("/error", "sis", "/nsm/server/announce", -2, why); }
    void open(const std::string& path, const std::string& name, const std::string& id) {
        send("/nsm/client/open", "sss", path.c_str(), name.c_str(), id.c_str());
    }
    void call(const char* path) { send(path, ""); }
    /// Whatever it is.
    template<class... Arguments>
    void send(const char* path, const char* types, Arguments... arguments) {
        const std::lock_guard lock(mutex_);
        if (client_ == nullptr) qFatal("nobody has announced itself");
        lo_send_from(client_, lo_server_thread_get_server(server_), atOnce, path, types, arguments...);
    }

 private:
    static int take(const char* path, const char* types, lo_arg** arguments, int count, lo_message message,
                    void* self) {
        auto* manager = static_cast<Manager*>(self);
        Heard heard{path, {}};
        for (int i = 0; i < count; ++i)
            heard.words.push_back(types[i] == 'i' ? std::to_string(arguments[i]->i) : &arguments[i]->s);
        const std::lock_guard lock(manager->mutex_);
        if (manager->client_ == nullptr) {
            lo_address from = lo_message_get_source(message);
            manager->client_ = lo_address_new(lo_address_get_hostname(from), lo_address_get_port(from));
        }
        manager->heard_.push_back(std::move(heard));
        return 0;
    }

    std::mutex mutex_;
    lo_server_thread server_;
    lo_address client_ = nullptr;  ///< who announced itself first
    std::vector<Heard> heard_;
};

}  // namespace mellow::test
