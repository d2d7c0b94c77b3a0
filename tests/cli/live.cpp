// The live calls as processes, on a real JACK server that the test starts.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>

#include "core/store/ensemble_json.h"
#include "io/playing/happenings.h"
#include "io/ports/machine_table.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/jack.h"

using namespace mellow;

namespace {

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "North keys";
    one.output.port = "North rack";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

/// The tool with its words, on a server.
struct Tool {
    QProcess process;

    Tool(const QStringList& words, const std::string& server) {
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("JACK_DEFAULT_SERVER"), QString::fromStdString(server));
        process.setProcessEnvironment(environment);
        process.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"), words);
        if (!process.waitForStarted()) qFatal("the tool does not start");
    }
    /// Everything that it has said, once some of it is there.
    QString said(const char* wanted) {
        const bool came = QTest::qWaitFor(
            [&] {
                text_ += QString::fromUtf8(process.readAllStandardOutput());
                return text_.contains(QLatin1String(wanted));
            },
            10000);
        return came ? text_ : QStringLiteral("nothing of the kind: ") + text_;
    }

 private:
    QString text_;
};

}  // namespace

class LiveTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;
    QTemporaryDir folder_;
    QString file_;

 private slots:
    void initTestCase() {
        server_ = std::make_unique<test::JackServer>("mellow-lever-cli-test");
        file_ = folder_.filePath(QStringLiteral("north.lever"));
        QFile file(file_);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(store::printEnsemble(northRack())));
    }
    void cleanupTestCase() { server_.reset(); }

    void runPlaysUntilItIsToldToEndAndLeavesNothingSounding() {
        Tool tool({QStringLiteral("run"), file_}, server_->name());
        QVERIFY(tool.said("JACK: ").contains(QStringLiteral("2 in, 1 out")));
        test::Peer peer("peer", server_->name());
        QTRY_VERIFY(peer.exists("Mellow Lever:North rack"));
        QVERIFY(peer.connect(peer.port("out"), "Mellow Lever:North keys"));
        QVERIFY(peer.connect("Mellow Lever:North rack", peer.port("in")));
        peer.awaitWayTo(peer);
        peer.send({{3, {0xB0, 1, 100}}, {5, {0x90, 60, 90}}});
        QTRY_COMPARE(peer.received().size(), std::size_t{2});
        QCOMPARE(peer.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 100}));
        tool.process.terminate();
        QVERIFY(test::ends(tool.process, 10000));
        QCOMPARE(tool.process.exitStatus(), QProcess::NormalExit);
        QCOMPARE(tool.process.exitCode(), 0);
        QTRY_VERIFY(peer.received().size() >= 3);
        QCOMPARE(peer.received()[2].bytes, (std::vector<std::uint8_t>{0x80, 60, 64}));
    }

    /// By what the practice rack is heard is as the words say, and else as Gear was told on this machine.
    void runIsHeardThroughWhatIsChosen() {
        Ensemble ensemble = northRack();
        ensemble.instruments[0].output.port = io::practiceRackPort;
        ensemble.instruments[0].output.channel = 1;
        const QString path = folder_.filePath(QStringLiteral("heard.lever"));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(store::printEnsemble(ensemble)));
        file.close();
        const auto hears = [&](const QStringList& words, const char* wanted) {
            Tool tool(QStringList{QStringLiteral("run"), path} + words, server_->name());
            const QString said = tool.said(wanted);
            tool.process.terminate();
            test::ends(tool.process, 10000);
            QVERIFY2(said.contains(QLatin1String(wanted)) && !said.startsWith("nothing of"),
                     qPrintable(said));
        };
        hears({QStringLiteral("--sound"), QStringLiteral("jack")}, "heard through JACK");
        hears({QStringLiteral("--sound"), QStringLiteral("none")}, "silent, as was chosen");
        qputenv("XDG_CONFIG_HOME", folder_.path().toUtf8());
        const auto tidy = qScopeGuard([] { qunsetenv("XDG_CONFIG_HOME"); });
        io::MachineTable table;
        table.sound = "none";
        QVERIFY(io::writeMachineTable(io::machineTablePath(), table));
        hears({}, "silent, as was chosen");
        hears({QStringLiteral("--sound"), QStringLiteral("jack")}, "heard through JACK");
        QVERIFY(io::writeMachineTable(io::machineTablePath(), io::MachineTable{}));
    }

    /// Its file written anew, or a signal, and the new chains play; a held key ends as it began; a file that
    /// is none changes nothing.
    void runReadsItsDocumentAgain() {
        const QString path = folder_.filePath(QStringLiteral("changing.lever"));
        const auto write = [&path](const QByteArray& text) {
            QFile file(path + QStringLiteral(".new"));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(text);
            file.close();
            QCOMPARE(::rename(qPrintable(path + QStringLiteral(".new")), qPrintable(path)), 0);
        };
        Ensemble ensemble = northRack();
        write(QByteArray::fromStdString(store::printEnsemble(ensemble)));
        Tool tool({QStringLiteral("run"), path}, server_->name());
        QVERIFY(
            tool.said("waiting for North rack").contains(QStringLiteral("waiting for North keys, to play")));
        test::Peer peer("peer", server_->name());
        QVERIFY(peer.connect(peer.port("out"), "Mellow Lever:North keys"));
        QVERIFY(peer.connect("Mellow Lever:North rack", peer.port("in")));
        QVERIFY(tool.said("connected out North rack").contains(QStringLiteral("connected in  North keys")));
        peer.awaitWayTo(peer);
        peer.send({{5, {0x90, 60, 90}}});
        QTRY_COMPARE(peer.received().size(), std::size_t{1});

        write("{\"format\": \"nonsense\"}");
        QByteArray complaint;
        const auto complains = [&] {
            return (complaint += tool.process.readAllStandardError()).contains("on as before");
        };
        QVERIFY(QTest::qWaitFor(complains, 10000));
        QVERIFY(complaint.contains("changing.lever"));
        ensemble.instruments[0].chains[0].branches[0].high = 64.0;
        ensemble.instruments[0].input.transpose = 12;
        write(QByteArray::fromStdString(store::printEnsemble(ensemble)));
        QVERIFY(tool.said("Reloaded").contains(path));
        peer.send({{3, {0xB0, 1, 127}}, {5, {0x80, 60, 64}}});
        QTRY_COMPARE(peer.received().size(), std::size_t{3});
        QCOMPARE(peer.received()[1].bytes, (std::vector<std::uint8_t>{0xB0, 11, 64}));
        QCOMPARE(peer.received()[2].bytes, (std::vector<std::uint8_t>{0x80, 60, 64}));

        ::kill(static_cast<pid_t>(tool.process.processId()), SIGHUP);
        QTRY_COMPARE(tool.said("Reloaded").count(QStringLiteral("Reloaded")), qsizetype{2});
        ::kill(static_cast<pid_t>(tool.process.processId()), SIGTERM);
        QVERIFY(test::ends(tool.process, 10000));
        QCOMPARE(tool.process.exitCode(), 0);
    }

    void portsAreListed() {
        Tool tool({QStringLiteral("ports"), file_}, server_->name());
        const QString said = tool.said("North rack");
        QVERIFY(said.startsWith(QStringLiteral("JACK: ")));
        QVERIFY(said.contains(QStringLiteral("in  waiting   North keys\n")));
        QVERIFY(said.contains(QStringLiteral("out waiting   North rack\n")));
        QVERIFY(test::ends(tool.process, 10000));
        QCOMPARE(tool.process.exitCode(), 0);
    }

    /// What was connected in the window, and what was silenced there, is so without it.
    void whatTheMachineKnowsIsConnected() {
        qputenv("XDG_CONFIG_HOME", folder_.path().toUtf8());
        const auto tidy = qScopeGuard([] { qunsetenv("XDG_CONFIG_HOME"); });
        io::MachineTable table;
        table.wires = {{"North keys", "peer:out", true}, {"North rack", "peer:in", false}};
        table.setFilter("North keys", io::PortFilter::unpacked(io::PortFilter{}.packed() & ~2U));
        QVERIFY(io::writeMachineTable(io::machineTablePath(), table));
        test::Peer peer("peer", server_->name());
        table.wires.push_back({"North rack", "gone:in", false});
        QVERIFY(io::writeMachineTable(io::machineTablePath(), table));
        // A look at the ports connects nothing, so that nobody is sent anything.
        Tool ports({QStringLiteral("ports"), file_}, server_->name());
        QVERIFY(ports.said("gone").contains(
            QStringLiteral("in  waiting   North keys\n      from peer:out\n"
                           "out waiting   North rack\n      to peer:in\n      to gone:in (not here)\n")));
        QVERIFY(test::ends(ports.process, 10000));
        QVERIFY(peer.received().empty());
        Tool tool({QStringLiteral("run"), file_}, server_->name());
        QVERIFY(tool.said("connected out").contains(QStringLiteral("connected in  North keys")));
        peer.awaitWayTo(peer);
        // Channel 2 is not heard on this machine.
        peer.send({{3, {0xB1, 1, 20}}, {4, {0xB0, 1, 100}}});
        QTRY_COMPARE(peer.received().size(), std::size_t{1});
        QCOMPARE(peer.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 100}));
        tool.process.terminate();
        QVERIFY(test::ends(tool.process, 10000));
        // A table that is none is said, and everything plays without it.
        QFile broken(folder_.filePath(QStringLiteral("mellow-lever/machine.json")));
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("[[[");
        broken.close();
        Tool without({QStringLiteral("ports"), file_}, server_->name());
        QVERIFY(without.said("North rack").contains(QStringLiteral("in  waiting   North keys\n")));
        QVERIFY(test::ends(without.process, 10000));
        QCOMPARE(without.process.exitCode(), 0);
        QVERIFY(without.process.readAllStandardError().contains("machine.json"));
    }

    void withoutAServerItSaysSoAndPlaysOn() {
        Tool tool({QStringLiteral("run"), QStringLiteral("--no-jack"), file_}, "mellow-no-such-server");
        QVERIFY(tool.said("No MIDI ports").contains(QStringLiteral("JACK is not running")));
        ::kill(static_cast<pid_t>(tool.process.processId()), SIGINT);
        QVERIFY(test::ends(tool.process, 10000));
        QCOMPARE(tool.process.exitCode(), 0);
    }

    void aFileThatIsNoneIsRefused() {
        Tool tool({QStringLiteral("run"), QStringLiteral("/nowhere/none.lever")}, server_->name());
        QVERIFY(test::ends(tool.process, 10000));
        QCOMPARE(tool.process.exitCode(), 2);
        QVERIFY(tool.process.readAllStandardError().contains("/nowhere/none.lever"));
    }
};

QTEST_GUILESS_MAIN(LiveTest)
#include "live.moc"
