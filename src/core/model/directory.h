// Finding things by id.
//
// References in an ensemble are ids, and following one means looking for it in a list. For one question that
// is a walk through the list; whoever follows every reference of a document builds an index first, since a
// document may hold twenty thousand tie lines. Both answer the same questions, so that what follows
// references (resolve.h) need not know which it was given.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "core/model/ensemble.h"

namespace mellow {

class Directory {
 public:
    /// Looks through the lists of an ensemble, which must outlive it.
    Directory(const Ensemble& ensemble) : ensemble_(&ensemble) {}  // NOLINT(google-explicit-constructor)
    /// With an index, which is good as long as the ensemble does not change. For one thread.
    static Directory indexed(const Ensemble& ensemble);

    [[nodiscard]] const Ensemble& ensemble() const { return *ensemble_; }

    /// The first with an id, or nullptr.
    [[nodiscard]] const Controller* controller(std::string_view id) const;
    [[nodiscard]] const TieLine* tieLine(std::string_view id) const;
    [[nodiscard]] const Instrument* instrument(std::string_view id) const;
    [[nodiscard]] const DeskElement* deskElement(std::string_view id) const;

 private:
    struct Index;
    const Ensemble* ensemble_;
    std::shared_ptr<Index> index_;
};

/// A thing's name for people, or its id where it has none, with the id behind it where another of its list
/// has the same name: two violins are told apart.
template<class List, class Thing>
std::string nameAmong(const List& list, const Thing& thing) {
    constexpr std::size_t longestSearch = 4096;
    const std::string& name = nameOf(thing);
    std::size_t same = 0;
    std::size_t searched = 0;
    for (const auto& each : list) {
        if (nameOf(each) == name) ++same;
        if (++searched == longestSearch) break;
    }
    return same > 1 ? name + " (" + thing.id + ")" : name;
}

}  // namespace mellow
