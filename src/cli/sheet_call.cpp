#include "cli/sheet_call.h"

#include <unistd.h>

#include <array>
#include <ctime>
#include <iostream>
#include <memory>
#include <vector>

#include "cli/loading.h"
#include "core/files/files.h"
#include "core/files/helper.h"
#include "core/sheet/csv.h"
#include "core/sheet/paper.h"

namespace mellow::cli {

namespace {

/// "30 November 2026", where this machine is.
std::string today() {
    const std::time_t now = std::time(nullptr);
    std::tm day{};
    localtime_r(&now, &day);
    static constexpr std::array<const char*, 12> months{"January",   "February", "March",    "April",
                                                        "May",       "June",     "July",     "August",
                                                        "September", "October",  "November", "December"};
    constexpr int firstYear = 1900;
    return std::to_string(day.tm_mday) + " " + months.at(static_cast<std::size_t>(day.tm_mon)) + " " +
           std::to_string(firstYear + day.tm_year);
}

std::string written(const SheetOptions& options, const sheet::Sheet& sheet, const sheet::Wish& wish) {
    if (options.csv) return sheet::printCsv(sheet, wish);
    const sheet::Paper paper = sheet::paperOf(sheet, wish, check(sheet.ensemble()), today());
    return options.html ? sheet::printHtml(paper) : sheet::printMarkdown(paper);
}

}  // namespace

namespace {

/// Hands the page to the program beside this one, which has fonts.
int printPdf(const SheetOptions& options, std::ostream& err) {
    const std::string paper = files::helperPath("mellow-lever-paper");
    const std::vector<std::string> words{paper,        options.ensemble, options.output, options.by,
                                         options.find, today(),          options.paper};
    std::vector<char*> call;
    for (const std::string& word : words) call.push_back(const_cast<char*>(word.c_str()));
    call.push_back(nullptr);
    execv(paper.c_str(), call.data());
    return refuse(err, {paper, "it is not there, and writing PDF needs it", "install Mellow Lever whole"});
}

}  // namespace

int runSheet(const SheetOptions& options, std::ostream& err) {
    if (const auto apart = checkFiles({options.ensemble}, options.output); !apart)
        return refuse(err, apart.problem());
    if (options.pdf) return printPdf(options, err);
    auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    sheet::Wish wish;
    wish.by = options.by == "hear" ? sheet::Reading::hear : sheet::Reading::move;
    wish.group = sheet::groupingOf(wish.by);
    wish.find = options.find;
    const sheet::Sheet sheet(std::make_shared<const Ensemble>(std::move(*ensemble)));
    const std::string text = written(options, sheet, wish);
    if (options.output == standardStream) {
        std::cout << text;
        return endOf(std::cout, err, clear);
    }
    const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
    const Outcome done = files::writeFile(options.output, {bytes, text.size()});
    return done ? clear : refuse(err, done.problem());
}

}  // namespace mellow::cli
