// The whole house: the first steps, help, shortcuts, templates, a screen of double scale.
#include <QDir>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTemporaryDir>
#include <QTextBrowser>
#include <QTextDocument>

#include "app/document/library_folder.h"
#include "app/frame/help_window.h"
#include "app/ground/wastebasket.h"
#include "app/pages/chains/first_steps.h"
#include "app/pages/chains/rail.h"
#include "app/pages/chains/response_picture.h"
#include "app/pages/gear/gear_page.h"
#include "app/widgets/level_bar.h"
#include "core/store/ensemble_json.h"
#include "support/process.h"
#include "support/stage.h"
#include "support/texts.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;

namespace {

FirstSteps& steps(Stage& stage) {
    return *stage.window->findChild<FirstSteps*>();
}

void collect(const QMenu& menu, QList<QAction*>& all) {
    for (QAction* action : menu.actions()) {
        if (action->menu() != nullptr) {
            collect(*action->menu(), all);
        } else if (!action->isSeparator()) {
            all << action;
        }
    }
}

QList<QAction*> everyAction(Stage& stage) {
    QList<QAction*> all;
    for (QAction* action : stage.window->menus().actions()) {
        if (action->menu() != nullptr) collect(*action->menu(), all);
    }
    return all;
}

HelpWindow& help(Stage& stage) {
    auto* open = stage.window->findChild<HelpWindow*>();
    if (open == nullptr) qFatal("no help is open");
    return *open;
}

QString helpText(Stage& stage) {
    return help(stage).findChild<QTextBrowser*>()->toPlainText();
}

}  // namespace

class HouseTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    /// Without hardware: two buttons and the wheel on the screen.
    void fromNothingToAMovingMeterInThreeSteps() {
        Stage stage;
        QVERIFY(steps(stage).isVisible());
        QCOMPARE(steps(stage).next(), 1);
        stage.click("firstInstrument");
        QCOMPARE(steps(stage).next(), 2);
        stage.click("firstLearn");
        PracticeControl* wheel = stage.window->practiceKeys().control(QStringLiteral("Wheel"));
        wheel->setFocus();
        for (int i = 0; i < 30; ++i) QTest::keyClick(wheel, Qt::Key_Up);
        ++stage.acts;
        QTRY_COMPARE(stage.ensemble().instruments[0].chains.size(), std::size_t{1});
        QTRY_VERIFY((QTest::keyClick(wheel, wheel->value() > 64 ? Qt::Key_Down : Qt::Key_Up),
                     stage.window->findChild<LevelBar*>(QStringLiteral("firstMeter"))->level() > 0.05));
        QCOMPARE(steps(stage).next(), 0);
        QCOMPARE(stage.acts, 3);
    }
    /// What cannot be read of this machine's ports is said as the window opens.
    void anUnreadableTableOfThisMachineIsSaid() {
        { const Stage settings; }  // says where they are
        const QString path =
            QFileInfo(QSettings().fileName()).absolutePath() + QStringLiteral("/machine.json");
        QVERIFY(QDir().mkpath(QFileInfo(path).absolutePath()));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("[not ports") > 0);
        file.close();
        app::MainWindow window(test::alone());
        const QString said = window.noticeText();
        QVERIFY(file.remove());
        QVERIFY2(said.contains(QStringLiteral("machine.json")) &&
                     said.contains(QStringLiteral("connect them again in Gear")),
                 qPrintable(said));
    }

    /// Also of a user who has never had one; nothing goes where the program was started.
    void theWastebasketIsAtHome() {
        const QTemporaryDir folder;
        const QByteArray home = qgetenv("HOME");
        const QString was = QDir::currentPath();
        QVERIFY(QDir::setCurrent(folder.path()) && QDir().mkpath(QStringLiteral("home")));
        qputenv("HOME", QFile::encodeName(folder.filePath(QStringLiteral("home"))));
        QFile file(folder.filePath(QStringLiteral("take.mid")));
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("x") == 1);
        file.close();
        const bool done = toWastebasket(file.fileName());
        const bool gone = !file.exists();
        const QStringList beside = QDir(folder.path()).entryList(QDir::AllEntries | QDir::NoDotAndDotDot);
        const QString basket = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
                               QStringLiteral("/Trash/files/");
        const bool there = QFile::exists(basket + QStringLiteral("take.mid"));
        qputenv("HOME", home);
        QDir::setCurrent(was);
        QVERIFY(done && gone && there);
        QCOMPARE(beside, QStringList{QStringLiteral("home")});
    }

    /// Its words have the height that they need, whether one card is shown or three, and whatever it was
    /// before.
    void firstStepsFitAtAnyWidth() {
        Stage stage(true, 1.25);
        auto* columns = stage.window->findChild<QSplitter*>();
        for (const int width : {1920, 1100, 1500, 1100, 1280, 1700, 1000, 1920}) {
            stage.window->resize(width, 700);
            for (const int left : {180, width / 4}) {
                columns->setSizes({left, width - 2 * left, left});
                QTRY_COMPARE(test::faults(*stage.window), QStringList());
            }
        }
    }

    void firstStepsTickThemselvesOffHoweverTheyAreDone() {
        Stage stage;
        stage.key(Qt::Key_L);
        stage.move(1);
        QTRY_VERIFY(stage.learn().isDone());
        QCOMPARE(steps(stage).next() == 3 || steps(stage).next() == 0, true);
        const auto* away = steps(stage).findChild<QPushButton*>(QStringLiteral("firstAway"));
        const auto isDone = [&] {
            stage.move(1);
            return steps(stage).next() == 0;
        };
        QTRY_VERIFY(isDone());
        QCOMPARE(away->text(), QStringLiteral("All done: put away"));
        stage.click("firstAway");
        QVERIFY(!steps(stage).isVisible());
        // Another empty ensemble begins again; a full one does not.
        stage.window->newEnsemble();
        QTRY_VERIFY(steps(stage).isVisible());
        stage.window->openDemo();
        QTRY_VERIFY(!steps(stage).isVisible());
    }

    void everyPageHasHelpWithItsPictures() {
        Stage stage(false);
        for (std::size_t page = 0; page < pageRows().size(); ++page) {
            stage.window->showPage(page);
            stage.key(Qt::Key_F1);
            const QString id = QString::fromLatin1(pageRows()[page].id);
            QVERIFY2(helpText(stage).size() > 400, qPrintable(id));
            QVERIFY(helpText(stage).startsWith(pageRows()[page].title()));
            // Its picture is a detail that finds room in the text.
            auto* text = help(stage).findChild<QTextBrowser*>();
            const QImage picture = qvariant_cast<QImage>(text->document()->resource(
                QTextDocument::ImageResource, QUrl(QStringLiteral("qrc:/help/%1.png").arg(id))));
            QVERIFY(!picture.isNull() && picture.width() <= text->viewport()->width());
            help(stage).close();
            Stage::settle();
        }
        for (const QString& name : QDir(QStringLiteral(":/help")).entryList({QStringLiteral("*.html")})) {
            QFile file(QStringLiteral(":/help/") + name);
            QVERIFY(file.open(QIODevice::ReadOnly));
            const QString html = QString::fromUtf8(file.readAll());
            auto pictures = QRegularExpression(QStringLiteral("src=\"qrc:([^\"]+)\"")).globalMatch(html);
            while (pictures.hasNext()) {
                const QString path = QStringLiteral(":") + pictures.next().captured(1);
                QVERIFY2(!QImage(path).isNull(), qPrintable(path));
            }
            // What help says about keys is so.
            auto keys =
                QRegularExpression(QStringLiteral("<b>((?:Ctrl|Shift)\\+[^<]+|F\\d+)</b>")).globalMatch(html);
            while (keys.hasNext()) {
                const QString said = keys.next().captured(1);
                if (said == QLatin1String("F12")) continue;
                const auto actions = everyAction(stage);
                QVERIFY2(std::any_of(
                             actions.begin(), actions.end(),
                             [&](QAction* each) { return each->shortcuts().contains(QKeySequence(said)); }),
                         qPrintable(name + ": " + said));
            }
        }
    }
    void theShortcutsPageIsMadeFromTheActions() {
        Stage stage(false);
        stage.key(Qt::Key_F1, Qt::ShiftModifier);
        const QString text = helpText(stage);
        int listed = 0;
        for (QAction* action : everyAction(stage)) {
            for (const QKeySequence& keys : action->shortcuts()) {
                ++listed;
                QVERIFY2(text.contains(keys.toString(QKeySequence::NativeText)), qPrintable(keys.toString()));
                QVERIFY2(text.contains(QString(action->text()).remove(QLatin1Char('&'))),
                         qPrintable(action->text()));
            }
        }
        QVERIFY(listed > 40);
    }
    /// The same as a sheet for the wall: whole, readable, on few pages.
    void theKeysGoOutAsASheet() {
        Stage stage(false);
        stage.key(Qt::Key_F1);
        auto* print = help(stage).findChild<QPushButton*>(QStringLiteral("printKeys"));
        auto* write = help(stage).findChild<QPushButton*>(QStringLiteral("writeKeys"));
        QVERIFY(!print->isVisible() && !write->isVisible());
        auto* pages = help(stage).findChild<QListWidget*>(QStringLiteral("helpPages"));
        pages->setCurrentRow(pages->count() - 1);
        QVERIFY(print->isVisible() && write->isVisible());
        const QTemporaryDir folder;
        const QString path = folder.filePath(QStringLiteral("keys.pdf"));
        // Without an ending it gets one.
        help(stage).onAskPath([&folder](QWidget*, const QString& suggestion) {
            return suggestion.endsWith(QStringLiteral(".pdf")) ? folder.filePath(QStringLiteral("keys"))
                                                               : QString();
        });
        write->click();
        QVERIFY(QFileInfo::exists(path));
        auto* said = help(stage).findChild<QLabel*>(QStringLiteral("helpSaid"));
        QVERIFY(said->isVisible() && said->text().contains(QStringLiteral("keys.pdf")));
        const test::Ended text =
            test::run(QStringLiteral("pdftotext"), {QStringLiteral("-layout"), path, QStringLiteral("-")});
        QCOMPARE(text.code, 0);
        int listed = 0;
        for (QAction* action : everyAction(stage)) {
            for (const QKeySequence& keys : action->shortcuts()) {
                ++listed;
                QVERIFY2(text.out.contains(keys.toString(QKeySequence::NativeText)),
                         qPrintable(keys.toString()));
            }
            const QString what = QString(action->text()).remove(QLatin1Char('&'));
            if (!action->shortcuts().isEmpty()) QVERIFY2(text.out.contains(what), qPrintable(what));
        }
        QVERIFY(listed > 40);
        QVERIFY(text.out.count(QLatin1Char('\f')) <= 2);
        // Where nothing can be written, that is said.
        help(stage).onAskPath([](QWidget*, const QString&) { return QStringLiteral("/nowhere/keys.pdf"); });
        write->click();
        QVERIFY2(said->text().contains(QStringLiteral("/nowhere")), qPrintable(said->text()));
    }
    /// On each page a key means one thing, and each entry says what it does.
    void noKeyMeansTwoThings() {
        Stage stage(false);
        for (std::size_t page = 0; page < pageRows().size(); ++page) {
            stage.window->showPage(page);
            QMap<QString, QString> taken;
            for (QAction* action : everyAction(stage)) {
                const bool named = action->toolTip() != action->text() && !action->toolTip().isEmpty();
                const bool undo = action->text().startsWith(QStringLiteral("Undo")) ||
                                  action->text().startsWith(QStringLiteral("Redo"));
                const bool recent = action->text().contains(QStringLiteral("opened yet"));
                QVERIFY2(named || undo || recent, qPrintable(action->text()));
                if (!action->isVisible()) continue;
                for (const QKeySequence& keys : action->shortcuts()) {
                    QVERIFY2(
                        !taken.contains(keys.toString()),
                        qPrintable(keys.toString() + ": " + action->text() + ", " + taken[keys.toString()]));
                    taken[keys.toString()] = action->text();
                }
            }
        }
    }

    /// Without a mouse: an instrument, a chain, a second target, a step that is bent, all saved by keys.
    void theKeyboardAlone() {
        Stage stage;
        stage.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        stage.key(Qt::Key_Return, Qt::ControlModifier);
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), 1U);
        stage.key(Qt::Key_T, Qt::ControlModifier);
        stage.take(QStringLiteral("tone"));
        stage.key(Qt::Key_E, Qt::ControlModifier);
        auto* words = stage.window->findChild<QLineEdit*>(QStringLiteral("stepWords"));
        QVERIFY(words != nullptr);
        QTest::keyClicks(words, QStringLiteral("bend"));
        QTest::keyClick(words, Qt::Key_Return);
        Stage::settle();
        const auto chain = [&]() -> const Chain& { return stage.ensemble().instruments[0].chains[0]; };
        QCOMPARE(chain().branches.size(), 2U);
        // Tab goes round through everything that can be reached, painted parts too, as one reads.
        std::set<QWidget*> reached;
        QWidget* start = &stage.window.page();
        start->setFocus();
        constexpr int most = 300;
        for (int i = 0; i < most; ++i) {
            QWidget* focus = QApplication::focusWidget();
            QVERIFY(focus != nullptr);
            reached.insert(focus);
            QTest::keyClick(focus, Qt::Key_Tab);
        }
        std::vector<Rail*> rails;
        for (Rail* rail : stage.window->findChildren<Rail*>()) {
            if (rail->isVisible()) rails.push_back(rail);
        }
        QCOMPARE(rails.size(), 3U);
        for (Rail* rail : rails) QVERIFY2(reached.contains(rail), qPrintable(rail->content().name));
        auto* picture = stage.window->findChild<ResponsePicture*>();
        QVERIFY(reached.contains(picture));
        QVERIFY(reached.contains(&stage.window->ensembleList()));
        // The step that was added is branch-wise or in the trunk, and is changed by arrows.
        stage.window.select(stage.ensemble().instruments[0].id, chain().id, app::Part::source);
        rails[1]->setFocus();
        const Branch before = chain().branches[0];
        QTest::keyClick(rails[1], Qt::Key_Down);
        QVERIFY(chain().branches[0].high != before.high);
        stage.key(Qt::Key_M, Qt::ControlModifier);
        QVERIFY(!chain().on);
        stage.key(Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), 2U);
        stage.key(Qt::Key_Backspace, Qt::ControlModifier);
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), 1U);
        stage.goesBackAndForth();
    }

    void aTemplateIsKeptAndBegunWith() {
        QDir(templatesFolder()).removeRecursively();
        Stage stage(false);
        const std::string title = stage.ensemble().title;
        QVERIFY(stage.window->files().keepTemplate(QStringLiteral("Film with weather/2")));
        QVERIFY(!stage.window->files().keepTemplate(QStringLiteral("  ")));
        stage.window->newEnsemble();
        QVERIFY(stage.ensemble().instruments.empty());
        stage.key(Qt::Key_N, Qt::ControlModifier | Qt::AltModifier);
        stage.take(QStringLiteral("weather"));
        QCOMPARE(stage.ensemble().title, title);
        QVERIFY(stage.ensemble().instruments.size() > 3);
        // It belongs to no file, so that saving it does not change the template.
        QVERIFY(stage.window->document().path().isEmpty());
    }

    /// Every child that is shown lies within its window, at double scale too: see aScreenOfDoubleScale.
    void aScreenOfDoubleScale() {
        QProcess again;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("QT_SCALE_FACTOR"), QStringLiteral("2"));
        again.setProcessEnvironment(environment);
        again.start(QCoreApplication::applicationFilePath(), {QStringLiteral("atDoubleScale")});
        QVERIFY(test::ends(again, 60'000));
        QVERIFY2(again.exitCode() == 0, again.readAllStandardOutput().constData());
    }
    void atDoubleScale() {
        Stage stage(false);
        if (qEnvironmentVariable("QT_SCALE_FACTOR") != QLatin1String("2"))
            QSKIP("asked for by the test before");
        stage.window->resize(1920, 1080);
        QCoreApplication::processEvents();
        const QPixmap picture = stage.window->grab();
        QCOMPARE(picture.devicePixelRatio(), 2.0);
        QCOMPARE(picture.size(), QSize(3840, 2160));
        // Lines are drawn at the screen's own fineness: a rail's picture has twice the pixels.
        for (const Rail* rail : stage.window->findChildren<Rail*>()) {
            if (rail->isVisible())
                QVERIFY(stage.window->rect().contains(rail->mapTo(&*stage.window, rail->rect().center())));
        }
    }
};

QTEST_MAIN(HouseTest)
#include "house.moc"
