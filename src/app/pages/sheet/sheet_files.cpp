// What is written is worked out aside: a large ensemble has hundreds of pages.
#include "app/pages/sheet/sheet_files.h"

#include <QDate>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QLocale>
#include <QPrintDialog>
#include <QPrinter>

#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "app/pages/sheet/proposal_dialog.h"
#include "app/paper/paper_painter.h"
#include "app/paper/usual_paper.h"
#include "core/files/files.h"
#include "core/sheet/csv.h"
#include "core/sheet/paper.h"

namespace mellow::app {

namespace {

std::string today() {
    return QLocale(QLocale::English)
        .toString(QDate::currentDate(), QStringLiteral("d MMMM yyyy"))
        .toStdString();
}

sheet::Paper paperOf(const std::shared_ptr<const Ensemble>& ensemble, const sheet::Wish& wish,
                     const std::string& day) {
    const sheet::Sheet sheet(ensemble);
    return sheet::paperOf(sheet, wish, check(*ensemble), day);
}

/// The bytes of a file by its ending; a PDF in a country's own size.
QByteArray bytesFor(const QString& ending, const std::shared_ptr<const Ensemble>& ensemble,
                    const sheet::Wish& wish, const std::string& day, QPageSize::PageSizeId size) {
    if (ending == QLatin1String("csv")) {
        const std::string text = sheet::printCsv(sheet::Sheet(ensemble), wish);
        return QByteArray::fromStdString(text);
    }
    const sheet::Paper paper = paperOf(ensemble, wish, day);
    if (ending == QLatin1String("html") || ending == QLatin1String("htm"))
        return QByteArray::fromStdString(sheet::printHtml(paper));
    if (ending == QLatin1String("md")) return QByteArray::fromStdString(sheet::printMarkdown(paper));
    return pdfOf(paper, size);
}

}  // namespace

SheetFiles::SheetFiles(Workspace& workspace, QWidget* page)
    : QObject(page), workspace_(workspace), page_(page) {
    askWrite_ = [](QWidget* window, const QString& suggestion) {
        return QFileDialog::getSaveFileName(
            window, tr("Write the sheet"), suggestion,
            tr("PDF (*.pdf);;Web page (*.html);;Spreadsheet (*.csv);;Markdown (*.md)"));
    };
    askRead_ = [](QWidget* window, const QString&) {
        return QFileDialog::getOpenFileName(window, tr("Read a spreadsheet"), {},
                                            tr("Spreadsheets (*.csv *.tsv);;All files (*)"));
    };
}

void SheetFiles::write(const sheet::Wish& wish) {
    const QString& document = workspace_.document.path();
    const QString name = document.isEmpty() ? toQt(workspace_.document.ensemble().title)
                                            : QFileInfo(document).completeBaseName();
    const QString folder = document.isEmpty() ? QString() : QFileInfo(document).path() + QLatin1Char('/');
    const QString path = askWrite_(page_->window(), folder + name + QStringLiteral(".pdf"));
    if (!path.isEmpty()) writeTo(path, wish);
}

void SheetFiles::writeTo(const QString& path, const sheet::Wish& wish) {
    const QString ending = QFileInfo(path).suffix().toLower();
    static const QStringList known{QStringLiteral("pdf"), QStringLiteral("html"), QStringLiteral("htm"),
                                   QStringLiteral("csv"), QStringLiteral("md")};
    if (!known.contains(ending)) {
        workspace_.tell(tr("%1: the ending says as what it is to be written; use .pdf, .html, .csv or .md.")
                            .arg(QFileInfo(path).fileName()));
        return;
    }
    // Working it out can be left; a file that is being written is waited for.
    const QString saying = tr("Writing %1").arg(QFileInfo(path).fileName());
    const auto bytes = doneUnlessLeft(
        {saying}, [ensemble = workspace_.document.shared(), wish, day = today(), ending,
                   size = usualPaper()] { return bytesFor(ending, ensemble, wish, day, size); });
    if (!bytes) return;
    const Outcome written = doneAside({saying}, [&bytes, file = QFile::encodeName(path).toStdString()] {
        return files::writeFile(
            file, std::string_view(bytes->constData(), static_cast<std::size_t>(bytes->size())));
    });
    if (!written) return workspace_.tell(toQt(written.problem().sentence()) + QLatin1Char('.'));
    workspace_.hint(tr("Written: %1.").arg(QFileInfo(path).fileName()));
}

void SheetFiles::print(const sheet::Wish& wish) {
    QPrinter printer;
    printer.setPageSize(QPageSize(usualPaper()));
    constexpr double margin = 15;
    printer.setPageMargins(QMarginsF(margin, margin, margin, margin), QPageLayout::Millimeter);
    printer.setDocName(toQt(workspace_.document.ensemble().title));
    QPrintDialog dialog(&printer, page_->window());
    if (dialog.exec() != QDialog::Accepted) return;
    const bool printed =
        doneAside({tr("Printing")}, [&printer, ensemble = workspace_.document.shared(), wish, day = today()] {
            return paintPaper(printer, paperOf(ensemble, wish, day));
        });
    if (!printed)
        workspace_.tell(tr("Nothing was printed: the printer cannot be written to. Write a PDF instead."));
}

void SheetFiles::read() {
    const QString path = askRead_(page_->window(), {});
    if (!path.isEmpty()) readFrom(path);
}

bool SheetFiles::readFrom(const QString& path) {
    const auto proposal =
        doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())},
                       [ensemble = workspace_.document.shared(),
                        file = QFile::encodeName(path).toStdString()]() -> Result<sheet::Proposal> {
                           const auto text = files::readTextFile(file);
                           if (!text) return text.problem();
                           auto read = sheet::readCsv(*ensemble, *text);
                           if (!read) return files::inFile(file, read.problem());
                           return read;
                       });
    if (!proposal) return false;
    if (!*proposal) {
        workspace_.tell(toQt(proposal->problem().sentence()) + QLatin1Char('.'));
        return false;
    }
    (new ProposalDialog(workspace_.document, tr("Read %1").arg(QFileInfo(path).fileName()),
                        std::move(**proposal), page_->window()))
        ->open();
    return true;
}

}  // namespace mellow::app
