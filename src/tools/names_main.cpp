// mellow-lever-names: tells JACK's store of metadata what is to be said of a client and its ports, and is
// gone. A program of its own, since the store may be locked for ever by one that was killed in it, and JACK's
// library must not open a client beside others whose server is about to go.
//
// usage: mellow-lever-names SERVER|"" <WORDS; a word is five lines: client (of whom it is said where the
// subject is 0), subject, key, value (empty: nothing any more), type
#include <jack/jack.h>
#include <jack/metadata.h>
#include <jack/uuid.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <cstdlib>
#include <iostream>
#include <string>
#include <thread>
#include <vector>

namespace {

using Word = std::array<std::string, 5>;

jack_uuid_t subjectOf(jack_client_t* by, const Word& word) {
    if (word[1] != "0") return std::strtoull(word[1].c_str(), nullptr, 10);
    jack_uuid_t uuid = 0;
    if (char* const words = jack_get_uuid_for_client_name(by, word[0].c_str())) {
        jack_uuid_parse(words, &uuid);
        jack_free(words);
    }
    return uuid;
}

/// False: it is not taken yet, or is of nobody any more.
bool say(jack_client_t* by, const Word& word) {
    const jack_uuid_t subject = subjectOf(by, word);
    const auto& [client, number, key, value, type] = word;
    if (subject == 0) return false;
    if (value.empty()) return jack_remove_property(by, subject, key.c_str()) >= 0;
    if (jack_set_property(by, subject, key.c_str(), value.c_str(), type.c_str()) != 0) return false;
    char* said = nullptr;
    char* saidType = nullptr;
    const bool found = jack_get_property(subject, key.c_str(), &said, &saidType) == 0;
    const bool same = found && value == said;
    if (found) jack_free(said);
    if (found) jack_free(saidType);
    return same;
}

/// PipeWire in JACK's place has its store a moment after the client, and is sent what is said a moment later;
/// a client that is gone by then has said nothing.
void sayUntilTaken(jack_client_t* by, std::vector<Word> words) {
    constexpr std::chrono::milliseconds longest(1000);
    constexpr std::chrono::milliseconds aMoment(20);
    constexpr std::chrono::milliseconds untilSent(100);
    const auto limit = std::chrono::steady_clock::now() + longest;
    while (!words.empty() && std::chrono::steady_clock::now() < limit) {
        std::erase_if(words, [by](const Word& word) { return say(by, word); });
        if (!words.empty()) std::this_thread::sleep_for(aMoment);
    }
    std::this_thread::sleep_for(untilSent);
}

}  // namespace

int main(int argc, char** argv) {
    // Of a store that is locked, or a server that hangs, nobody hears again.
    constexpr unsigned longest = 5;  // s
    alarm(longest);
    std::vector<Word> words;
    for (Word word; std::getline(std::cin, word[0]);) {
        for (std::size_t i = 1; i < word.size(); ++i) std::getline(std::cin, word[i]);
        words.push_back(word);
    }
    const std::string server = argc > 1 ? argv[1] : "";
    const auto options =
        static_cast<jack_options_t>(server.empty() ? JackNoStartServer : JackNoStartServer | JackServerName);
    jack_set_error_function([](const char*) {});
    jack_set_info_function([](const char*) {});
    jack_client_t* by = jack_client_open("Mellow Lever names", options, nullptr, server.c_str());
    if (by == nullptr) return 1;
    sayUntilTaken(by, std::move(words));
    jack_client_close(by);
    return 0;
}
