// Another document: nothing of the one before is left anywhere in the window. Whatever is shown on each page
// is what a window shows that was started on that document.
#include <QAbstractItemView>
#include <QComboBox>

#include "app/frame/just_now.h"
#include "app/pages/sheet/sheet_model.h"
#include "app/takes/transport.h"
#include "core/store/ensemble_json.h"
#include "support/random_ensemble.h"
#include "support/window.h"

using namespace mellow;
using test::Window;

namespace {

void addRows(const QAbstractItemModel& model, const QModelIndex& parent, QStringList& texts) {
    // Where things stand now is no part of a document either.
    const auto* sheet = qobject_cast<const app::SheetModel*>(&model);
    const int now = sheet == nullptr ? -1 : sheet->columnOf("now");
    for (int row = 0; row < model.rowCount(parent); ++row) {
        for (int column = 0; column < model.columnCount(parent); ++column)
            if (column != now)
                texts << QStringLiteral("  ") + model.index(row, column, parent).data().toString();
    }
}

/// All that can be read on the page that is shown, in the order of the widgets.
QStringList textsOf(QWidget& window) {
    QStringList texts;
    for (QWidget* each : window.findChildren<QWidget*>()) {
        // A document that is opened again goes on with what its chains remember, so that nothing jumps;
        // whether they have spoken is no part of it.
        if (!each->isVisible() || each->objectName() == QLatin1String("quiet")) continue;
        const QString name =
            QLatin1String(each->metaObject()->className()) + QLatin1Char(' ') + each->objectName();
        if (const auto* label = qobject_cast<QLabel*>(each)) texts << name + QLatin1Char(' ') + label->text();
        if (const auto* button = qobject_cast<QAbstractButton*>(each))
            texts << name + QLatin1Char(' ') + button->text() +
                         (button->isChecked() ? QStringLiteral(" x") : QString());
        if (const auto* field = qobject_cast<QLineEdit*>(each))
            texts << name + QLatin1Char(' ') + field->text();
        if (const auto* box = qobject_cast<QComboBox*>(each))
            texts << name + QLatin1Char(' ') + box->currentText();
        if (const auto* lines = qobject_cast<app::FewLines*>(each))
            texts << name + QLatin1Char(' ') + lines->text();
        const auto* view = qobject_cast<QAbstractItemView*>(each);
        if (view == nullptr || view->model() == nullptr) continue;
        // What just happened is no part of a document.
        if (qobject_cast<const app::JustNowModel*>(view->model()) != nullptr) continue;
        texts << name;
        addRows(*view->model(), {}, texts);
    }
    return texts;
}

QList<QStringList> pagesOf(Window& window) {
    QList<QStringList> pages;
    for (std::size_t page = 0; page < app::pageRows().size(); ++page) {
        window->showPage(page);
        // Findings, results and the look at ports come a moment later: until nothing changes for a while.
        QStringList texts = textsOf(*window);
        QElapsedTimer still;
        still.start();
        (void)QTest::qWaitFor(
            [&] {
                if (const QStringList now = textsOf(*window); now != texts) {
                    texts = now;
                    still.restart();
                }
                return still.elapsed() > 400;
            },
            3000);
        pages << textsOf(*window);
    }
    return pages;
}

QString write(Window& window, const Ensemble& ensemble) {
    const QString path = window.folder.filePath(QStringLiteral("another.lever"));
    QFile file(path);
    if (!file.open(QIODevice::WriteOnly)) qFatal("cannot write");
    file.write(QByteArray::fromStdString(store::printEnsemble(ensemble)));
    return path;
}

/// A hand goes over all of the window: every page is visited, things are selected, played and moved.
void useIt(Window& window) {
    window->openDemo();
    pagesOf(window);
    window.select("flute", "breath", app::Part::branch, 1);
    window->live().hands().send(midi::make(midi::controlChange, 0, 1, 100));
    window->live().hands().moveDesk("/shiver", 0.7);
    window->selection().go(app::GearPlace{true, "practice-keys"});
    window->takes().choice.choose("wet-stones");
    window->takes().choice.setSpan({1'000'000, 2'000'000});
    pagesOf(window);
}

void compare(Window& used, Window& fresh) {
    const QList<QStringList> seen = pagesOf(used);
    const QList<QStringList> wanted = pagesOf(fresh);
    for (qsizetype page = 0; page < wanted.size(); ++page) {
        for (qsizetype i = 0; i < std::max(seen[page].size(), wanted[page].size()); ++i) {
            const QString is = seen[page].value(i);
            const QString should = wanted[page].value(i);
            QVERIFY2(
                is == should,
                qPrintable(
                    QStringLiteral("page %1: “%2”, a fresh window has “%3”").arg(page + 1).arg(is, should)));
        }
    }
}

}  // namespace

class AnotherTest : public QObject {
    Q_OBJECT

 private slots:
    void afterNew() {
        Window used;
        useIt(used);
        used->newEnsemble();
        Window fresh;
        fresh->newEnsemble();
        compare(used, fresh);
    }
    void afterOpen() {
        Window used;
        const Ensemble other = test::RandomWorld(3).ensemble();
        useIt(used);
        QVERIFY(used->openFile(write(used, other)));
        Window fresh;
        fresh->newEnsemble();
        QVERIFY(fresh->openFile(write(fresh, other)));
        compare(used, fresh);
    }
    void afterTheDemoAgain() {
        Window used;
        useIt(used);
        used->openDemo();
        Window fresh;
        fresh->openDemo();
        compare(used, fresh);
    }
};

QTEST_MAIN(AnotherTest)
#include "another.moc"
