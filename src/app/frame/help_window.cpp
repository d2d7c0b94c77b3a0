// Pages are small HTML files among the resources. Their colours come from the theme, so they say none.
#include "app/frame/help_window.h"

#include <QFile>
#include <QHBoxLayout>
#include <QMenu>
#include <QUrl>
#include <algorithm>
#include <array>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/page.h"

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

/// Entries of a menu and of those in it.
void addEntries(const QMenu& menu, QString& rows) {
    for (const QAction* action : menu.actions()) {
        if (action->isSeparator()) continue;
        if (action->menu() != nullptr) {
            addEntries(*action->menu(), rows);
            continue;
        }
        QStringList keys;
        for (const QKeySequence& each : action->shortcuts()) keys << each.toString(QKeySequence::NativeText);
        if (keys.isEmpty()) continue;
        rows += QStringLiteral("<tr>") + cell(keys.join(HelpWindow::tr(" or "))) +
                cell(QString(action->text()).remove(QLatin1Char('&'))) + cell(action->toolTip()) +
                QStringLiteral("</tr>");
    }
}

}  // namespace

HelpWindow::HelpWindow(QMenuBar& menus, QWidget* window)
    : QDialog(window), menus_(menus), list_(new QListWidget), text_(new HelpText) {
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
    row->addWidget(list_);
    row->addWidget(text_, 1);
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
    if (id == QLatin1String("shortcuts")) return text_->setHtml(shortcuts(menus_));
    QFile file(QStringLiteral(":/help/%1.html").arg(id));
    text_->setHtml(file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll())
                                                  : tr("There is no help for this page yet."));
}

QString HelpWindow::shortcuts(const QMenuBar& menus) {
    QString html = QStringLiteral("<h1>%1</h1>").arg(tr("Shortcuts"));
    for (const QAction* action : menus.actions()) {
        if (action->menu() == nullptr) continue;
        QString rows;
        addEntries(*action->menu(), rows);
        if (rows.isEmpty()) continue;
        html += QStringLiteral("<h2>%1</h2><table>%2</table>")
                    .arg(QString(action->text()).remove(QLatin1Char('&')).toHtmlEscaped(), rows);
    }
    // Keys that are held have no menu entry that they could run.
    const QString held = QStringLiteral("<tr>%1%2</tr>");
    html += QStringLiteral("<h2>%1</h2><table>").arg(tr("Held, while a control is moved")) +
            held.arg(cell(QStringLiteral(",")), cell(tr("The low end of a reach, by playing"))) +
            held.arg(cell(QStringLiteral(".")), cell(tr("The high end of a reach, by playing"))) +
            held.arg(cell(QStringLiteral(";")), cell(tr("Calibrate: the travel of a control"))) +
            held.arg(cell(QStringLiteral("F12")), cell(tr("The state before the newest edit"))) +
            QStringLiteral("</table>");
    return html;
}

}  // namespace mellow::app
