// The stream is made and ended with its loop locked, as PipeWire wants it; its callback alone renders.
#include "io/sound/pipewire_output.h"

#include <pipewire/pipewire.h>
#include <spa/param/audio/format-utils.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <thread>
#include <utility>

namespace mellow::io {

namespace {

constexpr const char* name = "Mellow Lever rack";

void initOnce() {
    static const bool done = (pw_init(nullptr, nullptr), true);
    (void)done;
}

}  // namespace

struct PipeWireOutput::Stream {
    SoundMaker* maker = nullptr;
    pw_thread_loop* loop = nullptr;
    pw_stream* stream = nullptr;
    std::atomic<pw_stream_state> state{PW_STREAM_STATE_CONNECTING};
    std::atomic<std::int64_t> stoppedAt{0};  ///< ns of the steady clock; 0: it streams, or never did

    ~Stream() {
        if (loop != nullptr) pw_thread_loop_stop(loop);
        if (stream != nullptr) pw_stream_destroy(stream);
        if (loop != nullptr) pw_thread_loop_destroy(loop);
    }

    static void process(void* self) {
        auto& made = *static_cast<Stream*>(self);
        pw_buffer* const taken = pw_stream_dequeue_buffer(made.stream);
        if (taken == nullptr) return;
        spa_buffer& buffer = *taken->buffer;
        if (buffer.n_datas >= 2 && buffer.datas[0].data != nullptr && buffer.datas[1].data != nullptr) {
            std::uint32_t frames = std::min(buffer.datas[0].maxsize, buffer.datas[1].maxsize) / sizeof(float);
            if (taken->requested > 0)
                frames = static_cast<std::uint32_t>(std::min<std::uint64_t>(frames, taken->requested));
            made.maker->render(static_cast<float*>(buffer.datas[0].data),
                               static_cast<float*>(buffer.datas[1].data), static_cast<int>(frames));
            for (std::size_t side = 0; side < 2; ++side) {
                buffer.datas[side].chunk->offset = 0;
                buffer.datas[side].chunk->stride = sizeof(float);
                buffer.datas[side].chunk->size = frames * static_cast<std::uint32_t>(sizeof(float));
            }
        }
        pw_stream_queue_buffer(made.stream, taken);
    }

    static std::int64_t clock() { return std::chrono::steady_clock::now().time_since_epoch().count(); }
    static void stateChanged(void* self, pw_stream_state before, pw_stream_state now, const char*) {
        auto& made = *static_cast<Stream*>(self);
        if (before == PW_STREAM_STATE_STREAMING) made.stoppedAt.store(clock(), std::memory_order_relaxed);
        if (now == PW_STREAM_STATE_STREAMING) made.stoppedAt.store(0, std::memory_order_relaxed);
        made.state.store(now, std::memory_order_release);
    }
    /// Frames were asked for, and no longer are: longer than being led elsewhere takes.
    [[nodiscard]] bool hasStopped() const {
        constexpr std::int64_t longest = std::chrono::nanoseconds(std::chrono::seconds(2)).count();
        const std::int64_t since = stoppedAt.load(std::memory_order_relaxed);
        return since != 0 && clock() - since > longest;
    }
    /// Neither the server nor the place where sound goes is missing.
    [[nodiscard]] bool isWell() const {
        const pw_stream_state now = state.load(std::memory_order_acquire);
        return now != PW_STREAM_STATE_ERROR && now != PW_STREAM_STATE_UNCONNECTED;
    }
    /// Waits until frames are asked for, or nobody ever will.
    void awaitAnswer() const {
        constexpr std::chrono::milliseconds longest(500);
        const auto limit = std::chrono::steady_clock::now() + longest;
        while (isWell() && state.load(std::memory_order_acquire) != PW_STREAM_STATE_STREAMING &&
               std::chrono::steady_clock::now() < limit)
            std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }

    static const pw_stream_events& events() {
        static const pw_stream_events all = [] {
            pw_stream_events made{};
            made.version = PW_VERSION_STREAM_EVENTS;
            made.state_changed = stateChanged;
            made.process = process;
            return made;
        }();
        return all;
    }

    bool connect(int rate) {
        pw_properties* const properties = pw_properties_new(
            PW_KEY_MEDIA_TYPE, "Audio", PW_KEY_MEDIA_CATEGORY, "Playback", PW_KEY_MEDIA_ROLE, "Music",
            PW_KEY_APP_NAME, "Mellow Lever", PW_KEY_APP_ICON_NAME, "mellow-lever", PW_KEY_NODE_NAME, name,
            PW_KEY_NODE_DESCRIPTION, name, PW_KEY_NODE_LATENCY, "256/48000", nullptr);
        stream = pw_stream_new_simple(pw_thread_loop_get_loop(loop), name, properties, &events(), this);
        if (stream == nullptr) return false;
        std::array<std::uint8_t, 1024> room{};
        spa_pod_builder builder{};
        spa_pod_builder_init(&builder, room.data(), room.size());
        spa_audio_info_raw format{};
        format.format = SPA_AUDIO_FORMAT_F32P;
        format.rate = static_cast<std::uint32_t>(rate);
        format.channels = 2;
        format.position[0] = SPA_AUDIO_CHANNEL_FL;
        format.position[1] = SPA_AUDIO_CHANNEL_FR;
        std::array<const spa_pod*, 1> parameters{
            spa_format_audio_raw_build(&builder, SPA_PARAM_EnumFormat, &format)};
        constexpr auto flags = static_cast<pw_stream_flags>(
            PW_STREAM_FLAG_AUTOCONNECT | PW_STREAM_FLAG_MAP_BUFFERS | PW_STREAM_FLAG_RT_PROCESS);
        return pw_stream_connect(stream, PW_DIRECTION_OUTPUT, PW_ID_ANY, flags, parameters.data(), 1) >= 0;
    }
};

PipeWireOutput::PipeWireOutput(std::unique_ptr<Stream> stream) : stream_(std::move(stream)) {}
PipeWireOutput::~PipeWireOutput() = default;

bool PipeWireOutput::alive() const {
    return stream_->isWell() && !stream_->hasStopped();
}

Result<std::unique_ptr<PipeWireOutput>> PipeWireOutput::open(SoundMaker& maker, int rate) {
    const Problem problem{"PipeWire", "there is no server, or nowhere for sound to go",
                          "start PipeWire, or choose another system"};
    initOnce();
    auto stream = std::make_unique<Stream>();
    stream->maker = &maker;
    stream->loop = pw_thread_loop_new(name, nullptr);
    if (stream->loop == nullptr || !stream->connect(rate) || pw_thread_loop_start(stream->loop) < 0)
        return problem;
    stream->awaitAnswer();
    if (!stream->isWell()) return problem;
    return std::unique_ptr<PipeWireOutput>(new PipeWireOutput(std::move(stream)));
}

}  // namespace mellow::io
