// Whether it is of controls, parameters or articulations is asked in one place, onList(): everything else is
// written once for all.
#include "app/acts/reuse/profile_model.h"

#include <algorithm>
#include <memory>

#include "app/ground/words.h"
#include "core/model/edit.h"
#include "core/model/led.h"
#include "core/reuse/carrying.h"

namespace mellow::app {

namespace {

/// Runs act(list) on the list that a profile is, or gives back what nothing gives.
template<class EnsembleType, class Act>
auto onList(EnsembleType& ensemble, const ProfilePlace& place, Act&& act) {
    using Result = decltype(act(findById(ensemble.controllers, place.id)->controls));
    if (place.isController()) {
        auto* controller = findById(ensemble.controllers, place.id);
        return controller == nullptr ? Result() : act(controller->controls);
    }
    auto* instrument = findById(ensemble.instruments, place.id);
    if (instrument == nullptr) return Result();
    return place.of == ProfilePlace::Of::parameters ? act(instrument->parameters)
                                                    : act(instrument->articulations);
}

template<class List>
using ThingOf = typename std::decay_t<List>::value_type;

template<class List>
bool holds(const List& list, int row) {
    return row >= 0 && row < static_cast<int>(list.size());
}

Parameter oneMore(const std::vector<Parameter>& list) {
    Instrument instrument;
    instrument.parameters = list;
    return newParameter(instrument);
}
ControllerControl oneMore(const std::vector<ControllerControl>& list) {
    ControllerControl control;
    control.name = "New control";
    control.id = newId(list, control.name);
    control.message.number = list.empty() ? 20 : std::min(list.back().message.number + 1, 119);
    return control;
}

Articulation oneMore(const std::vector<Articulation>& list) {
    Articulation articulation;
    articulation.name = "New articulation";
    articulation.id = newId(list, articulation.name);
    if (!list.empty() && !list.back().select.empty()) {
        Select next = list.back().select.front();
        ++(next.kind == SelectKind::note ? next.number : next.value);
        if (flawOf(next).empty()) articulation.select = {next};
    }
    return articulation;
}

/// Takes a row out, and what led to it.
void takeOut(Ensemble& ensemble, const ProfilePlace& place, std::size_t row) {
    if (place.isController()) {
        if (Controller* controller = findById(ensemble.controllers, place.id))
            controller->controls.erase(controller->controls.begin() + static_cast<std::ptrdiff_t>(row));
        return;
    }
    Instrument* instrument = findById(ensemble.instruments, place.id);
    if (instrument == nullptr) return;
    if (place.of == ProfilePlace::Of::articulations) {
        instrument->articulations.erase(instrument->articulations.begin() + static_cast<std::ptrdiff_t>(row));
        return;
    }
    const std::string id = instrument->parameters[row].id;
    removeParameter(ensemble, *instrument, id);
}

}  // namespace

ProfileModel::ProfileModel(Document& document, QObject* parent) : CellModel(parent), document_(document) {
    connect(&document_, &Document::changed, this, &ProfileModel::follow);
}

const Controller* ProfileModel::controller() const {
    return place_.isController() ? findById(document_.ensemble().controllers, place_.id) : nullptr;
}

const Instrument* ProfileModel::instrument() const {
    return place_.isController() ? nullptr : findById(document_.ensemble().instruments, place_.id);
}

void ProfileModel::show(const ProfilePlace& place) {
    if (place == place_) return;
    place_ = place;
    reshape();
}

int ProfileModel::cellRows() const {
    return onList(document_.ensemble(), place_, [](auto& list) { return static_cast<int>(list.size()); });
}

namespace {

template<class Columns>
std::vector<CellModel::Column> titlesOf(const Columns& columns) {
    std::vector<CellModel::Column> titles;
    for (const auto& column : columns) titles.push_back({toQt(column.title), toQt(column.tip)});
    return titles;
}

}  // namespace

std::vector<CellModel::Column> ProfileModel::cellColumns() const {
    if (place_.id.empty()) return {};
    switch (place_.of) {
        case ProfilePlace::Of::controls:
            return titlesOf(profiles::controlColumns());
        case ProfilePlace::Of::parameters:
            return titlesOf(profiles::parameterColumns());
        case ProfilePlace::Of::articulations:
            break;
    }
    return titlesOf(profiles::articulationColumns());
}

QVariant ProfileModel::cell(int row, int column, int role) const {
    if (role != Qt::DisplayRole && role != Qt::EditRole) return {};
    return onList(document_.ensemble(), place_, [&](auto& list) -> QVariant {
        if (!holds(list, row)) return {};
        const std::string text =
            profiles::columns<ThingOf<decltype(list)>>()[static_cast<std::size_t>(column)].text(
                list[static_cast<std::size_t>(row)]);
        return role == Qt::EditRole ? toQt(text) : nameToShow(text);
    });
}

/// Rows that are not there are made.
QStringList ProfileModel::type(const QString& act, const std::vector<Typed>& cells) {
    QStringList complaints;
    document_.edit(act.isEmpty() ? tr("Edit the profile") : act, [&](Ensemble& e) {
        onList(e, place_, [&](auto& list) {
            const auto columns = profiles::columns<ThingOf<decltype(list)>>();
            for (const Typed& each : cells) {
                const auto row = static_cast<std::size_t>(each.row);
                while (row >= list.size()) list.push_back(oneMore(list));
                const auto complaint = columns[static_cast<std::size_t>(each.column)].set(
                    list[row], each.value.toString().trimmed().toStdString());
                complaints << (complaint ? toQt(*complaint) : QString());
            }
            return 0;
        });
    });
    return complaints;
}

void ProfileModel::addRow() {
    document_.edit(tr("Add a row"), [&](Ensemble& e) {
        onList(e, place_, [](auto& list) {
            list.push_back(oneMore(list));
            return 0;
        });
    });
}

void ProfileModel::removeThings(const std::vector<std::size_t>& rows) {
    document_.edit(tr("Remove %n row(s)", nullptr, static_cast<int>(rows.size())), [&](Ensemble& e) {
        std::vector<std::size_t> last = rows;
        std::sort(last.rbegin(), last.rend());
        for (const std::size_t row : last) {
            const bool there = onList(e, place_, [&](auto& list) { return row < list.size(); });
            if (there) takeOut(e, place_, row);
        }
    });
}

namespace {

/// Puts things into a list as profiles::merge does; what reads as it did stays as it was written.
template<class Thing>
void mergeWhatDiffers(std::vector<Thing>& list, std::vector<Thing> things) {
    const std::vector<Thing> before = list;
    profiles::merge(list, std::move(things));
    const auto readsAs = [](const Thing& one, const Thing& other) {
        const auto columns = profiles::columns<Thing>();
        return std::all_of(columns.begin(), columns.end(),
                           [&](const auto& column) { return column.text(one) == column.text(other); });
    };
    for (std::size_t i = 0; i < before.size(); ++i) {
        if (readsAs(before[i], list[i])) list[i] = before[i];
    }
}

/// "To 127 → 10" for each cell that reads otherwise.
template<class Thing>
QStringList changesBetween(const std::vector<Thing>& before, const std::vector<Thing>& after) {
    QStringList changes;
    for (std::size_t i = 0; i < before.size(); ++i) {
        if (before[i] == after[i]) continue;
        for (const auto& column : profiles::columns<Thing>()) {
            const std::string was = column.text(before[i]);
            const std::string is = column.text(after[i]);
            if (was != is)
                changes
                    << QStringLiteral("%1 %2 → %3").arg(toQt(column.title), nameToShow(was), nameToShow(is));
        }
    }
    return changes;
}

/// Parameters of an instrument that have another range than before and that chains lead to, as they were.
std::vector<Parameter> withOtherRanges(const Ensemble& before, const Ensemble& now,
                                       const ProfilePlace& place) {
    std::vector<Parameter> changed;
    const Instrument* old = findById(before.instruments, place.id);
    const Instrument* instrument = findById(now.instruments, place.id);
    if (place.of != ProfilePlace::Of::parameters || old == nullptr || instrument == nullptr) return changed;
    for (const Parameter& was : old->parameters) {
        const Parameter* is = findById(instrument->parameters, was.id);
        if (is != nullptr && is->display != was.display && isLedTo(before, *old, was.id))
            changed.push_back(was);
    }
    return changed;
}

}  // namespace

profiles::Understood ProfileModel::understood(const profiles::Table& table) const {
    return onList(document_.ensemble(), place_,
                  [&](auto& list) { return profiles::understood<ThingOf<decltype(list)>>(table); });
}

ProfileModel::Preview ProfileModel::preview(const profiles::Table& table,
                                            const profiles::Understood& how) const {
    using Becomes = RowToTake::Becomes;
    Preview preview;
    preview.rows.resize(table.size());
    Ensemble after = document_.ensemble();
    onList(after, place_, [&](auto& list) {
        auto said = profiles::thingsIn<ThingOf<decltype(list)>>(table, how);
        for (std::size_t i = 0; i < said.complaints.size(); ++i)
            preview.rows[said.complaintRows[i]].words =
                toQt(said.complaints[i]).section(QStringLiteral(": "), 1);
        for (std::size_t i = 0; i < said.things.size(); ++i) {
            const auto before = list;
            mergeWhatDiffers(list, {said.things[i]});
            RowToTake& row = preview.rows[said.rows[i]];
            row.becomes = list.size() > before.size() ? Becomes::aNewOne
                          : list == before            ? Becomes::theSame
                                                      : Becomes::anotherOne;
            row.changes = changesBetween(before, list).join(QStringLiteral(", "));
        }
        return 0;
    });
    for (const Parameter& was : withOtherRanges(document_.ensemble(), after, place_)) {
        const Parameter now =
            *findById(findById(std::as_const(after).instruments, place_.id)->parameters, was.id);
        Ensemble carried = after;
        reuse::carryReaches(carried, place_.id, was, now);
        preview.newRanges += carried == after ? 0 : 1;
    }
    return preview;
}

std::optional<QStringList> ProfileModel::take(const profiles::Table& table, const profiles::Understood& how,
                                              bool carry, const QString& saying) {
    const auto complaints = std::make_shared<QStringList>();
    const auto change = [place = place_, table, how, carry, complaints](Ensemble& e) {
        const Ensemble before = e;
        *complaints = onList(e, place, [&](auto& list) {
            auto said = profiles::thingsIn<ThingOf<decltype(list)>>(table, how);
            mergeWhatDiffers(list, std::move(said.things));
            QStringList words;
            for (const std::string& complaint : said.complaints) words << toQt(complaint);
            return words;
        });
        if (!carry) return;
        for (const Parameter& was : withOtherRanges(before, e, place)) {
            const Instrument* owner = findById(std::as_const(e).instruments, place.id);
            const Parameter now = *findById(owner->parameters, was.id);
            reuse::carryReaches(e, place.id, was, now);
        }
    };
    const int rows = static_cast<int>(table.size()) - (how.titled ? 1 : 0);
    const QString text = tr("Take in %n row(s)", nullptr, rows);
    return document_.editAside(text, saying, change) ? std::optional(*complaints) : std::nullopt;
}

profiles::Table ProfileModel::wholeTable() const {
    return onList(document_.ensemble(), place_, [](auto& list) { return profiles::tableOf(list); });
}

profiles::Table ProfileModel::table(const std::vector<std::size_t>& rows) const {
    profiles::Table chosen;
    const profiles::Table whole = wholeTable();
    for (const std::size_t row : rows) {
        if (row + 1 < whole.size()) chosen.push_back(whole[row + 1]);
    }
    return chosen;
}

void ProfileModel::renumber(const std::vector<std::size_t>& rows) {
    document_.edit(tr("Renumber"), [&](Ensemble& e) {
        onList(e, place_, [&](auto& list) {
            profiles::renumber(list, rows);
            return 0;
        });
    });
}

}  // namespace mellow::app
