// A fuzz target without a fuzzer: the seeds, and so many small damages to them, the same on every run. It
// finds less than libFuzzer, and runs with the tests, with any compiler. usage: short-fuzz-NAME SEED-FOLDER
// ROUNDS
#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

using Bytes = std::vector<std::uint8_t>;

class Damage {
 public:
    Bytes done(Bytes bytes, const std::vector<Bytes>& seeds) {
        for (int i = 1 + below(6); i > 0; --i) {
            const std::size_t at =
                bytes.empty() ? 0 : static_cast<std::size_t>(below(static_cast<int>(bytes.size())));
            const auto place = bytes.begin() + static_cast<std::ptrdiff_t>(at);
            switch (below(5)) {
                case 0:
                    if (!bytes.empty()) bytes[at] = static_cast<std::uint8_t>(below(256));
                    break;
                case 1:
                    bytes.insert(place, static_cast<std::uint8_t>(below(256)));
                    break;
                case 2:
                    bytes.erase(place, place + std::min<std::ptrdiff_t>(below(16), bytes.end() - place));
                    break;
                case 3: {
                    const Bytes& other =
                        seeds[static_cast<std::size_t>(below(static_cast<int>(seeds.size())))];
                    if (other.empty()) break;
                    const auto from = other.begin() + below(static_cast<int>(other.size()));
                    bytes.insert(place, from, from + std::min<std::ptrdiff_t>(below(64), other.end() - from));
                    break;
                }
                default:
                    if (!bytes.empty()) bytes[at] = static_cast<std::uint8_t>(bytes[at] ^ 1U << below(8));
                    break;
            }
        }
        return bytes;
    }
    int below(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }

 private:
    std::mt19937 random_{20211};
};

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3) return 2;
    std::vector<Bytes> seeds;
    std::vector<std::filesystem::path> names;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1])) names.push_back(entry.path());
    std::sort(names.begin(), names.end());
    for (const auto& name : names) {
        std::ifstream file(name, std::ios::binary);
        seeds.emplace_back(std::istreambuf_iterator<char>(file), std::istreambuf_iterator<char>());
        LLVMFuzzerTestOneInput(seeds.back().data(), seeds.back().size());
    }
    if (seeds.empty()) return 2;
    Damage damage;
    for (int round = std::atoi(argv[2]); round > 0; --round) {
        const Bytes bytes =
            damage.done(seeds[static_cast<std::size_t>(damage.below(static_cast<int>(seeds.size())))], seeds);
        LLVMFuzzerTestOneInput(bytes.data(), bytes.size());
    }
    return 0;
}
