// What an edit leaves alone keeps what was told of it, so that it is not told again.
#include "core/desk/scene.h"

#include <algorithm>
#include <map>

#include "core/model/edit_hands.h"
#include "core/model/resolve.h"

namespace mellow::desk {

namespace {

SceneElement sceneOf(const DeskElement& element, const Scene& before) {
    SceneElement made;
    made.element = element;
    made.answers.resize(element.names.size());
    for (std::size_t i = 0; i < axesOf(element); ++i) {
        const auto axis = static_cast<Axis>(i);
        const std::string address = addressOf(element, axis);
        const SceneAxis* known = before.axis(address);
        made.axes.push_back(known != nullptr ? *known : SceneAxis{address, restOf(element, axis), {}});
    }
    return made;
}

/// The name of an entry of the hand, as the document has it.
std::string entryName(const Ensemble& ensemble, const std::string& id) {
    if (const Instrument* instrument = findById(ensemble.instruments, id)) return nameOf(*instrument);
    const Section* section = findById(ensemble.sections, id);
    return section == nullptr ? id : nameOf(*section);
}

/// Writes a new value over an old one; true where it is another.
template<class Value>
bool becomes(Value& old, Value now) {
    if (old == now) return false;
    old = std::move(now);
    return true;
}

}  // namespace

void Scene::follow(const Ensemble& ensemble) {
    std::vector<ScenePage> pages;
    for (const DeskPage& page : ensemble.desk.pages) {
        ScenePage& made = pages.emplace_back();
        made.id = page.id;
        made.name = nameOf(page);
        made.columns = page.columns;
        made.rows = page.rows;
        for (const DeskElement& element : page.elements) made.elements.push_back(sceneOf(element, *this));
    }
    std::vector<SceneHand> hand;
    for (const std::string& id : handEntries(ensemble)) {
        const auto known =
            std::find_if(hand_.begin(), hand_.end(), [&id](const SceneHand& each) { return each.id == id; });
        hand.push_back({id, entryName(ensemble, id), known != hand_.end() && known->inHand});
    }
    pages_ = std::move(pages);
    hand_ = std::move(hand);
    targets_ = elementTargets(ensemble);
    ensemble_ = ensemble;
}

void Scene::update(SceneElement& element, const Stands& stands, std::vector<SceneChange>& changes) const {
    const auto its = targets_.find(element.element.id);
    for (std::size_t i = 0; i < element.axes.size(); ++i) {
        SceneAxis& axis = element.axes[i];
        const auto which = static_cast<Axis>(i);
        const double position = stands.moved(axis.address).value_or(restOf(element.element, which));
        if (becomes(axis.position, position)) changes.emplace_back(AxisMoved{axis.address, position});
        const Readout reads = its == targets_.end() ? Readout() : readoutOf(its->second, which, stands);
        if (becomes(axis.reads, reads)) changes.emplace_back(AxisReads{axis.address, reads});
    }
    if (element.answers.empty()) return;
    std::vector<Answer> answers = answersTo(ensemble_, element.element, stands);
    if (becomes(element.answers, answers))
        changes.emplace_back(TilesAnswer{"/" + element.element.id, std::move(answers)});
}

std::vector<SceneChange> Scene::update(const Stands& stands) {
    std::vector<SceneChange> changes;
    for (ScenePage& page : pages_) {
        for (SceneElement& element : page.elements) update(element, stands, changes);
    }
    for (SceneHand& entry : hand_) {
        const auto all = instrumentsOf(ensemble_, entry.id);
        const bool held = !all.empty() && std::all_of(all.begin(), all.end(), [&](const Instrument* each) {
            return stands.inHand(each->id);
        });
        if (becomes(entry.inHand, held)) changes.emplace_back(HandChanged{entry.id, held});
    }
    return changes;
}

const SceneAxis* Scene::axis(std::string_view address) const {
    for (const ScenePage& page : pages_) {
        for (const SceneElement& element : page.elements) {
            for (const SceneAxis& axis : element.axes) {
                if (axis.address == address) return &axis;
            }
        }
    }
    return nullptr;
}

std::vector<SceneChange> Scene::whole() const {
    std::vector<SceneChange> all;
    for (const ScenePage& page : pages_) {
        for (const SceneElement& element : page.elements) {
            for (const SceneAxis& axis : element.axes) {
                all.emplace_back(AxisMoved{axis.address, axis.position});
                all.emplace_back(AxisReads{axis.address, axis.reads});
            }
            if (!element.answers.empty())
                all.emplace_back(TilesAnswer{"/" + element.element.id, element.answers});
        }
    }
    for (const SceneHand& entry : hand_) all.emplace_back(HandChanged{entry.id, entry.inHand});
    return all;
}

}  // namespace mellow::desk
