// Bytes that come in many streams at once and are wanted one stream after the other.
//
// A MIDI file played through an ensemble gives every instrument's track at the same time, and a file has its
// tracks one behind the other; a long file through many instruments is more than memory should hold. So each
// stream fills a block, and full blocks wait on disk, in a file without a name that is gone when the program
// is. Short streams never get there.
#pragma once

#include <cstdint>
#include <cstdio>
#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace mellow::files {

class Spool {
 public:
    /// streams: how many there will be.
    explicit Spool(std::size_t streams);

    void append(std::size_t stream, std::span<const std::uint8_t> bytes) {
        std::vector<std::uint8_t>& block = streams_[stream].block;
        block.insert(block.end(), bytes.begin(), bytes.end());
        streams_[stream].size += bytes.size();
        if (block.size() >= blockSize_) putAway(streams_[stream]);
    }
    [[nodiscard]] std::uint64_t sizeOf(std::size_t stream) const { return streams_[stream].size; }
    /// False when the disk took no more; what is there is not all then.
    [[nodiscard]] bool isWhole() const { return whole_; }
    /// Hands out a stream from its start, piece by piece, until out() returns false. False then, and where
    /// the disk gave back less than it took.
    bool read(std::size_t stream, const std::function<bool(std::span<const std::uint8_t>)>& out);

 private:
    struct Piece {
        std::uint64_t offset = 0;  ///< in the file
        std::uint64_t size = 0;
    };
    struct Stream {
        std::vector<std::uint8_t> block;
        std::vector<Piece> pieces;
        std::uint64_t size = 0;
    };
    void putAway(Stream& stream);

    std::vector<Stream> streams_;
    std::size_t blockSize_;
    std::uint64_t used_ = 0;  ///< of the file
    bool whole_ = true;
    std::unique_ptr<std::FILE, int (*)(std::FILE*)> file_{nullptr, nullptr};
};

}  // namespace mellow::files
