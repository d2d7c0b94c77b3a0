// Pages are small HTML files among the resources. Their colours come from the theme, so they say none.
#include "app/frame/help_window.h"

#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QUrl>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "app/ground/aside.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/page.h"
#include "app/paper/keyboard_sheet.h"
#include "app/paper/usual_paper.h"
#include "core/files/files.h"

namespace mellow::app {

namespace {

/// What of a picture of the whole window a page shows, at its full size.
struct Detail {
    const char* name;
    QRect rect;
};
constexpr std::array details{Detail{"chains", {209, 332, 762, 340}}, Detail{"steps", {462, 62, 760, 460}},
                             Detail{"learn", {280, 0, 780, 190}},    Detail{"desk", {209, 90, 780, 440}},
                             Detail{"takes", {0, 90, 780, 460}},     Detail{"gear", {209, 90, 770, 290}},
                             Detail{"sheet", {0, 90, 780, 420}},     Detail{"balance", {236, 70, 750, 440}}};

/// Text whose pictures are details.
class HelpText : public QTextBrowser {
 public:
    QVariant loadResource(int type, const QUrl& name) override {
        const auto found = std::find_if(details.begin(), details.end(), [&name](const Detail& each) {
            return name.path() == QStringLiteral("/help/%1.png").arg(QLatin1String(each.name));
        });
        if (found == details.end()) return QTextBrowser::loadResource(type, name);
        return QImage(QLatin1Char(':') + name.path()).copy(found->rect);
    }
};

QString cell(const QString& text) {
    return QStringLiteral("<td style=\"padding-right:24px\">%1</td>").arg(text.toHtmlEscaped());
}

}  // namespace

HelpWindow::HelpWindow(QMenuBar& menus, QWidget* window)
    : QDialog(window),
      menus_(menus),
      list_(new QListWidget),
      text_(new HelpText),
      said_(new QLabel),
      askPath_([](QWidget* above, const QString& suggestion) {
          return QFileDialog::getSaveFileName(above, tr("Write the keys"), suggestion, tr("PDF (*.pdf)"));
      }) {
    setObjectName(QStringLiteral("helpWindow"));
    setWindowTitle(tr("Help"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(12), scaled(12), scaled(12), scaled(12));
    row->setSpacing(scaled(12));
    const auto add = [this](const QString& title, const QString& id) {
        auto* item = new QListWidgetItem(title, list_);
        item->setData(Qt::UserRole, id);
    };
    add(tr("First steps"), QStringLiteral("first"));
    for (const PageRow& page : pageRows()) add(page.title(), toQt(page.id));
    add(tr("Shortcuts"), QStringLiteral("shortcuts"));
    list_->setObjectName(QStringLiteral("helpPages"));
    list_->setAccessibleName(tr("Pages of help"));
    list_->setFixedWidth(scaled(140));
    text_->setObjectName(QStringLiteral("helpText"));
    text_->setOpenLinks(false);
    auto* column = new QVBoxLayout;
    sheetRow_ = makeSheetRow();
    said_->setObjectName(QStringLiteral("helpSaid"));
    said_->setWordWrap(true);
    said_->hide();
    column->addWidget(text_, 1);
    column->addWidget(said_);
    column->addWidget(sheetRow_);
    row->addWidget(list_);
    row->addLayout(column, 1);
    connect(list_, &QListWidget::currentItemChanged, this, [this](const QListWidgetItem* now) {
        if (now != nullptr) showPage(now->data(Qt::UserRole).toString());
    });
    resize(scaled(1000), scaled(680));
}

void HelpWindow::showPage(const QString& id) {
    for (int i = 0; i < list_->count(); ++i) {
        if (list_->item(i)->data(Qt::UserRole).toString() != id) continue;
        if (list_->currentRow() != i) return list_->setCurrentRow(i);
    }
    sheetRow_->setVisible(id == QLatin1String("shortcuts"));
    said_->hide();
    if (id == QLatin1String("shortcuts")) return text_->setHtml(shortcuts(menus_));
    QFile file(QStringLiteral(":/help/%1.html").arg(id));
    text_->setHtml(file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll())
                                                  : tr("There is no help for this page yet."));
}

QString HelpWindow::shortcuts(const QMenuBar& menus) {
    QString html = QStringLiteral("<h1>%1</h1>").arg(tr("Shortcuts"));
    for (const KeyGroup& group : keyGroups(menus)) {
        QString rows;
        for (const KeyLine& line : group.lines)
            rows += QStringLiteral("<tr>") + cell(line.keys) + cell(line.what) + cell(line.tip) +
                    QStringLiteral("</tr>");
        html += QStringLiteral("<h2>%1</h2><table>%2</table>").arg(group.title.toHtmlEscaped(), rows);
    }
    return html;
}

/// The sheet of keys, which stands where it is of use: on the wall.
QWidget* HelpWindow::makeSheetRow() {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* print = new QPushButton(tr("Print…"));
    print->setObjectName(QStringLiteral("printKeys"));
    print->setToolTip(tr("Print all keys on a sheet for the wall"));
    connect(print, &QPushButton::clicked, this, &HelpWindow::printKeys);
    auto* write = new QPushButton(tr("Write a PDF…"));
    write->setObjectName(QStringLiteral("writeKeys"));
    write->setToolTip(tr("Write the same sheet into a file"));
    connect(write, &QPushButton::clicked, this, [this] {
        const QString path = askPath_(this, tr("Mellow Lever keys.pdf"));
        if (!path.isEmpty()) writeKeys(path);
    });
    line->addStretch(1);
    line->addWidget(print);
    line->addWidget(write);
    return row;
}

void HelpWindow::printKeys() {
    QPrinter printer;
    printer.setPageSize(QPageSize(usualPaper()));
    printer.setDocName(tr("Mellow Lever: keys"));
    QPrintDialog dialog(&printer, this);
    if (dialog.exec() != QDialog::Accepted) return;
    if (!paintKeyboardSheet(printer, keyGroups(menus_)))
        say(tr("Nothing was printed: the printer cannot be written to. Write a PDF instead."));
}

void HelpWindow::writeKeys(const QString& wished) {
    const QString path = QFileInfo(wished).suffix().isEmpty() ? wished + QStringLiteral(".pdf") : wished;
    const QByteArray bytes = keyboardSheetPdf(keyGroups(menus_), usualPaper());
    const QString name = QFileInfo(path).fileName();
    const Outcome written =
        doneAside({tr("Writing %1").arg(name)}, [&bytes, file = QFile::encodeName(path).toStdString()] {
            return files::writeFile(
                file, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
        });
    say(written ? tr("Written: %1.").arg(name) : toQt(written.problem().sentence()) + QLatin1Char('.'));
}

void HelpWindow::say(const QString& sentence) {
    said_->setText(sentence);
    said_->show();
}

}  // namespace mellow::app
