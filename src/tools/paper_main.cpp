// mellow-lever-paper: the sheet of an ensemble as PDF, for the call `sheet --pdf` of the command line, which
// has no fonts of its own.
//
// usage: mellow-lever-paper ENSEMBLE OUT move|hear WORDS DAY A4|Letter
#include <QFontDatabase>
#include <QGuiApplication>
#include <cstdio>
#include <memory>

#include "app/paper/paper_painter.h"
#include "core/checks/check.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"

namespace {

using namespace mellow;

int refuse(const Problem& problem) {
    std::fprintf(stderr, "%s\n", problem.sentence().c_str());
    return 2;
}

int run(const std::vector<std::string>& words) {
    const auto text = files::readTextFile(words[1]);
    if (!text) return refuse(text.problem());
    auto ensemble = store::parseEnsemble(*text);
    if (!ensemble) return refuse(files::inFile(words[1], ensemble.problem()));
    sheet::Wish wish;
    wish.by = words[3] == "hear" ? sheet::Reading::hear : sheet::Reading::move;
    wish.group = sheet::groupingOf(wish.by);
    wish.find = words[4];
    const sheet::Sheet sheet(std::make_shared<const Ensemble>(std::move(*ensemble)));
    const sheet::Paper paper = sheet::paperOf(sheet, wish, check(sheet.ensemble()), words[5]);
    const QByteArray pdf = app::pdfOf(paper, words[6] == "Letter" ? QPageSize::Letter : QPageSize::A4);
    const Outcome written =
        files::writeFile(words[2], std::string_view(pdf.constData(), static_cast<std::size_t>(pdf.size())));
    return written ? 0 : refuse(written.problem());
}

}  // namespace

int main(int argc, char** argv) {
    constexpr int expected = 7;
    const std::vector<std::string> words(argv, argv + argc);
    if (argc != expected) {
        std::fprintf(stderr, "usage: mellow-lever-paper ENSEMBLE OUT move|hear WORDS DAY A4|Letter\n");
        return 2;
    }
    // Nothing is shown, so no screen is needed.
    qputenv("QT_QPA_PLATFORM", "offscreen");
    // What goes wrong is said in our own words.
    qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString&) {});
    const QGuiApplication application(argc, argv);
    for (const char* font : {":/fonts/Manrope-Regular.ttf", ":/fonts/Manrope-SemiBold.ttf"})
        QFontDatabase::addApplicationFont(QLatin1String(font));
    return run(words);
}
