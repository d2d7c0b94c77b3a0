// The disk takes its time, or never answers: the window goes on, says what it waits for, and can be told not
// to wait for what is only read.
#include "support/slow_disk.h"

#include <QProgressDialog>
#include <QPushButton>

#include "app/pages/gear/profile_panel.h"
#include "app/pages/takes/takes_page.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::SlowDisk;
using test::Window;

namespace {

/// A window, and a folder of documents on a disk that is watched.
struct Scene {
    Window window;
    QString folder;
    SlowDisk disk;

    Scene() : folder(made(window)), disk(folder.toStdString()) {}
    static QString made(Window& window) {
        const QString path = window.folder.filePath(QStringLiteral("documents"));
        if (!QDir().mkpath(path)) qFatal("cannot make %s", qPrintable(path));
        return path;
    }
    [[nodiscard]] QString file(const char* name) const {
        return folder + QLatin1Char('/') + QLatin1String(name);
    }
    void rename(const char* title) {
        window->document().edit(QStringLiteral("Rename"), [title](Ensemble& e) { e.title = title; });
    }
    void saveAs(const char* name) {
        window.savePath = file(name);
        window.menu(QStringLiteral("Save as…"));
    }
    /// The profile of the first instrument, written to glass.csv.
    ProfilePanel& exportedProfile() {
        window->showPage(3);
        window.click("showProfile");
        auto& panel = *window->findChild<ProfilePanel*>();
        panel.show(ProfilePlace::parameters(window.ensemble().instruments[0].id));
        panel.files().writeTo(file("glass.csv"));
        return panel;
    }
    QString byWindow() {
        QString all;
        for (const std::string& each : disk.byWindow())
            all += QString::fromStdString(each) + QLatin1Char('\n');
        return all;
    }
};

/// Looks again and again at the panel that says what is waited for, and does something once it is there.
class PanelWatch : public QObject {
 public:
    explicit PanelWatch(std::function<void(QProgressDialog&)> act) : act_(std::move(act)) { startTimer(5); }
    QString said;

 protected:
    void timerEvent(QTimerEvent*) override {
        if (!said.isEmpty()) return;
        for (QWidget* each : QApplication::topLevelWidgets()) {
            auto* panel = qobject_cast<QProgressDialog*>(each);
            if (panel == nullptr || !panel->isVisible()) continue;
            said = panel->labelText();
            return act_(*panel);
        }
    }

 private:
    std::function<void(QProgressDialog&)> act_;
};

}  // namespace

class SlowDiskTest : public QObject {
    Q_OBJECT

 private slots:
    void theWindowsThreadTouchesNoFile() {
        Scene scene;
        Window& window = scene.window;
        scene.saveAs("storm.lever");
        QCOMPARE(scene.byWindow(), QString());
        scene.rename("Storm glass");
        window.menu(QStringLiteral("Save"));
        QVERIFY(!window->document().isModified());
        QCOMPARE(scene.byWindow(), QString());
        scene.saveAs("calm.lever");
        QVERIFY(window->openFile(scene.file("storm.lever")));
        QCOMPARE(window.ensemble().title, std::string("Storm glass"));
        QCOMPARE(scene.byWindow(), QString());
    }

    void takesComeAndGoAside() {
        Scene scene;
        Window& window = scene.window;
        scene.saveAs("storm.lever");
        window->selection().go(TakePlace{"barometer-falls"});
        TakeWork& takes = window->takes();
        QVERIFY(!takes.choice.take()->events.empty());
        takes.changing.setCues(QStringLiteral("Mark"), {});
        takes.changing.rename(QStringLiteral("Falling glass"));
        window.menu(QStringLiteral("Save"));
        // What is opened anew is read anew.
        QVERIFY(window->openFile(scene.file("storm.lever")));
        QVERIFY(!takes.choice.take()->events.empty());
        QCOMPARE(scene.byWindow(), QString());
    }

    void profilesComeAndGoAside() {
        Scene scene;
        ProfilePanel& panel = scene.exportedProfile();
        QVERIFY(QFile::exists(scene.file("glass.csv")));
        panel.files().readFrom(scene.file("glass.csv"));
        QCOMPARE(scene.byWindow(), QString());
    }

    void savingWaitsAndTheWindowGoesOn() {
        Scene scene;
        Window& window = scene.window;
        scene.saveAs("storm.lever");
        scene.rename("Storm glass");
        scene.disk.hold();
        PanelWatch watch([&](QProgressDialog& panel) {
            // A person can do nothing else meanwhile; but what comes by itself comes.
            QVERIFY(panel.isModal());
            QVERIFY(scene.disk.waited() > 0);
            QVERIFY(window->document().isModified());
            scene.disk.letGo();
        });
        window.menu(QStringLiteral("Save"));
        QVERIFY(watch.said.contains(QStringLiteral("Saving storm.lever")));
        QVERIFY(!window->document().isModified());
        QCOMPARE(scene.byWindow(), QString());
        QFile file(scene.file("storm.lever"));
        QVERIFY(file.open(QIODevice::ReadOnly) && file.readAll().contains("Storm glass"));
    }

    /// What is edited while the disk is waited for, by a surface or a hand that is learnt, is not saved yet.
    void whatIsEditedMeanwhileIsNotSaved() {
        Scene scene;
        scene.saveAs("storm.lever");
        scene.rename("Storm glass");
        scene.disk.hold("fsync");
        PanelWatch watch([&](QProgressDialog&) {
            scene.rename("Storm glass, rising");
            scene.disk.letGo();
        });
        scene.window.menu(QStringLiteral("Save"));
        QVERIFY(scene.window->document().isModified());
        scene.window->document().undoStack().undo();
        QVERIFY(!scene.window->document().isModified());
    }

    void openingIsLeft() {
        Scene scene;
        Window& window = scene.window;
        scene.saveAs("storm.lever");
        window.menu(QStringLiteral("New ensemble"));
        scene.rename("Here");
        scene.disk.hold();
        PanelWatch watch([](QProgressDialog& panel) {
            QTest::mouseClick(panel.findChild<QPushButton*>(), Qt::LeftButton);
        });
        QVERIFY(!window->openFile(scene.file("storm.lever")));
        QVERIFY(watch.said.contains(QStringLiteral("Opening storm.lever")));
        QCOMPARE(window.ensemble().title, std::string("Here"));
        QVERIFY(window->document().path().isEmpty());
        scene.disk.letGo();
        QVERIFY(window->openFile(scene.file("storm.lever")));
        QVERIFY(!window.ensemble().instruments.empty());
    }

    void importIsLeft() {
        Scene scene;
        Window& window = scene.window;
        ProfilePanel& panel = scene.exportedProfile();
        const Ensemble before = window.ensemble();
        const int steps = window->document().undoStack().count();
        scene.disk.hold();
        PanelWatch watch([](QProgressDialog& waiting) {
            QTest::mouseClick(waiting.findChild<QPushButton*>(), Qt::LeftButton);
        });
        panel.files().readFrom(scene.file("glass.csv"));
        QVERIFY(watch.said.contains(QStringLiteral("Importing glass.csv")));
        scene.disk.letGo();
        QVERIFY(window.ensemble() == before);
        QCOMPARE(window->document().undoStack().count(), steps);
    }

    void aTakeThatComesLateIsShown() {
        Scene scene;
        Window& window = scene.window;
        scene.saveAs("storm.lever");
        window.menu(QStringLiteral("New ensemble"));
        QVERIFY(window->openFile(scene.file("storm.lever")));
        scene.disk.hold();
        PanelWatch watch([&](QProgressDialog&) { scene.disk.letGo(); });
        window->selection().go(TakePlace{"barometer-falls"});
        TakeWork& takes = window->takes();
        QVERIFY(!takes.choice.take()->events.empty());
        QTRY_VERIFY(!takes.choice.lanes()->lanes.empty());
        QVERIFY(watch.said.contains(QStringLiteral("Barometer falls")));
    }
};

QTEST_MAIN(SlowDiskTest)
#include "slow_disk.moc"
