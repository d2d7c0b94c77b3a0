// A place on the network, over UDP and IPv4: where one listens, and where one sends to.
//
// Nothing here waits but what says so: sending drops what the system has no room for, as UDP does anyway, and
// names of hosts are looked up by a thread of their own, once, and again with growing pauses where that
// fails, so that one name that nobody knows keeps nobody else waiting.
#pragma once

#include <netinet/in.h>

#include <atomic>
#include <condition_variable>
#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <thread>
#include <vector>

#include "core/result.h"

namespace mellow::io {

/// "192.168.1.5:9000".
std::string placeText(const sockaddr_in& place);
/// An address in numbers with a port; nothing where it is a name.
std::optional<sockaddr_in> placeOf(const std::string& address, int port);

class UdpSocket {
 public:
    UdpSocket() = default;
    ~UdpSocket();
    UdpSocket(const UdpSocket&) = delete;
    UdpSocket& operator=(const UdpSocket&) = delete;

    /// address: in numbers, of this machine; "0.0.0.0": all of its addresses. port 0: any.
    Outcome bind(const std::string& address, int port);
    /// Waits until something is there to be read, or wake() is called; false for the latter.
    [[nodiscard]] bool await() const;
    void wake() const;
    struct Packet {
        sockaddr_in from{};
        std::size_t size = 0;
    };
    /// What came, if something has.
    [[nodiscard]] std::optional<Packet> receive(std::span<char> into) const;
    bool send(const sockaddr_in& to, std::span<const char> bytes) const;

 private:
    int socket_ = -1;
    int waker_ = -1;
};

/// Looks names of hosts up, aside.
class HostNames {
 public:
    HostNames();
    ~HostNames();
    HostNames(const HostNames&) = delete;
    HostNames& operator=(const HostNames&) = delete;

    /// Where a host is; nothing as long as that is not known. It is looked up from the first question on.
    std::optional<sockaddr_in> find(const std::string& host, int port);
    /// Hosts that were looked for and not found.
    [[nodiscard]] std::vector<std::string> unknown() const;

 private:
    struct Book;
    const std::shared_ptr<Book> book_;  ///< shared with threads that may outlive this, while the system looks
};

}  // namespace mellow::io
