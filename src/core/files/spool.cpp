// A block is as large as eight megabytes divided by the number of streams, and full ones are appended to one
// temporary file (tmpfile, ISO C), in the order in which they fill. A stream is the list of its blocks there
// and the one that is not full.
#include "core/files/spool.h"

#include <algorithm>

namespace mellow::files {

namespace {

constexpr std::size_t inMemory = std::size_t{8} << 20;  // bytes, of all streams
constexpr std::size_t smallestBlock = 128;
constexpr std::size_t largestBlock = std::size_t{1} << 20;

}  // namespace

Spool::Spool(std::size_t streams)
    : streams_(streams),
      blockSize_(std::clamp(inMemory / std::max<std::size_t>(streams, 1), smallestBlock, largestBlock)) {}

void Spool::putAway(Stream& stream) {
    if (file_ == nullptr) file_ = {std::tmpfile(), &std::fclose};
    whole_ = whole_ && file_ != nullptr &&
             std::fwrite(stream.block.data(), 1, stream.block.size(), file_.get()) == stream.block.size();
    stream.pieces.push_back({used_, stream.block.size()});
    used_ += stream.block.size();
    stream.block.clear();
}

bool Spool::read(std::size_t stream, const std::function<bool(std::span<const std::uint8_t>)>& out) {
    std::vector<std::uint8_t> bytes;
    for (const Piece& piece : streams_[stream].pieces) {
        bytes.resize(piece.size);
        const bool there = whole_ &&
                           std::fseek(file_.get(), static_cast<long>(piece.offset), SEEK_SET) == 0 &&
                           std::fread(bytes.data(), 1, bytes.size(), file_.get()) == bytes.size();
        if (!there || !out(bytes)) return false;
    }
    return whole_ && out(streams_[stream].block);
}

}  // namespace mellow::files
