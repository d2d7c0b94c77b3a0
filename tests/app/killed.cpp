// A program that is killed at any moment, while it edits, saves and plays: what is found afterwards is
// readable, and no edit is missing that was a second old. MELLOW_KILLS: how often (12).
#include <QDateTime>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <random>

#include "app/document/keeper.h"
#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sidecars.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/window.h"

using namespace mellow;

class KilledTest : public QObject {
    Q_OBJECT

 private slots:
    /// Told to end with unsaved work, it ends by itself, without a question, and the work is there.
    void whatIsToldToEndAsksNothingAndLosesNothing() {
        QTemporaryDir folder;
        const QString path = folder.filePath(QStringLiteral("storm.lever"));
        Ensemble ensemble = test::ensemble({test::instrument()});
        ensemble.title = std::to_string(0);
        QVERIFY(static_cast<bool>(files::writeFile(path.toStdString(), store::printEnsemble(ensemble))));
        QProcess process;
        process.start(QStringLiteral(MELLOW_SCRIBBLER), {path});
        QVERIFY(process.waitForReadyRead(30000));
        process.terminate();
        QVERIFY(test::ends(process, 10000));
        QCOMPARE(process.exitStatus(), QProcess::NormalExit);
        QCOMPARE(process.exitCode(), 0);
        const QList<QByteArray> lines = process.readAllStandardOutput().trimmed().split('\n');
        const auto work = app::Keeper::leftBehind(path);
        QVERIFY(work.has_value());
        QCOMPARE(QString::fromStdString(work->ensemble.title),
                 QString::fromUtf8(lines.last().split(' ').first()));
    }

    void nothingOlderThanASecondIsLost() {
        constexpr int allowed = 1000;  // ms
        const int asked = qEnvironmentVariableIntValue("MELLOW_KILLS");
        const int kills = asked > 0 ? asked : 12;
        QTemporaryDir folder;
        const QString path = folder.filePath(QStringLiteral("storm.lever"));
        Ensemble ensemble = test::ensemble({test::instrument()});
        ensemble.title = std::to_string(0);
        QVERIFY(static_cast<bool>(files::writeFile(path.toStdString(), store::printEnsemble(ensemble))));
        std::mt19937 random(7);
        int last = 0;
        for (int kill = 0; kill < kills; ++kill) {
            QProcess process;
            process.start(QStringLiteral(MELLOW_SCRIBBLER), {path});
            QVERIFY(process.waitForReadyRead(30000));
            QTest::qWait(static_cast<int>(random() % 1500));
            const qint64 killed = QDateTime::currentMSecsSinceEpoch();
            process.kill();
            QVERIFY(test::ends(process, 30000));
            int mustBeThere = last;
            for (const QByteArray& line : process.readAllStandardOutput().split('\n')) {
                const QList<QByteArray> words = line.split(' ');
                if (words.size() == 2 && killed - words[1].toLongLong() > allowed)
                    mustBeThere = words[0].toInt();
            }
            const auto saved = app::Document::read(path);
            QVERIFY2(static_cast<bool>(saved), "the file cannot be read");
            const auto work = app::Keeper::leftBehind(path);
            const int found = std::max(QString::fromStdString(saved->title).toInt(),
                                       work ? QString::fromStdString(work->ensemble.title).toInt() : 0);
            QVERIFY2(
                found >= mustBeThere,
                qPrintable(
                    QStringLiteral("kill %1: found %2 and not %3").arg(kill).arg(found).arg(mustBeThere)));
            last = found;
        }
        QVERIFY(last > kills);
    }

    /// Killed while it records, without and with edits that were not saved: at most a second of what was
    /// played, and of the edits, is missing, and both are there together.
    void whatWasBeingRecordedIsBack_data() {
        QTest::addColumn<QString>("mode");
        QTest::newRow("nothing edited") << "record";
        QTest::newRow("with unsaved edits") << "both";
    }
    void whatWasBeingRecordedIsBack() {
        QFETCH(QString, mode);
        constexpr int allowed = 1000;  // ms
        const int asked = qEnvironmentVariableIntValue("MELLOW_KILLS");
        const int kills = asked > 0 ? asked : 4;
        std::mt19937 random(11);
        for (int kill = 0; kill < kills; ++kill) {
            QTemporaryDir folder;
            const QString path = folder.filePath(QStringLiteral("storm.lever"));
            const Ensemble ensemble = test::ensemble({test::instrument()});
            QVERIFY(static_cast<bool>(files::writeFile(path.toStdString(), store::printEnsemble(ensemble))));
            QProcess process;
            process.start(QStringLiteral(MELLOW_SCRIBBLER), {path, mode});
            QVERIFY(process.waitForReadyRead(30000));
            QTest::qWait(1200 + static_cast<int>(random() % 900));
            const qint64 killed = QDateTime::currentMSecsSinceEpoch();
            process.kill();
            QVERIFY(test::ends(process, 30000));
            int mustBeThere = 0;
            for (const QByteArray& line : process.readAllStandardOutput().split('\n')) {
                const QList<QByteArray> words = line.split(' ');
                if (words.size() == 2 && killed - words[1].toLongLong() > allowed)
                    mustBeThere = words[0].toInt();
            }
            QVERIFY(mustBeThere > 10);
            test::Window window;
            QVERIFY(window->openFile(path));
            QCOMPARE(window.ensemble().takes.size(), std::size_t{1});
            if (mode == QLatin1String("both")) {
                constexpr int messagesAnEdit = 5;
                const int edited = QString::fromStdString(window.ensemble().title).toInt();
                QVERIFY2(edited + messagesAnEdit > mustBeThere,
                         qPrintable(QStringLiteral("%1 of %2").arg(edited).arg(mustBeThere)));
            } else {
                QVERIFY(window->noticeText().contains(QStringLiteral("recorded")));
            }
            const auto& take = *window->takes().choice.take();
            QVERIFY2(static_cast<int>(take.events.size()) >= mustBeThere,
                     qPrintable(QStringLiteral("%1 of %2").arg(take.events.size()).arg(mustBeThere)));
            for (std::size_t i = 0; i < take.events.size(); ++i)
                QCOMPARE(midi::bendOf(take.bodyOf(take.events[i])), static_cast<int>(i + 1));
            // Its log goes once the take is in a file that names it.
            window->files().save();
            const std::filesystem::path log = files::recordingsOf(path.toStdString());
            QVERIFY(files::listed(log.parent_path(), log.filename().string(), "").empty());
        }
    }
};

QTEST_MAIN(KilledTest)
#include "killed.moc"
