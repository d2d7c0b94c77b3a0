// Whether it is of controls, parameters or articulations is asked in one place, onList(): everything else is
// written once for all.
#include "app/pages/gear/profile_model.h"

#include <memory>

#include "app/words.h"
#include "core/model/edit.h"

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

ProfileModel::ProfileModel(Document& document, QObject* parent)
    : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::changed, this, &ProfileModel::follow);
}

void ProfileModel::show(const ProfilePlace& place) {
    if (place == place_) return;
    beginResetModel();
    place_ = place;
    rows_ = onList(document_.ensemble(), place_, [](auto& list) { return static_cast<int>(list.size()); });
    endResetModel();
}

void ProfileModel::follow() {
    const int rows =
        onList(document_.ensemble(), place_, [](auto& list) { return static_cast<int>(list.size()); });
    if (rows == rows_) {
        if (rows > 0) emit dataChanged(index(0, 0), index(rows - 1, columnCount() - 1));
        return;
    }
    beginResetModel();
    rows_ = rows;
    endResetModel();
}

int ProfileModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : rows_;
}

int ProfileModel::columnCount(const QModelIndex& parent) const {
    if (parent.isValid() || place_.id.empty()) return 0;
    switch (place_.of) {
        case ProfilePlace::Of::controls:
            return static_cast<int>(profiles::controlColumns().size());
        case ProfilePlace::Of::parameters:
            return static_cast<int>(profiles::parameterColumns().size());
        case ProfilePlace::Of::articulations:
            break;
    }
    return static_cast<int>(profiles::articulationColumns().size());
}

QVariant ProfileModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) return {};
    const auto at = static_cast<std::size_t>(section);
    const auto words = [&](const auto& column) -> QVariant {
        if (role == Qt::DisplayRole) return toQt(column.title);
        return role == Qt::ToolTipRole ? QVariant(toQt(column.tip)) : QVariant();
    };
    switch (place_.of) {
        case ProfilePlace::Of::controls:
            return words(profiles::controlColumns()[at]);
        case ProfilePlace::Of::parameters:
            return words(profiles::parameterColumns()[at]);
        case ProfilePlace::Of::articulations:
            break;
    }
    return words(profiles::articulationColumns()[at]);
}

QVariant ProfileModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || (role != Qt::DisplayRole && role != Qt::EditRole)) return {};
    return onList(document_.ensemble(), place_, [&](auto& list) -> QVariant {
        if (!holds(list, index.row())) return {};
        const auto& column =
            profiles::columns<ThingOf<decltype(list)>>()[static_cast<std::size_t>(index.column())];
        const std::string text = column.text(list[static_cast<std::size_t>(index.row())]);
        return role == Qt::EditRole ? toQt(text) : nameToShow(text);
    });
}

Qt::ItemFlags ProfileModel::flags(const QModelIndex& index) const {
    return QAbstractTableModel::flags(index) | Qt::ItemIsEditable;
}

QStringList ProfileModel::edit(const QString& text, const std::function<QStringList(Ensemble&)>& change) {
    QStringList complaints;
    document_.edit(text, [&](Ensemble& e) { complaints = change(e); });
    return complaints;
}

bool ProfileModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (!index.isValid() || role != Qt::EditRole || value == data(index, role)) return false;
    const std::string typed = value.toString().trimmed().toStdString();
    const QStringList complaints = edit(tr("Edit the profile"), [&](Ensemble& e) {
        return onList(e, place_, [&](auto& list) -> QStringList {
            if (!holds(list, index.row())) return {};
            const auto& column =
                profiles::columns<ThingOf<decltype(list)>>()[static_cast<std::size_t>(index.column())];
            const auto complaint = column.set(list[static_cast<std::size_t>(index.row())], typed);
            return complaint ? QStringList{toQt(*complaint)} : QStringList();
        });
    });
    for (const QString& complaint : complaints) emit refused(complaint + QLatin1Char('.'));
    return complaints.isEmpty();
}

void ProfileModel::addRow() {
    edit(tr("Add a row"), [&](Ensemble& e) {
        return onList(e, place_, [](auto& list) {
            list.push_back(oneMore(list));
            return QStringList();
        });
    });
}

void ProfileModel::removeThings(const std::vector<std::size_t>& rows) {
    edit(tr("Remove %n row(s)", nullptr, static_cast<int>(rows.size())), [&](Ensemble& e) {
        std::vector<std::size_t> last = rows;
        std::sort(last.rbegin(), last.rend());
        for (const std::size_t row : last) {
            const bool there = onList(e, place_, [&](auto& list) { return row < list.size(); });
            if (there) takeOut(e, place_, row);
        }
        return QStringList();
    });
}

namespace {

/// A table with a line of headings, taken into a profile. What could not be understood.
template<class List>
QStringList mergeInto(List& list, const profiles::Table& table) {
    auto said = profiles::thingsIn<ThingOf<List>>(table);
    profiles::merge(list, std::move(said.things));
    QStringList complaints;
    for (const std::string& complaint : said.complaints) complaints << toQt(complaint);
    return complaints;
}

}  // namespace

std::optional<QStringList> ProfileModel::import(const profiles::Table& table, const QString& saying) {
    const auto complaints = std::make_shared<QStringList>();
    const auto take = [place = place_, table, complaints](Ensemble& e) {
        *complaints = onList(e, place, [&](auto& list) { return mergeInto(list, table); });
    };
    const QString text = tr("Import %n row(s)", nullptr, static_cast<int>(table.size()));
    return document_.editAside(text, saying, take) ? std::optional(*complaints) : std::nullopt;
}

QStringList ProfileModel::paste(const profiles::Table& table, const QModelIndex& from) {
    const bool oneColumn = !table.empty() && std::all_of(table.begin(), table.end(),
                                                         [](const auto& row) { return row.size() == 1; });
    return edit(tr("Paste %n row(s)", nullptr, static_cast<int>(table.size())), [&](Ensemble& e) {
        return onList(e, place_, [&](auto& list) {
            using Thing = ThingOf<decltype(list)>;
            if (!oneColumn) return mergeInto(list, table);
            QStringList complaints;
            // One column is typed downwards, row by row; rows that are not there are made.
            const auto first = static_cast<std::size_t>(std::max(0, from.row()));
            const auto& column =
                profiles::columns<Thing>()[static_cast<std::size_t>(std::max(0, from.column()))];
            for (std::size_t i = 0; i < table.size(); ++i) {
                while (first + i >= list.size()) list.push_back(oneMore(list));
                if (const auto complaint = column.set(list[first + i], table[i].front()))
                    complaints << tr("row %1: %2").arg(i + 1).arg(toQt(*complaint));
            }
            return complaints;
        });
    });
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

QStringList ProfileModel::fillDown(int column, const std::vector<std::size_t>& rows) {
    if (rows.empty() || column < 0 || column >= columnCount()) return {};
    return edit(tr("Fill down"), [&](Ensemble& e) {
        return onList(e, place_, [&](auto& list) {
            const auto& filled =
                profiles::columns<ThingOf<decltype(list)>>()[static_cast<std::size_t>(column)];
            QStringList complaints;
            if (rows.front() >= list.size()) return complaints;
            const std::string value = filled.text(list[rows.front()]);
            for (const std::size_t row : rows) {
                if (row >= list.size() || row == rows.front()) continue;
                if (const auto complaint = filled.set(list[row], value)) complaints << toQt(*complaint);
            }
            return complaints;
        });
    });
}

void ProfileModel::renumber(const std::vector<std::size_t>& rows) {
    edit(tr("Renumber"), [&](Ensemble& e) {
        return onList(e, place_, [&](auto& list) {
            profiles::renumber(list, rows);
            return QStringList();
        });
    });
}

}  // namespace mellow::app
