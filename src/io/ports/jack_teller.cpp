// One thread for all clients, made when there is first something to say; like what it uses, it is never
// destroyed, since it may be waiting for ever.
#include "io/ports/jack_teller.h"

#include <jack/metadata.h>
#include <jack/uuid.h>

#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>
#include <thread>
#include <utility>

#include "io/ports/jack_library.h"
#include "io/ports/jack_signs.h"

namespace mellow::io {

namespace {

struct Word {
    std::string server;
    std::string client;  ///< of whom it is said where subject is 0
    jack_uuid_t subject = 0;
    std::string key;
    std::string value;
    std::string type;
};

struct Teller {
    std::mutex mutex;
    std::condition_variable news, said;
    std::deque<Word> words;
    bool isSaying = false;
    bool hasThread = false;
    std::map<jack_client_t*, std::string> servers;
};

Teller& teller() {
    static auto* const all = new Teller;
    return *all;
}

jack_uuid_t clientUuid(jack_client_t* by, const std::string& name) {
    jack_uuid_t uuid = 0;
    if (char* const words = jack_get_uuid_for_client_name(by, name.c_str())) {
        jack_uuid_parse(words, &uuid);
        jack_free(words);
    }
    return uuid;
}

/// False: it is not taken yet, or is of nobody any more.
bool say(jack_client_t* by, const Word& word) {
    const jack_uuid_t subject = word.subject != 0 ? word.subject : clientUuid(by, word.client);
    if (subject == 0) return false;
    if (word.value.empty()) return jack_remove_property(by, subject, word.key.c_str()) >= 0;
    if (jack_set_property(by, subject, word.key.c_str(), word.value.c_str(), word.type.c_str()) != 0)
        return false;
    char* value = nullptr;
    char* type = nullptr;
    const bool found = jack_get_property(subject, word.key.c_str(), &value, &type) == 0;
    const bool same = found && word.value == value;
    if (found) jack_free(value);
    if (found) jack_free(type);
    return same;
}

/// PipeWire in JACK's place has its store a moment after the client, and is sent what is said a moment later;
/// a client that is gone by then has said nothing.
void sayUntilTaken(jack_client_t* by, std::deque<Word> words) {
    constexpr std::chrono::milliseconds longest(1000);
    constexpr std::chrono::milliseconds aMoment(20);
    constexpr std::chrono::milliseconds untilSent(100);
    const auto limit = std::chrono::steady_clock::now() + longest;
    while (std::chrono::steady_clock::now() < limit) {
        std::erase_if(words, [by](const Word& word) { return say(by, word); });
        if (words.empty()) break;
        std::this_thread::sleep_for(aMoment);
    }
    std::this_thread::sleep_for(untilSent);
}

/// All that is for one server, by a client that is there only for it. Whoever opens another meanwhile waits
/// until it is gone (jack_library.h).
void sayAll(const std::deque<Word>& words) {
    const std::string& server = words.front().server;
    const auto options =
        static_cast<jack_options_t>(server.empty() ? JackNoStartServer : JackNoStartServer | JackServerName);
    awaitLeavingJack();
    beginToLeaveJack();
    if (jack_client_t* by = jack_client_open("Mellow Lever names", options, nullptr, server.c_str())) {
        sayUntilTaken(by, words);
        jack_client_close(by);
    }
    haveLeftJack();
}

void work() {
    Teller& all = teller();
    std::unique_lock lock(all.mutex);
    while (true) {
        all.news.wait(lock, [&all] { return !all.words.empty(); });
        std::deque<Word> words;
        const std::string server = all.words.front().server;
        while (!all.words.empty() && all.words.front().server == server) {
            words.push_back(std::move(all.words.front()));
            all.words.pop_front();
        }
        all.isSaying = true;
        lock.unlock();
        sayAll(words);
        lock.lock();
        all.isSaying = false;
        all.said.notify_all();
    }
}

void add(Word word) {
    Teller& all = teller();
    const std::lock_guard lock(all.mutex);
    // Of a store that never answers nothing piles up.
    constexpr std::size_t most = 4096;
    if (all.words.size() >= most) return;
    all.words.push_back(std::move(word));
    if (!std::exchange(all.hasThread, true)) std::thread(work).detach();
    all.news.notify_one();
}

std::string serverOf(jack_client_t* client) {
    Teller& all = teller();
    const std::lock_guard lock(all.mutex);
    const auto found = all.servers.find(client);
    return found == all.servers.end() ? std::string() : found->second;
}

}  // namespace

void introduce(jack_client_t* client, const std::string& server) {
    {
        const std::lock_guard lock(teller().mutex);
        teller().servers[client] = server;
    }
    add({server, jack_get_client_name(client), 0, JACK_METADATA_ICON_NAME, iconName, "text/plain"});
}

void tell(jack_client_t* client, jack_uuid_t subject, const char* key, const std::string& value,
          const char* type) {
    add({serverOf(client), {}, subject, key, value, type});
}

void awaitTold(std::chrono::milliseconds longest) {
    Teller& all = teller();
    std::unique_lock lock(all.mutex);
    all.said.wait_for(lock, longest, [&all] { return all.words.empty() && !all.isSaying; });
}

}  // namespace mellow::io
