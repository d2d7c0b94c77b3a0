// A part is cut from the whole result, so what stands at its beginning is what playing from the start led to.
#include "core/takes/export_take.h"

#include "core/engine/driving/file_run.h"
#include "core/smf/cut.h"
#include "core/smf/read.h"
#include "core/smf/write.h"

namespace mellow {

Result<std::vector<std::uint8_t>> partOf(const smf::File& file, const std::optional<TakeRange>& range) {
    return smf::write(range ? smf::cut(file, range->from, range->to) : file);
}

Result<std::vector<std::uint8_t>> renderedTake(const Ensemble& ensemble, const smf::File& take,
                                               const std::vector<std::string>& trackPorts,
                                               const std::vector<std::string>& instruments,
                                               const std::optional<TakeRange>& range) {
    if (take.format == 2 && take.tracks.size() > 1) {
        // Of sequences that have nothing to do with one another, a take is the first (take.h).
        smf::File first = take;
        first.tracks.resize(1);
        return renderedTake(ensemble, first, trackPorts, instruments, range);
    }
    std::vector<std::uint8_t> bytes;
    const auto played = engine::runFile(ensemble, take, {instruments, std::string(anyPort), trackPorts},
                                        [&bytes](smf::Writer& writer) {
                                            return writer.print([&bytes](midi::Bytes piece) {
                                                bytes.insert(bytes.end(), piece.begin(), piece.end());
                                                return true;
                                            });
                                        });
    if (!played) return played.problem();
    if (!range) return bytes;
    const auto file = smf::read(bytes);
    if (!file) return file.problem();
    return partOf(file->file, range);
}

}  // namespace mellow
