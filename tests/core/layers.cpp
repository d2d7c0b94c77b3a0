// Arrows point one way: the core includes nothing from above, and no Qt; io includes no app; cli no app.
#include <QDirIterator>
#include <QRegularExpression>
#include <QtTest>

#include "support/build.h"

class LayersTest : public QObject {
    Q_OBJECT

 private slots:
    void includes_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QString>("forbidden");
        QTest::newRow("core") << "src/core"
                              << "#include\\s+[\"<](Q[A-Z]|Qt|io/|app/|cli/|jack/|fluidsynth|thread|mutex)";
        QTest::newRow("io") << "src/io"
                            << "#include\\s+[\"<](Q[A-Z]|Qt|app/|cli/)";
        QTest::newRow("cli") << "src/cli"
                             << "#include\\s+[\"<](Q[A-Z]|Qt|app/)";
    }
    void includes() {
        QFETCH(QString, folder);
        QFETCH(QString, forbidden);
        const QRegularExpression pattern(forbidden);
        QDirIterator files(QStringLiteral(MELLOW_SOURCE_DIR "/") + folder, {"*.h", "*.cpp"}, QDir::Files,
                           QDirIterator::Subdirectories);
        int seen = 0;
        while (files.hasNext()) {
            QFile file(files.next());
            QVERIFY(file.open(QIODevice::ReadOnly));
            const auto match = pattern.match(QString::fromUtf8(file.readAll()));
            QVERIFY2(!match.hasMatch(), qPrintable(file.fileName() + ": " + match.captured()));
            ++seen;
        }
        QVERIFY(seen > 0);
    }
};

QTEST_APPLESS_MAIN(LayersTest)
#include "layers.moc"
