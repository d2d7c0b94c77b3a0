// A key is all numbers that go into a fold, byte for byte, in one string, which is hashed once; comparing
// keys is then comparing bytes. The folding itself is plain: positions are taken through one step after the
// other, all of them together, and a step that is not a function of position alone ends it.
#include "core/engine/compiling/tabulate.h"

#include <algorithm>
#include <cmath>
#include <type_traits>
#include <variant>

namespace mellow::engine {

namespace {

/// Adds the bytes of numbers to a key.
template<class... Numbers>
void add(std::string& key, const Numbers&... numbers) {
    static_assert(((std::is_arithmetic_v<Numbers> || std::is_enum_v<Numbers>)&&...));
    (key.append(reinterpret_cast<const char*>(&numbers), sizeof(numbers)), ...);
}

void addText(std::string& key, const std::string& text) {
    add(key, text.size());
    key += text;
}

struct AddField {
    std::string& key;
    void operator()(double value) const { add(key, value); }
    void operator()(int value) const { add(key, value); }
    void operator()(const std::string& text) const { addText(key, text); }
    void operator()(const std::vector<Point>& points) const {
        add(key, points.size());
        for (const Point& point : points) add(key, point.x, point.y);
    }
    void operator()(const std::vector<std::string>&) const {}  // Names change no number.
};

void add(std::string& key, std::span<const Step> steps) {
    add(key, steps.size());
    for (const Step& step : steps) {
        add(key, reinterpret_cast<std::uintptr_t>(step.kind), step.values.size());
        for (const FieldValue& value : step.values) std::visit(AddField{key}, value);
    }
}

void add(std::string& key, const PlanBranch& branch) {
    const BranchBody& body = *branch.body;
    add(key, branch.on, body.kind, body.number, body.scale, body.max, body.choices, body.fromRaw, body.toRaw,
        body.restRaw, body.window != nullptr);
    if (body.window != nullptr) add(key, body.window->low, body.window->high, body.window->outside);
    add(key, std::span<const Step>(body.steps));
}

bool isFoldable(const PlanBranch& branch) {
    return branch.tieLine == none && !branch.hand && branch.mix == none && branch.kind != MessageKind::osc;
}

Payload payloadAt(const BranchBody& body, double p) {
    return payloadOf(body, valueWithinReach(body, reached(body, p)));
}

/// Takes positions through a step, if the step is a function of position alone wherever they are.
bool fold(const Step& step, std::span<double> positions) {
    if (step.kind->shape == nullptr) return false;
    if (step.kind->remembers()) {
        const auto isNone = [&step](double p) { return std::isnan(step.kind->shape(step, p)); };
        if (std::any_of(positions.begin(), positions.end(), isNone)) return false;
    }
    shapePositions(step, positions);
    return true;
}

}  // namespace

std::shared_ptr<const Trunk> Tabulator::trunk(const Ear& ear, std::span<const Step> steps) {
    const int coarse = isPair(ear.kind) ? midi::max7 + 1 : 0;
    key_.clear();
    add(key_, ear.scale, ear.max, coarse);
    add(key_, steps);
    const auto found = trunks_.find(key_);
    if (found != trunks_.end()) return found->second;
    const int count = ear.max + 1 + coarse;
    if (!spend(static_cast<std::size_t>(count))) return nullptr;
    Trunk made;
    made.places.reserve(static_cast<std::size_t>(count));
    for (int raw = 0; raw <= ear.max; ++raw) made.places.push_back(decode(ear.scale, raw, ear.max));
    for (int raw = 0; raw < coarse; ++raw) made.places.push_back(decode(ear.scale, raw, midi::max7));
    while (made.firstLive < steps.size() && fold(steps[made.firstLive], made.places)) ++made.firstLive;
    return trunks_[key_] = std::make_shared<const Trunk>(std::move(made));
}

std::shared_ptr<const Table> Tabulator::table(const Trunk& trunk, std::span<const PlanBranch> branches) {
    if (branches.empty() || !std::all_of(branches.begin(), branches.end(), isFoldable)) return nullptr;
    key_.clear();
    add(key_, reinterpret_cast<std::uintptr_t>(&trunk));
    for (const PlanBranch& branch : branches) add(key_, branch);
    const auto found = tables_.find(key_);
    if (found != tables_.end()) return found->second;
    if (!spend(trunk.places.size() * branches.size())) return nullptr;
    std::shared_ptr<const Table>& entry = tables_[key_];
    // By raw value, then branch, so that one event reads one short run of them.
    Table made;
    made.payloads.assign(trunk.places.size() * branches.size(), noPayload);
    for (std::size_t b = 0; b < branches.size(); ++b) {
        if (!fill(branches[b], trunk, made.payloads.data() + b, branches.size())) return nullptr;
    }
    made.silent = std::find(made.payloads.begin(), made.payloads.end(), noPayload) != made.payloads.end();
    return entry = std::make_shared<const Table>(std::move(made));
}

bool Tabulator::spend(std::size_t values) {
    if (values > left_) return false;
    left_ -= values;
    return true;
}

/// False when some step of the branch is not a function of position alone; also of one that is off, since
/// what its steps remember is there when it is on again.
bool Tabulator::fill(const PlanBranch& branch, const Trunk& trunk, Payload* column, std::size_t stride) {
    const BranchBody& body = *branch.body;
    if (!branch.on && body.steps.empty()) return true;
    const auto& places = trunk.places;
    if (body.window == nullptr && body.steps.empty()) {
        for (std::size_t i = 0; i < places.size(); ++i) column[i * stride] = payloadAt(body, places[i]);
        return true;
    }
    inside_.clear();
    insideAt_.clear();
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (const auto p = throughWindow(body, places[i])) {
            inside_.push_back(*p);
            insideAt_.push_back(i);
        } else if (branch.on && body.window->outside == Outside::rest) {
            column[i * stride] = payloadOf(body, restValue(body));
        }
    }
    const auto foldsInto = [this](const Step& step) { return fold(step, inside_); };
    if (!std::all_of(body.steps.begin(), body.steps.end(), foldsInto)) return false;
    if (!branch.on) return true;
    for (std::size_t i = 0; i < inside_.size(); ++i)
        column[insideAt_[i] * stride] = payloadAt(body, inside_[i]);
    return true;
}

}  // namespace mellow::engine
