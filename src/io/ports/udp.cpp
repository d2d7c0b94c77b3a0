// getaddrinfo(3) cannot be broken off, so each name is asked for in a thread that nobody waits for: it holds
// the book, not the program, and writes what it finds there if somebody still has it.
#include "io/ports/udp.h"

#include <arpa/inet.h>
#include <fcntl.h>
#include <netdb.h>
#include <poll.h>
#include <sys/eventfd.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <vector>

namespace mellow::io {

std::string placeText(const sockaddr_in& place) {
    std::array<char, INET_ADDRSTRLEN> text{};
    ::inet_ntop(AF_INET, &place.sin_addr, text.data(), text.size());
    return std::string(text.data()) + ":" + std::to_string(ntohs(place.sin_port));
}

std::optional<sockaddr_in> placeOf(const std::string& address, int port) {
    sockaddr_in place{};
    place.sin_family = AF_INET;
    place.sin_port = htons(static_cast<std::uint16_t>(port));
    if (::inet_pton(AF_INET, address.c_str(), &place.sin_addr) != 1) return std::nullopt;
    return place;
}

UdpSocket::~UdpSocket() {
    if (socket_ >= 0) ::close(socket_);
    if (waker_ >= 0) ::close(waker_);
}

Outcome UdpSocket::bind(const std::string& address, int port) {
    const auto place = placeOf(address, port);
    if (!place) return Problem{address, "is no address of this machine", "use one in numbers"};
    socket_ = ::socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0);
    waker_ = ::eventfd(0, EFD_CLOEXEC | EFD_NONBLOCK);
    // A flood is dropped by the system, and costs no memory here.
    constexpr int room = 256 * 1024;
    if (socket_ >= 0) (void)::setsockopt(socket_, SOL_SOCKET, SO_RCVBUF, &room, sizeof(room));
    const bool bound = socket_ >= 0 && waker_ >= 0 &&
                       ::bind(socket_, reinterpret_cast<const sockaddr*>(&*place), sizeof(*place)) == 0;
    if (bound) return Done{};
    return Problem{placeText(*place), std::string("cannot be listened on: ") + std::strerror(errno),
                   "choose a port number from 1024 to 65535 that no other program uses"};
}

bool UdpSocket::await() const {
    std::array<pollfd, 2> both{{{socket_, POLLIN, 0}, {waker_, POLLIN, 0}}};
    while (::poll(both.data(), both.size(), -1) < 0 && errno == EINTR) {
    }
    return (both[1].revents & POLLIN) == 0;
}

void UdpSocket::wake() const {
    const std::uint64_t one = 1;
    (void)!::write(waker_, &one, sizeof(one));
}

std::optional<UdpSocket::Packet> UdpSocket::receive(std::span<char> into) const {
    Packet packet;
    socklen_t size = sizeof(packet.from);
    const ssize_t got = ::recvfrom(socket_, into.data(), into.size(), MSG_DONTWAIT,
                                   reinterpret_cast<sockaddr*>(&packet.from), &size);
    if (got < 0) return std::nullopt;
    packet.size = static_cast<std::size_t>(got);
    return packet;
}

bool UdpSocket::send(const sockaddr_in& to, std::span<const char> bytes) const {
    return ::sendto(socket_, bytes.data(), bytes.size(), MSG_DONTWAIT | MSG_NOSIGNAL,
                    reinterpret_cast<const sockaddr*>(&to), sizeof(to)) >= 0;
}

struct HostNames::Book {
    struct Entry {
        std::optional<in_addr> address;
        bool asking = false;
        int failures = 0;
        std::chrono::steady_clock::time_point again;
    };
    std::mutex mutex;
    std::map<std::string, Entry> entries;
};

HostNames::HostNames() : book_(std::make_shared<Book>()) {}
HostNames::~HostNames() = default;

std::optional<sockaddr_in> HostNames::find(const std::string& host, int port) {
    if (auto place = placeOf(host, port)) return place;
    const std::lock_guard lock(book_->mutex);
    Book::Entry& entry = book_->entries[host];
    if (entry.address) {
        sockaddr_in place{};
        place.sin_family = AF_INET;
        place.sin_port = htons(static_cast<std::uint16_t>(port));
        place.sin_addr = *entry.address;
        return place;
    }
    const auto now = std::chrono::steady_clock::now();
    if (entry.asking || now < entry.again) return std::nullopt;
    entry.asking = true;
    std::thread([book = book_, host] {
        addrinfo wanted{};
        wanted.ai_family = AF_INET;
        wanted.ai_socktype = SOCK_DGRAM;
        addrinfo* found = nullptr;
        const int failed = ::getaddrinfo(host.c_str(), nullptr, &wanted, &found);
        const std::lock_guard finding(book->mutex);
        Book::Entry& asked = book->entries[host];
        asked.asking = false;
        if (failed == 0 && found != nullptr) {
            asked.address = reinterpret_cast<const sockaddr_in*>(found->ai_addr)->sin_addr;
            asked.failures = 0;
        } else {
            constexpr int mostDoublings = 7;  // two minutes
            asked.failures = std::min(asked.failures + 1, mostDoublings);
            asked.again = std::chrono::steady_clock::now() + std::chrono::seconds(1 << asked.failures);
        }
        if (found != nullptr) ::freeaddrinfo(found);
    }).detach();
    return std::nullopt;
}

std::vector<std::string> HostNames::unknown() const {
    std::vector<std::string> hosts;
    const std::lock_guard lock(book_->mutex);
    for (const auto& [host, entry] : book_->entries) {
        if (!entry.address && entry.failures > 0) hosts.push_back(host);
    }
    return hosts;
}

}  // namespace mellow::io
