#include "core/sheet/paper.h"

#include <algorithm>
#include <map>
#include <optional>
#include <utility>

#include "core/describe/sentence.h"
#include "core/desk/element_targets.h"
#include "core/midi/names.h"
#include "core/model/resolve.h"
#include "core/store/instrument_state.h"
#include "core/text/numbers.h"

namespace mellow::sheet {

namespace {

const Assignment& at(const Sheet& sheet, int row) {
    return sheet.rows()[static_cast<std::size_t>(row)];
}

std::string cell(const Sheet& sheet, int row, const char* column) {
    return sheet.text(*findAssignmentColumn(column), row);
}

std::string joined(const std::string& first, const std::string& second, const char* between = " · ") {
    return first.empty() || second.empty() ? first + second : first + between + second;
}

/// Whether a group holds more than parameters that nothing moves, or controls that lead nowhere.
bool leadsSomewhere(const Sheet& sheet, const Group& group) {
    return std::any_of(group.rows.begin(), group.rows.end(),
                       [&](int row) { return at(sheet, row).chain != nullptr; });
}

/// "Expression 30–127, Glass harmonium", with the way there where there is one.
std::string doesLine(const Sheet& sheet, int row) {
    const Assignment& assignment = at(sheet, row);
    if (assignment.leads() == nullptr) return cell(sheet, row, "chain") + ": leads nowhere";
    const std::string what = joined(cell(sheet, row, "target"), cell(sheet, row, "reach"), " ");
    const std::string where = joined(what, cell(sheet, row, "instrument"), ", ");
    const std::string off = cell(sheet, row, "state") == "off" ? " (off)" : "";
    return joined(where, cell(sheet, row, "way"), "; ") + off;
}

std::vector<Box> boxesOf(const Sheet& sheet, const Group& group) {
    std::vector<Box> boxes;
    const ControllerControl* before = nullptr;
    for (const int row : group.rows) {
        const Assignment& assignment = at(sheet, row);
        if (assignment.control == nullptr) continue;
        if (assignment.control != before || boxes.empty()) {
            boxes.push_back(
                {nameOf(*assignment.control), describe::targetMessage(assignment.control->message), {}});
            before = assignment.control;
        }
        if (assignment.chain != nullptr) boxes.back().does.push_back(doesLine(sheet, row));
    }
    return boxes;
}

PaperTable tableOf(const Sheet& sheet, const Group& group,
                   const std::vector<std::pair<const char*, const char*>>& columns) {
    PaperTable table;
    for (const auto& [key, head] : columns) table.heads.emplace_back(head);
    for (const int row : group.rows) {
        auto& cells = table.rows.emplace_back();
        for (const auto& [key, head] : columns) cells.push_back(cell(sheet, row, key));
    }
    return table;
}

Chapter moves(const Sheet& sheet, Wish wish) {
    wish.by = Reading::move;
    wish.group = Grouping::controller;
    Chapter chapter{"What you move", {}};
    for (const Group& group : sheet.arranged(wish).groups) {
        const bool isController = at(sheet, group.rows.front()).controller != nullptr;
        // What nothing moves stands beside its instrument.
        if (!isController && !leadsSomewhere(sheet, group)) continue;
        PaperSection& section = chapter.sections.emplace_back();
        section.title = group.title;
        section.caption = group.caption;
        if (isController) {
            section.boxes = boxesOf(sheet, group);
        } else {
            section.table = tableOf(sheet, group,
                                    {{"move", "What moves it"},
                                     {"way", "What it does"},
                                     {"target", "Reaches"},
                                     {"instrument", "Instrument"},
                                     {"reach", "From, to"}});
        }
    }
    return chapter;
}

/// What a parameter's row says of what moves it.
std::string mover(const Sheet& sheet, int row) {
    if (at(sheet, row).chain == nullptr) return "nothing";
    return joined(cell(sheet, row, "move"), cell(sheet, row, "controller"), ", ");
}

/// Without columns in which nothing stands.
PaperTable withoutEmpty(PaperTable table) {
    for (std::size_t column = table.heads.size(); column-- > 1;) {
        const bool isEmpty = std::all_of(table.rows.begin(), table.rows.end(),
                                         [column](const auto& row) { return row[column].empty(); });
        if (!isEmpty) continue;
        table.heads.erase(table.heads.begin() + static_cast<std::ptrdiff_t>(column));
        for (auto& row : table.rows) row.erase(row.begin() + static_cast<std::ptrdiff_t>(column));
    }
    return table;
}

Chapter hears(const Sheet& sheet, Wish wish) {
    wish.by = Reading::hear;
    wish.group = Grouping::instrument;
    Chapter chapter{"What you hear", {}};
    for (const Group& group : sheet.arranged(wish).groups) {
        if (at(sheet, group.rows.front()).target.parameter == nullptr && !leadsSomewhere(sheet, group))
            continue;
        PaperSection& section = chapter.sections.emplace_back();
        section.title = group.title;
        section.caption = group.caption;
        section.table.heads = {"Parameter", "Sends", "Moved by", "What it does", "From, to", "Note"};
        for (const int row : group.rows) {
            const std::string off = cell(sheet, row, "state") == "off" ? "off" : "";
            section.table.rows.push_back({cell(sheet, row, "target"), cell(sheet, row, "sends"),
                                          mover(sheet, row), joined(cell(sheet, row, "way"), off, ", "),
                                          cell(sheet, row, "reach"), cell(sheet, row, "note")});
        }
        section.table = withoutEmpty(std::move(section.table));
    }
    return chapter;
}

PaperSection ports(const Ensemble& ensemble) {
    PaperSection section{"Ports", "", {}, {{"Port", "Comes from", "Goes to"}, {}}};
    std::map<std::string, std::pair<std::vector<std::string>, std::vector<std::string>>> all;
    for (const Controller& controller : ensemble.controllers)
        all[controller.port].first.push_back(nameOf(controller));
    for (const Instrument& instrument : ensemble.instruments) {
        all[instrument.output.port].second.push_back(nameOf(instrument) + " on ch " +
                                                     std::to_string(instrument.output.channel));
    }
    for (const auto& [port, both] : all)
        section.table.rows.push_back({port, text::listed(both.first), text::listed(both.second)});
    return section;
}

PaperSection deskPage(const DeskPage& page, const desk::ElementTargets& targets) {
    PaperSection section{nameOf(page), "", {}, {}};
    for (const DeskElement& element : page.elements) {
        Box box{nameOf(element), "", element.names};
        if (const auto found = targets.find(element.id); found != targets.end()) {
            for (const desk::ElementTarget& target : found->second)
                box.does.push_back(joined(target.name, target.instrument, ", "));
        }
        section.boxes.push_back(std::move(box));
    }
    return section;
}

PaperSection takes(const Ensemble& ensemble) {
    PaperSection section{"Takes", "", {}, {{"Take", "Recorded", "File"}, {}}};
    constexpr std::size_t dayAndMinute = 16;
    for (const KeptTake& take : ensemble.takes) {
        std::string recorded = take.recorded.substr(0, dayAndMinute);
        std::replace(recorded.begin(), recorded.end(), 'T', ' ');
        section.table.rows.push_back({nameOf(take), recorded, take.file});
    }
    return section;
}

/// As far as an instrument's numbers are known.
PaperSection loudness(const Ensemble& ensemble) {
    PaperSection section{"Loudness", "in LUFS, and LU between the softest and the loudest", {}, {}};
    section.table.heads = {"What was measured", "At rest", "Half way", "At full", "Range",
                           "Heard from",        "Day"};
    const auto said = [](std::optional<double> level, const char* absent) {
        return level ? text::tenths(*level) : std::string(absent);
    };
    constexpr const char* quiet = "too quiet";
    for (const KeptCurve& kept : ensemble.measurements) {
        section.table.rows.push_back({nameOf(kept), said(kept.rest, quiet), said(kept.half, quiet),
                                      said(kept.full, quiet), said(kept.range, ""), kept.heardFrom,
                                      store::dayMeasured(kept, store::isOutdated(ensemble, kept))});
    }
    return section;
}

PaperSection troubles(const Findings& findings) {
    PaperSection section{"Open troubles", "", {}, {{"Where", "What", "How to mend it"}, {}}};
    for (const Finding& finding : findings) {
        if (finding.severity == Severity::trouble)
            section.table.rows.push_back({finding.problem.where, finding.problem.what, finding.problem.mend});
    }
    return section;
}

Chapter others(const Ensemble& ensemble, const Findings& findings) {
    Chapter chapter{"Around it", {}};
    const auto add = [&chapter](PaperSection section) {
        if (!section.table.rows.empty() || !section.boxes.empty())
            chapter.sections.push_back(std::move(section));
    };
    add(ports(ensemble));
    const desk::ElementTargets targets = desk::elementTargets(ensemble);
    for (const DeskPage& page : ensemble.desk.pages) add(deskPage(page, targets));
    add(takes(ensemble));
    add(loudness(ensemble));
    add(troubles(findings));
    return chapter;
}

}  // namespace

Paper paperOf(const Sheet& sheet, const Wish& wish, const Findings& findings, const std::string& day) {
    Paper paper;
    paper.title = sheet.ensemble().title;
    const std::size_t found = sheet.arranged(wish).found;
    const std::string what = wish.find.empty() && wish.only == nullptr
                                 ? std::to_string(sheet.rows().size()) + " rows"
                                 : std::to_string(found) + " of " + std::to_string(sheet.rows().size()) +
                                       " rows" + (wish.find.empty() ? "" : ", found by “" + wish.find + "”");
    paper.subtitle = joined(day, what);
    Chapter move = moves(sheet, wish);
    Chapter hear = hears(sheet, wish);
    if (wish.by == Reading::hear) std::swap(move, hear);
    for (Chapter* chapter : {&move, &hear}) {
        if (!chapter->sections.empty()) paper.chapters.push_back(std::move(*chapter));
    }
    if (!wish.find.empty() || wish.only != nullptr) return paper;
    if (Chapter rest = others(sheet.ensemble(), findings); !rest.sections.empty())
        paper.chapters.push_back(std::move(rest));
    return paper;
}

}  // namespace mellow::sheet
