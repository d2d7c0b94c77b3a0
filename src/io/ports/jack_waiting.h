// Waiting for what a client's callback is about to do, which is a period away as a rule.
#pragma once

#include <chrono>
#include <thread>

#include "io/ports/jack_client.h"

namespace mellow::io {

/// Waits until something holds, while the server calls the client, and for so long at most.
template<class Condition>
void awaitCallback(const JackClient& client, std::chrono::milliseconds longest, const Condition& holds) {
    const auto limit = std::chrono::steady_clock::now() + longest;
    while (client.isActive() && client.alive() && !holds() && std::chrono::steady_clock::now() < limit)
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
}

}  // namespace mellow::io
