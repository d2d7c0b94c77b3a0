// A program that is killed at any moment, while it edits, saves and plays: what is found afterwards is
// readable, and no edit is missing that was a second old. MELLOW_KILLS: how often (12).
#include <QDateTime>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <random>

#include "app/keeper.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"

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
        QVERIFY(process.waitForFinished(10000));
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
            process.kill();
            QVERIFY(process.waitForFinished(30000));
            const qint64 killed = QDateTime::currentMSecsSinceEpoch();
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
};

QTEST_GUILESS_MAIN(KilledTest)
#include "killed.moc"
