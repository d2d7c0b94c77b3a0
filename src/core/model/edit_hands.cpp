#include "core/model/edit_hands.h"

#include <algorithm>

#include "core/model/edit.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow {

namespace {

template<class Change>
void forEachHandLevel(Ensemble& ensemble, Change&& change) {
    for (Chain& chain : ensemble.sharedChains) {
        for (Branch& branch : chain.branches) {
            if (branch.target != handTarget) continue;
            for (Level* level : {&branch.low, &branch.high}) {
                if (auto* entry = std::get_if<std::string>(level)) change(*entry);
            }
        }
    }
}

/// Sections and instruments are named in the same places, so no id is both.
bool isTaken(const Ensemble& ensemble, std::string_view id) {
    return findById(ensemble.instruments, id) != nullptr || findById(ensemble.sections, id) != nullptr;
}

std::string freeSectionId(const Ensemble& ensemble, std::string_view name) {
    const std::string base = idFrom(name);
    std::string id = base;
    for (int number = 2; isTaken(ensemble, id); ++number) id = base + "-" + std::to_string(number);
    return id;
}

}  // namespace

std::vector<std::string> handEntries(const Ensemble& ensemble) {
    if (!ensemble.handOrder.empty()) return ensemble.handOrder;
    std::vector<std::string> entries;
    for (const Section& section : ensemble.sections) entries.push_back(section.id);
    for (const Instrument& instrument : ensemble.instruments) entries.push_back(instrument.id);
    return entries;
}

void putInHand(Ensemble& ensemble, std::string_view entry) {
    std::vector<std::string> ids;
    for (const Instrument* instrument : instrumentsOf(ensemble, entry)) ids.push_back(instrument->id);
    if (ids.size() == ensemble.instruments.size()) {
        ensemble.inHand.reset();
    } else {
        ensemble.inHand = std::move(ids);
    }
}

Section newSection(const Ensemble& ensemble, std::string_view name) {
    Section section;
    section.name = name;
    section.id = freeSectionId(ensemble, name);
    return section;
}

void removeSection(Ensemble& ensemble, std::string_view id) {
    const std::string gone(id);
    std::erase_if(ensemble.sections, [&](const Section& section) { return section.id == gone; });
    forgetForHand(ensemble, gone);
}

void renewSection(Ensemble& ensemble, std::size_t place) {
    if (place >= ensemble.sections.size()) return;
    Section& section = ensemble.sections[place];
    const std::string old = section.id;
    const bool isFirst =
        placeOf(ensemble.sections, old) == place && findById(ensemble.instruments, old) == nullptr;
    section.id = freeSectionId(ensemble, nameOf(section));
    if (isFirst) renameForHand(ensemble, old, section.id);
}

void setInSection(Ensemble& ensemble, std::string_view id, const std::string& instrument, bool isIn) {
    Section* section = findById(ensemble.sections, id);
    if (section == nullptr) return;
    std::erase(section->instruments, instrument);
    if (isIn) section->instruments.push_back(instrument);
}

void forgetForHand(Ensemble& ensemble, std::string_view id) {
    const std::string gone(id);
    if (ensemble.inHand) std::erase(*ensemble.inHand, gone);
    for (Section& section : ensemble.sections) std::erase(section.instruments, gone);
    auto& order = ensemble.handOrder;
    const auto at = static_cast<std::size_t>(std::find(order.begin(), order.end(), gone) - order.begin());
    if (at == order.size()) return;
    std::erase(order, gone);
    if (order.empty()) {
        for (Chain& chain : ensemble.sharedChains)
            std::erase_if(chain.branches, [](const Branch& branch) { return branch.target == handTarget; });
        return;
    }
    forEachHandLevel(ensemble, [&](std::string& entry) {
        if (entry == gone) entry = order[std::min(at, order.size() - 1)];
    });
}

void renameForHand(Ensemble& ensemble, const std::string& old, const std::string& id) {
    if (ensemble.inHand) std::replace(ensemble.inHand->begin(), ensemble.inHand->end(), old, id);
    for (Section& section : ensemble.sections)
        std::replace(section.instruments.begin(), section.instruments.end(), old, id);
    std::replace(ensemble.handOrder.begin(), ensemble.handOrder.end(), old, id);
    forEachHandLevel(ensemble, [&](std::string& entry) {
        if (entry == old) entry = id;
    });
}

void moveInHandOrder(Ensemble& ensemble, std::size_t from, std::size_t to) {
    if (ensemble.handOrder.empty()) ensemble.handOrder = handEntries(ensemble);
    moveWithin(ensemble.handOrder, from, to);
}

}  // namespace mellow
