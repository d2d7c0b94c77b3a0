// The script that a newcomer runs: what it says when called bare, and when called wrongly.
#include <QProcess>
#include <QtTest>

#include "support/process.h"

namespace {

using Said = mellow::test::Ended;

Said run(const QStringList& arguments) {
    return mellow::test::run(QStringLiteral(MELLOW_SOURCE_DIR "/mellow"), arguments);
}

}  // namespace

class ScriptTest : public QObject {
    Q_OBJECT

 private slots:
    void calledBareItNamesItsVerbs() {
        const Said said = run({});
        QCOMPARE(said.code, 0);
        for (const char* verb : {"demo", "test", "build", "shots", "bench"}) {
            QVERIFY2(said.out.contains(QStringLiteral("./mellow ") + QLatin1String(verb)), verb);
        }
    }
    void aVerbThatIsNotThereIsRefused() {
        const Said said = run({QStringLiteral("sing")});
        QCOMPARE(said.code, 2);
        QVERIFY(said.err.contains(QStringLiteral("no verb 'sing'")));
    }
    void everyPackageItNamesExists() {
        // A package that does not exist would be looked for again at every call.
        QFile script(QStringLiteral(MELLOW_SOURCE_DIR "/mellow"));
        QVERIFY(script.open(QIODevice::ReadOnly));
        const QString text = QString::fromUtf8(script.readAll());
        QRegularExpression lists(QStringLiteral("(?:build|run|test)_packages=\\(([^)]*)\\)"));
        int named = 0;
        for (auto each = lists.globalMatch(text); each.hasNext();) {
            const QStringList packages =
                each.next().captured(1).split(QRegularExpression(QStringLiteral("\\s+")), Qt::SkipEmptyParts);
            for (const QString& package : packages) {
                QProcess query;
                query.start(QStringLiteral("dpkg-query"),
                            {QStringLiteral("-W"), QStringLiteral("-f=${Status}"), package});
                QVERIFY(mellow::test::ends(query));
                QVERIFY2(query.readAll().contains("install ok installed"), qPrintable(package));
                ++named;
            }
        }
        QVERIFY(named > 15);
    }
};

QTEST_APPLESS_MAIN(ScriptTest)
#include "script.moc"
