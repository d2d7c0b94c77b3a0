// As text a group is a line, and what is said of it stands indented below, so that a change of one value is a
// change of one line in a commit.
#include "cli/compare_call.h"

#include <nlohmann/json.hpp>
#include <ostream>

#include "cli/loading.h"
#include "core/compare/compare.h"
#include "core/text/printable.h"

namespace mellow::cli {

namespace {

constexpr std::size_t longest = 2000;

std::string asJson(const std::vector<compare::Difference>& all) {
    nlohmann::ordered_json json = nlohmann::ordered_json::array();
    for (const compare::Difference& each : all)
        json.push_back({{"where", each.group}, {"kind", compare::nameOf(each.kind)}, {"what", each.words}});
    return json.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

void writeText(const std::vector<compare::Difference>& all, std::ostream& out) {
    std::string group = "\n";
    for (const compare::Difference& each : all) {
        if (each.group != group) out << text::printable(each.group, longest) << '\n';
        group = each.group;
        out << "  " << text::printable(each.words, longest) << '\n';
    }
}

}  // namespace

int runCompare(const CompareOptions& options, std::ostream& out, std::ostream& err) {
    if (options.one == standardStream && options.other == standardStream)
        return refuse(err,
                      {"compare", "both ensembles are to come from standard input", "name a file for one"});
    const auto one = loadEnsemble(options.one);
    if (!one) return refuse(err, one.problem());
    const auto other = loadEnsemble(options.other);
    if (!other) return refuse(err, other.problem());
    const std::vector<compare::Difference> all = compare::differences(*one, *other);
    if (options.json) {
        out << asJson(all);
    } else {
        writeText(all, out);
    }
    return endOf(out, err, all.empty() ? clear : hasTrouble);
}

}  // namespace mellow::cli
