// One thread for all clients, made when there is first something to say; it hands what gathers to the helper,
// one helper at a time, and is never destroyed, since it may be waiting for one.
#include "io/ports/jack_teller.h"

#include <fcntl.h>
#include <jack/metadata.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <condition_variable>
#include <csignal>
#include <deque>
#include <map>
#include <mutex>
#include <thread>
#include <utility>

#include "core/files/helper.h"
#include "io/ports/jack_signs.h"

namespace mellow::io {

namespace {

struct Word {
    std::string server;
    std::string lines;  ///< as the helper reads them
};

struct Teller {
    std::mutex mutex;
    std::condition_variable news;
    std::deque<Word> words;
    bool hasThread = false;
    std::map<jack_client_t*, std::string> servers;
};

Teller& teller() {
    static auto* const all = new Teller;
    return *all;
}

/// Names may hold anything; a line ends where one does.
std::string line(std::string text) {
    std::replace(text.begin(), text.end(), '\n', ' ');
    return text + '\n';
}

/// Hands text to a helper, and waits until that is over.
void runHelper(const std::string& server, const std::string& text) {
    std::array<int, 2> pipe{};
    if (::pipe2(pipe.data(), O_CLOEXEC) != 0) return;
    posix_spawn_file_actions_t files;
    posix_spawn_file_actions_init(&files);
    posix_spawn_file_actions_adddup2(&files, pipe[0], STDIN_FILENO);
    posix_spawnattr_t attributes;
    posix_spawnattr_init(&attributes);
    // It can be ended by whatever ends programs.
    sigset_t none;
    sigemptyset(&none);
    posix_spawnattr_setsigmask(&attributes, &none);
    posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
    std::string path = files::helperPath("mellow-lever-names");
    std::string where = server;
    const std::array<char*, 3> words{path.data(), where.data(), nullptr};
    pid_t helper = 0;
    const bool runs = posix_spawn(&helper, path.c_str(), &files, &attributes, words.data(), environ) == 0;
    posix_spawnattr_destroy(&attributes);
    posix_spawn_file_actions_destroy(&files);
    ::close(pipe[0]);
    std::size_t sent = 0;
    while (runs && sent < text.size()) {
        const ssize_t now = ::write(pipe[1], text.data() + sent, text.size() - sent);
        if (now <= 0) break;
        sent += static_cast<std::size_t>(now);
    }
    ::close(pipe[1]);
    if (runs) ::waitpid(helper, nullptr, 0);
}

void work() {
    // A helper that is gone is no reason to be ended.
    sigset_t broken;
    sigemptyset(&broken);
    sigaddset(&broken, SIGPIPE);
    pthread_sigmask(SIG_BLOCK, &broken, nullptr);
    constexpr std::chrono::milliseconds untilAllIsThere(20);
    Teller& all = teller();
    std::unique_lock lock(all.mutex);
    while (true) {
        all.news.wait(lock, [&all] { return !all.words.empty(); });
        lock.unlock();
        std::this_thread::sleep_for(untilAllIsThere);
        lock.lock();
        const std::string server = all.words.front().server;
        std::string text;
        while (!all.words.empty() && all.words.front().server == server) {
            text += all.words.front().lines;
            all.words.pop_front();
        }
        lock.unlock();
        runHelper(server, text);
        lock.lock();
    }
}

void add(jack_client_t* client, const std::string& name, jack_uuid_t subject, const std::string& key,
         const std::string& value, const std::string& type) {
    Teller& all = teller();
    const std::lock_guard lock(all.mutex);
    // Of a store that never answers nothing piles up.
    constexpr std::size_t most = 4096;
    if (all.words.size() >= most) return;
    all.words.push_back({all.servers[client],
                         line(name) + line(std::to_string(subject)) + line(key) + line(value) + line(type)});
    if (!std::exchange(all.hasThread, true)) std::thread(work).detach();
    all.news.notify_one();
}

}  // namespace

void introduce(jack_client_t* client, const std::string& server) {
    {
        const std::lock_guard lock(teller().mutex);
        teller().servers[client] = server;
    }
    add(client, jack_get_client_name(client), 0, JACK_METADATA_ICON_NAME, iconName, "text/plain");
}

void tell(jack_client_t* client, jack_uuid_t subject, const char* key, const std::string& value,
          const char* type) {
    add(client, {}, subject, key, value, type);
}

}  // namespace mellow::io
