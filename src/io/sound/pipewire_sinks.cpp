// The server's registry names every object once as it comes and once as it goes, on a thread of PipeWire's.
#include "io/sound/pipewire_sinks.h"

#include <pipewire/pipewire.h>

#include <atomic>
#include <set>
#include <string_view>
#include <utility>

namespace mellow::io {

namespace {

bool isSink(const char* type, const spa_dict* properties) {
    if (type == nullptr || properties == nullptr || std::string_view(type) != PW_TYPE_INTERFACE_Node)
        return false;
    const char* kind = spa_dict_lookup(properties, PW_KEY_MEDIA_CLASS);
    return kind != nullptr &&
           (std::string_view(kind) == "Audio/Sink" || std::string_view(kind) == "Audio/Duplex");
}

}  // namespace

struct PipeWireSinks::Watch {
    pw_thread_loop* loop = nullptr;
    pw_context* context = nullptr;
    pw_core* core = nullptr;
    pw_registry* registry = nullptr;
    spa_hook comings{};
    spa_hook troubles{};
    std::set<std::uint32_t> sinks;  ///< on the loop's thread
    std::atomic<bool> any{false};

    ~Watch() {
        if (loop != nullptr) pw_thread_loop_stop(loop);
        if (registry != nullptr) pw_proxy_destroy(reinterpret_cast<pw_proxy*>(registry));
        if (core != nullptr) pw_core_disconnect(core);
        if (context != nullptr) pw_context_destroy(context);
        if (loop != nullptr) pw_thread_loop_destroy(loop);
    }

    static void came(void* self, std::uint32_t id, std::uint32_t, const char* type, std::uint32_t,
                     const spa_dict* properties) {
        auto& made = *static_cast<Watch*>(self);
        if (isSink(type, properties)) made.sinks.insert(id);
        made.tell();
    }
    static void went(void* self, std::uint32_t id) {
        auto& made = *static_cast<Watch*>(self);
        made.sinks.erase(id);
        made.tell();
    }
    /// The server is gone, and its sinks with it.
    static void failed(void* self, std::uint32_t id, int, int, const char*) {
        auto& made = *static_cast<Watch*>(self);
        if (id != PW_ID_CORE) return;
        made.sinks.clear();
        made.tell();
    }
    void tell() { any.store(!sinks.empty(), std::memory_order_release); }

    static const pw_registry_events& events() {
        static const pw_registry_events all = [] {
            pw_registry_events made{};
            made.version = PW_VERSION_REGISTRY_EVENTS;
            made.global = came;
            made.global_remove = went;
            return made;
        }();
        return all;
    }

    static const pw_core_events& coreEvents() {
        static const pw_core_events all = [] {
            pw_core_events made{};
            made.version = PW_VERSION_CORE_EVENTS;
            made.error = failed;
            return made;
        }();
        return all;
    }

    bool connect() {
        loop = pw_thread_loop_new("Mellow Lever sinks", nullptr);
        if (loop == nullptr) return false;
        context = pw_context_new(pw_thread_loop_get_loop(loop), nullptr, 0);
        if (context == nullptr) return false;
        core = pw_context_connect(context, nullptr, 0);
        if (core == nullptr) return false;
        pw_core_add_listener(core, &troubles, &coreEvents(), this);
        registry = pw_core_get_registry(core, PW_VERSION_REGISTRY, 0);
        if (registry == nullptr) return false;
        pw_registry_add_listener(registry, &comings, &events(), this);
        return pw_thread_loop_start(loop) >= 0;
    }
};

PipeWireSinks::PipeWireSinks(std::unique_ptr<Watch> watch) : watch_(std::move(watch)) {}
PipeWireSinks::~PipeWireSinks() = default;

bool PipeWireSinks::isAny() const {
    return watch_->any.load(std::memory_order_acquire);
}

std::unique_ptr<PipeWireSinks> PipeWireSinks::watch() {
    pw_init(nullptr, nullptr);
    auto watch = std::make_unique<Watch>();
    if (!watch->connect()) return nullptr;
    return std::unique_ptr<PipeWireSinks>(new PipeWireSinks(std::move(watch)));
}

}  // namespace mellow::io
