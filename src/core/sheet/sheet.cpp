#include "core/sheet/sheet.h"

#include <algorithm>
#include <map>
#include <numeric>
#include <tuple>
#include <unordered_map>

#include "core/assignments/search.h"
#include "core/text/numbers.h"

namespace mellow::sheet {

namespace {

/// Behind all that stand in a list of the document.
constexpr std::size_t last = std::numeric_limits<std::size_t>::max();

std::string counted(std::size_t number, const char* one, const char* more) {
    return std::to_string(number) + " " + (number == 1 ? one : more);
}

std::string joined(const std::string& first, const std::string& second) {
    return first.empty() || second.empty() ? first + second : first + " · " + second;
}

/// Where rows belong: in which group, and at which place in it by its reading.
class Arranger {
 public:
    Arranger(const Ensemble& ensemble, const Wish& wish) : ensemble_(ensemble), wish_(wish) {
        for (std::size_t i = 0; i < ensemble.instruments.size(); ++i)
            instruments_.emplace(&std::as_const(ensemble.instruments)[i], i);
    }

    /// What stands first is first in order; groups of one rank go by their title.
    struct GroupKey {
        std::size_t rank = 0;
        std::string key;
        bool operator<(const GroupKey& other) const {
            return std::tie(rank, key) < std::tie(other.rank, other.key);
        }
    };

    [[nodiscard]] GroupKey groupOf(const Assignment& row) const {
        switch (wish_.group) {
            case Grouping::none:
                return {0, ""};
            case Grouping::controller:
                return controllerGroup(row);
            case Grouping::instrument:
                return instrumentGroup(row);
            case Grouping::port:
                return portGroup(row);
        }
        return {};
    }

    [[nodiscard]] std::string titleOf(const Assignment& row) const {
        switch (wish_.group) {
            case Grouping::none:
                return "Everything";
            case Grouping::controller:
                return controllerTitle(row);
            case Grouping::instrument:
                return instrumentTitle(row);
            case Grouping::port:
                return portTitle(row);
        }
        return {};
    }

    [[nodiscard]] std::string captionOf(const Assignment& row) const {
        if (wish_.group == Grouping::controller && row.controller != nullptr) return row.controller->port;
        const Instrument* instrument = row.instrument();
        if (wish_.group != Grouping::instrument || instrument == nullptr) return {};
        return instrument->output.port + " · ch " + std::to_string(instrument->output.channel);
    }

    /// The order of rows by a reading: what is moved first, or what is heard.
    using Place = std::tuple<std::size_t, std::size_t, int>;
    [[nodiscard]] Place placeOf(const Assignment& row) const {
        return wish_.by == Reading::move ? movePlace(row) : hearPlace(row);
    }

 private:
    [[nodiscard]] std::size_t placeOfInstrument(const Instrument* instrument) const {
        const auto found = instruments_.find(instrument);
        return found == instruments_.end() ? last : found->second;
    }

    [[nodiscard]] std::size_t placeOfController(const Assignment& row) const {
        return row.controller == nullptr
                   ? last
                   : static_cast<std::size_t>(row.controller - ensemble_.controllers.data());
    }

    [[nodiscard]] Place movePlace(const Assignment& row) const {
        if (row.control != nullptr) {
            return {placeOfController(row),
                    static_cast<std::size_t>(row.control - row.controller->controls.data()), 0};
        }
        if (row.chain == nullptr) return {last, last, 0};
        const Source& source = row.chain->source;
        return {last, static_cast<std::size_t>(source.kind), source.number};
    }

    [[nodiscard]] Place hearPlace(const Assignment& row) const {
        if (row.target.parameter != nullptr) {
            const Instrument& instrument = *row.target.instrument;
            return {placeOfInstrument(&instrument),
                    static_cast<std::size_t>(row.target.parameter - instrument.parameters.data()), 0};
        }
        if (row.target.tieLine != nullptr)
            return {last, static_cast<std::size_t>(row.target.tieLine - ensemble_.tieLines.data()), 0};
        return {last, last, row.target.hand != nullptr ? 0 : 1};
    }

    [[nodiscard]] GroupKey controllerGroup(const Assignment& row) const {
        if (row.controller != nullptr) return {placeOfController(row), row.controller->id};
        if (row.chain == nullptr) return {last, "nothing"};
        switch (mellow::row(row.chain->source.kind).origin) {
            case Origin::message:
                if (row.chain->source.kind == SourceKind::desk) return {last - 5, "desk"};
                return {last - 4, "any"};
            case Origin::note:
                return {last - 3, "notes"};
            case Origin::generator:
                return {last - 2, "generators"};
            case Origin::tieLine:
                return {last - 1, "tie lines"};
        }
        return {};
    }
    [[nodiscard]] std::string controllerTitle(const Assignment& row) const {
        if (row.controller != nullptr) return nameOf(*row.controller);
        static const std::map<std::string, std::string> titles{
            {"nothing", "Nothing moves these"},
            {"desk", "Desk"},
            {"any", "Any controller"},
            {"notes", "Notes"},
            {"generators", "What moves by itself"},
            {"tie lines", "Tie lines"},
        };
        return titles.at(controllerGroup(row).key);
    }

    [[nodiscard]] GroupKey instrumentGroup(const Assignment& row) const {
        if (row.target.tieLine != nullptr) return {last - 3, "tie lines"};
        if (row.target.hand != nullptr) return {last - 2, "hand"};
        const Instrument* instrument = row.instrument();
        if (instrument != nullptr) return {placeOfInstrument(instrument), instrument->id};
        return row.chain != nullptr ? GroupKey{last - 1, "shared"} : GroupKey{last, "nowhere"};
    }
    [[nodiscard]] std::string instrumentTitle(const Assignment& row) const {
        if (row.target.tieLine != nullptr) return "Tie lines";
        if (row.target.hand != nullptr) return "Who is in hand";
        const Instrument* instrument = row.instrument();
        if (instrument != nullptr) return nameOf(*instrument);
        return row.chain != nullptr ? "Shared chains" : "These lead nowhere";
    }

    [[nodiscard]] std::string portOf(const Assignment& row) const {
        return findAssignmentColumn(wish_.by == Reading::move ? "port" : "outPort")->text(ensemble_, row);
    }
    [[nodiscard]] GroupKey portGroup(const Assignment& row) const {
        const std::string port = portOf(row);
        return port.empty() ? GroupKey{last, ""} : GroupKey{port == anyPort ? last - 1 : 0, port};
    }
    [[nodiscard]] std::string portTitle(const Assignment& row) const {
        const std::string port = portOf(row);
        if (!port.empty()) return port == anyPort ? "any port" : port;
        return wish_.by == Reading::move ? "From no port" : "To no port";
    }

    const Ensemble& ensemble_;
    const Wish& wish_;
    std::unordered_map<const Instrument*, std::size_t> instruments_;
};

/// Rows in the order of a column; what it does not say stands behind.
void sortBy(const Sheet& sheet, const Wish& wish, std::vector<int>& rows) {
    std::vector<SortKey> keys(sheet.rows().size());
    for (const int row : rows) {
        const auto place = static_cast<std::size_t>(row);
        keys[place] = sortKeyOf(sheet.ensemble(), *wish.sort, sheet.rows()[place]);
    }
    const auto isBefore = [&](int a, int b) {
        const SortKey& one = keys[static_cast<std::size_t>(a)];
        const SortKey& other = keys[static_cast<std::size_t>(b)];
        // What says nothing stands behind, whichever way it is sorted.
        if (one.isEmpty() != other.isEmpty()) return other.isEmpty();
        return wish.backwards ? standsBefore(other, one) : standsBefore(one, other);
    };
    std::stable_sort(rows.begin(), rows.end(), isBefore);
}

/// How much of a group is free: controls of a controller, parameters of an instrument.
std::string freeWords(const Sheet& sheet, Grouping grouping, const Group& group) {
    std::set<const void*> used;
    std::size_t unused = 0;
    for (const int row : group.rows) {
        const Assignment& each = sheet.rows()[static_cast<std::size_t>(row)];
        const void* thing = grouping == Grouping::controller
                                ? static_cast<const void*>(each.control)
                                : static_cast<const void*>(each.target.parameter);
        if (thing == nullptr) continue;
        if (each.chain == nullptr) {
            ++unused;
        } else {
            used.insert(thing);
        }
    }
    if (used.empty() && unused == 0) return {};
    return grouping == Grouping::controller ? counted(used.size(), "control used", "controls used") + ", " +
                                                  std::to_string(unused) + " free"
                                            : counted(used.size(), "parameter moved", "parameters moved") +
                                                  ", " + std::to_string(unused) + " still";
}

}  // namespace

Sheet::Sheet(std::shared_ptr<const Ensemble> ensemble)
    : ensemble_(std::move(ensemble)), rows_(assignmentsOf(*ensemble_)) {}

std::vector<int> Sheet::found(const Wish& wish) const {
    const AssignmentSearch search = assignmentSearch(wish.find);
    if (!search.words.empty() && texts_.empty()) {
        texts_.reserve(rows_.size());
        for (const Assignment& row : rows_) texts_.push_back(searchText(*ensemble_, row));
    }
    static const std::string nothing;
    std::vector<int> all;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        if (wish.only != nullptr && !wish.only->contains(idOf(rows_[i]))) continue;
        const std::string& text = texts_.empty() ? nothing : texts_[i];
        const std::string& beside = i < words_.size() ? words_[i] : nothing;
        const bool isFoundHere = search.isEmpty() || isFound(search, text, beside, rows_[i]);
        if (isFoundHere) all.push_back(static_cast<int>(i));
    }
    return all;
}

Arranged Sheet::arranged(const Wish& wish) const {
    const Arranger arranger(*ensemble_, wish);
    std::vector<int> rows = found(wish);
    Arranged made;
    made.found = rows.size();
    const auto rowAt = [this](int row) -> const Assignment& { return rows_[static_cast<std::size_t>(row)]; };
    std::vector<Arranger::Place> places(rows_.size());
    for (const int row : rows) places[static_cast<std::size_t>(row)] = arranger.placeOf(rowAt(row));
    std::stable_sort(rows.begin(), rows.end(), [&places](int a, int b) {
        return places[static_cast<std::size_t>(a)] < places[static_cast<std::size_t>(b)];
    });
    if (wish.sort != nullptr) sortBy(*this, wish, rows);
    std::map<Arranger::GroupKey, std::vector<int>> groups;
    for (const int row : rows) groups[arranger.groupOf(rowAt(row))].push_back(row);
    for (auto& [key, inside] : groups) {
        Group& group = made.groups.emplace_back();
        const Assignment& first = rowAt(inside.front());
        group.key = key.key;
        group.title = arranger.titleOf(first);
        group.rows = std::move(inside);
        const bool isAll = wish.find.empty() && wish.only == nullptr;
        group.caption =
            joined(arranger.captionOf(first), isAll ? freeWords(*this, wish.group, group)
                                                    : counted(group.rows.size(), "row found", "rows found"));
        group.isFolded = wish.folded.contains(key.key);
        const std::size_t place = made.groups.size() - 1;
        if (wish.group != Grouping::none) made.lines.push_back({place, -1});
        if (group.isFolded) continue;
        for (const int row : group.rows) made.lines.push_back({place, row});
    }
    return made;
}

}  // namespace mellow::sheet
