// Learning in the real window: controls are moved, and chains follow them.
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <QLabel>
#include <QPushButton>
#include <QSignalSpy>
#include <QtEndian>
#include <bit>

#include "app/frame/learn_banner.h"
#include "io/ports/osc_link.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;
using test::Window;

class LearningTest : public QObject {
    Q_OBJECT

 private slots:
    /// From nothing to a wheel that moves expression: L, and the wheel.
    void aNewEnsembleFromNothing() {
        Stage stage;
        QVERIFY(!stage.isShown("learnBanner"));
        stage.key(Qt::Key_L);
        QVERIFY(stage.isShown("learnBanner"));
        QVERIFY(stage.shown("learnGoal").contains(QStringLiteral("a new chain")));
        stage.move(1);
        QTRY_COMPARE(stage.ensemble().instruments.size(), std::size_t{1});
        QTRY_VERIFY(stage.learn().isDone());
        const Chain& chain = stage.ensemble().instruments[0].chains.at(0);
        QCOMPARE(chain.source.kind, SourceKind::cc);
        QCOMPARE(chain.source.number, 1);
        QCOMPARE(chain.branches.at(0).target, std::string("expression"));
        QCOMPARE(chain.name, std::string("Mod wheel"));
        QVERIFY(stage.shown("learnFound").contains(QStringLiteral("Mod wheel")));
        QVERIFY(stage.shown("learnFound").endsWith(QStringLiteral("nobody else uses it")));
        // All of it is one step.
        stage.window->document().undoStack().undo();
        QVERIFY(stage.ensemble().instruments.empty());
        stage.window->document().undoStack().redo();
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), std::size_t{1});
        stage.key(Qt::Key_Escape);
        QVERIFY(!stage.isShown("learnBanner"));
        QVERIFY(!stage.learn().isOn());
    }

    /// It stays on for the next chain, and what has learned is not taken away by what is played then.
    void itStaysOnForTheNextChain() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_L);
        stage.move(21);
        QTRY_COMPARE(stage.window.chain("glass", "swell").source.number, 21);
        QTRY_VERIFY(stage.learn().isDone());
        QSignalSpy heard(&stage.window->live(), &app::Live::happened);
        stage.move(30);
        QTRY_VERIFY(heard.count() > 20);
        QCOMPARE(stage.window.chain("glass", "swell").source.number, 21);
        stage.window.select("flute", "breath");
        QVERIFY(!stage.learn().isDone());
        stage.move(30);
        QTRY_COMPARE(stage.window.chain("flute", "breath").source.number, 30);
        QCOMPARE(stage.window.chain("glass", "swell").source.number, 21);
        // Two chains, two steps.
        stage.window->document().undoStack().undo();
        QVERIFY(stage.window.chain("flute", "breath").source.number != 30);
        QCOMPARE(stage.window.chain("glass", "swell").source.number, 21);
    }

    void whoElseUsesItIsShownAndKeepsIt() {
        Stage stage;
        stage.key(Qt::Key_L);
        stage.move(1);
        QTRY_VERIFY(stage.learn().isDone());
        QTest::keyClick(&*stage.window, Qt::Key_Return, Qt::ControlModifier);
        QTRY_COMPARE(stage.ensemble().instruments[0].chains.size(), std::size_t{2});
        stage.move(1);
        QTRY_VERIFY(
            stage.shown("learnFound").contains(QStringLiteral("also moves New instrument · Mod wheel")));
        QCOMPARE(stage.ensemble().instruments[0].chains[0].source.number, 1);
        QCOMPARE(stage.ensemble().instruments[0].chains[1].source.number, 1);
    }

    void anotherCandidateIsTakenByAClick() {
        Stage stage;
        stage.key(Qt::Key_L);
        for (std::uint8_t i = 0; i < 30; ++i) {
            stage.send({0xB0, 16, static_cast<std::uint8_t>(i * 4)});
            stage.send({0xB0, 17, static_cast<std::uint8_t>(i * 3)});
        }
        QTRY_VERIFY(stage.isShown("learnOther0"));
        const auto source = [&] { return stage.ensemble().instruments[0].chains.at(0).source.number; };
        QCOMPARE(source(), 16);
        auto* other = stage.window->findChild<QPushButton*>(QStringLiteral("learnOther0"));
        QVERIFY(other->text().contains(QStringLiteral("17")));
        QTest::mouseClick(other, Qt::LeftButton);
        QCOMPARE(source(), 17);
        QTRY_VERIFY(stage.learn().isDone());
        QCOMPARE(source(), 17);
        stage.window->document().undoStack().undo();
        QVERIFY(stage.ensemble().instruments.empty());
    }

    void aSecondSourceAndAChooserAreLearnedWhereTheyAre() {
        Stage stage;
        stage.key(Qt::Key_L);
        stage.move(1);
        QTRY_VERIFY(stage.learn().isDone());
        const auto chain = [&]() -> const Chain& { return stage.ensemble().instruments[0].chains[0]; };
        stage.window->actions().addStep(makeStep(*findStepKind("combine")));
        QVERIFY(stage.shown("learnGoal").contains(QStringLiteral("second source")));
        stage.move(2);
        QTRY_COMPARE(chain().steps.at(0).with->number, 2);
        QCOMPARE(chain().source.number, 1);
        stage.key(Qt::Key_Escape);
        stage.window->document().edit(QStringLiteral("Choose"), [](Ensemble& e) {
            Chain& c = e.instruments[0].chains[0];
            c.fan.mode = FanMode::chosen;
            c.fan.by = makeSource(SourceKind::cc);
        });
        stage.window.select(stage.ensemble().instruments[0].id, chain().id);
        // Of the two Learn buttons the lower is the chooser's.
        QPushButton* lower = nullptr;
        for (QPushButton* each : stage.window.details().findChildren<QPushButton*>(QStringLiteral("learn")))
            lower = each;
        QVERIFY(lower != nullptr);
        lower->click();
        QVERIFY(stage.shown("learnGoal").contains(QStringLiteral("what chooses")));
        stage.move(5);
        QTRY_COMPARE(chain().fan.by->number, 5);
        QCOMPARE(chain().source.number, 1);
    }

    /// Ten kinds of controller, each by its own port, one of them trembling.
    void tenKindsOfController() {
        Stage stage;
        stage.key(Qt::Key_L);
        const auto learned = [&](const std::function<void()>& play, SourceKind kind, int number) {
            QTest::keyClick(&*stage.window, Qt::Key_Return, Qt::ControlModifier);
            const std::size_t before =
                stage.ensemble().instruments.empty() ? 0 : stage.ensemble().instruments[0].chains.size();
            play();
            const bool done = QTest::qWaitFor([&] { return stage.learn().isDone(); }, 5000);
            QVERIFY(done);
            QCOMPARE(stage.ensemble().instruments[0].chains.size(), std::max<std::size_t>(before, 1));
            const Source& source = stage.ensemble().instruments[0].chains.back().source;
            QCOMPARE(row(source.kind).name, row(kind).name);
            if (row(kind).numbered) QCOMPARE(source.number, number);
        };
        const auto each = [&](int count, const std::function<void(std::uint8_t)>& play) {
            return [count, play] {
                for (int i = 0; i < count; ++i) play(static_cast<std::uint8_t>(i));
            };
        };
        learned([&] { stage.move(11); }, SourceKind::cc, 11);
        learned(each(30,
                     [&](std::uint8_t i) {
                         stage.send({0xB0, 3, i}, "fine");
                         stage.send({0xB0, 35, i}, "fine");
                     }),
                SourceKind::cc14, 3);
        learned(each(30,
                     [&](std::uint8_t i) {
                         for (const auto& [number, value] :
                              {std::pair{99, 1}, {98, 7}, {6, static_cast<int>(i)}, {38, 0}})
                             stage.send(
                                 {0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)},
                                 "deep");
                     }),
                SourceKind::nrpn, 135);
        learned(each(30,
                     [&](std::uint8_t i) {
                         for (const auto& [number, value] :
                              {std::pair{101, 0}, {100, 5}, {6, static_cast<int>(i)}, {38, 0}})
                             stage.send(
                                 {0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)},
                                 "deep");
                     }),
                SourceKind::rpn, 5);
        learned(each(30,
                     [&](std::uint8_t i) {
                         stage.send({0xE0, 0, static_cast<std::uint8_t>(64 + i)});
                     }),
                SourceKind::bend, 0);
        learned(each(30,
                     [&](std::uint8_t i) {
                         stage.send({0xD0, static_cast<std::uint8_t>(i * 4)});
                     }),
                SourceKind::pressure, 0);
        learned(each(30,
                     [&](std::uint8_t i) {
                         stage.send({0xA0, 60, static_cast<std::uint8_t>(i * 4)});
                     }),
                SourceKind::keyPressure, 0);
        learned(
            [&] {
                stage.send({0x90, 40, 90}, "pads"), stage.send({0x80, 40, 64}, "pads");
            },
            SourceKind::key, 40);
        learned([&] { stage.send({0xC0, 9}); }, SourceKind::program, anyNumber);
        learned(each(8,
                     [&](std::uint8_t i) {
                         stage.send({0xB0, 16, static_cast<std::uint8_t>(i < 4 ? 65 : 63)}, "rings");
                     }),
                SourceKind::relative, 16);
        learned(
            [&] {
                stage.send({0xB0, 80, 127}, "pads"), stage.send({0xB0, 80, 0}, "pads");
            },
            SourceKind::cc, 80);
        learned(each(60,
                     [&](std::uint8_t i) {
                         stage.send({0xB0, 7, static_cast<std::uint8_t>(60 + i % 2)}, "noisy");
                         stage.send({0xB0, 12, static_cast<std::uint8_t>(i * 2)}, "noisy");
                     }),
                SourceKind::cc, 12);
        // Undone to the start and redone to the end it is the same, byte for byte.
        const Ensemble all = stage.ensemble();
        QUndoStack& stack = stage.window->document().undoStack();
        while (stack.canUndo()) stack.undo();
        QVERIFY(stage.ensemble().instruments.empty());
        while (stack.canRedo()) stack.redo();
        QVERIFY(stage.ensemble() == all);
    }

    /// On an empty ensemble, over the network, where no port is open before.
    void oscIsLearnedOverUdp() {
        Stage stage;
        stage.key(Qt::Key_L);
        const int socket = ::socket(AF_INET, SOCK_DGRAM, 0);
        sockaddr_in to{};
        to.sin_family = AF_INET;
        to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        to.sin_port = htons(static_cast<std::uint16_t>(
            std::stoi(std::string(io::usualOscPort.substr(io::usualOscPort.rfind(':') + 1)))));
        const auto send = [&](float number) {
            QByteArray packet("/tilt\0\0\0,f\0\0", 12);
            const auto bits = qToBigEndian(std::bit_cast<quint32>(number));
            packet.append(reinterpret_cast<const char*>(&bits), 4);
            (void)::sendto(socket, packet.constData(), static_cast<std::size_t>(packet.size()), 0,
                           reinterpret_cast<const sockaddr*>(&to), sizeof to);
        };
        float number = 0;
        QTRY_VERIFY(
            (number += 0.05F, send(number > 1 ? number = 0 : number), !stage.ensemble().instruments.empty()));
        ::close(socket);
        const Source& source = stage.ensemble().instruments[0].chains[0].source;
        QCOMPARE(source.kind, SourceKind::osc);
        QCOMPARE(textOf(source, 0), std::string("/tilt"));
        QCOMPARE(stage.ensemble().instruments[0].chains[0].name, std::string("OSC /tilt"));
    }

    /// What cannot be seen does not go on.
    void onAnotherPageNothingIsLearned() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_L);
        QTest::keyClick(&*stage.window, Qt::Key_4, Qt::ControlModifier);
        QVERIFY(!stage.learn().isOn());
    }

    void whatATakePlaysIsNotLearned() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const Source before = stage.window.chain("glass", "swell").source;
        stage.key(Qt::Key_L);
        QSignalSpy heard(&stage.window->live(), &app::Live::happened);
        stage.window->togglePlay();
        QTRY_VERIFY(heard.count() > 50);
        QVERIFY(stage.learn().candidates().empty());
        QVERIFY(stage.window.chain("glass", "swell").source == before);
        stage.window->togglePlay();
    }

    /// A name that the program made goes with its source; one that was typed stays.
    void namesFollow() {
        Stage stage;
        stage.key(Qt::Key_L);
        stage.move(1);
        QTRY_VERIFY(stage.learn().isDone());
        const auto chain = [&]() -> const Chain& { return stage.ensemble().instruments[0].chains[0]; };
        QCOMPARE(chain().name, std::string("Mod wheel"));
        // Once it has learned, L is for one more chain; so it ends first.
        stage.key(Qt::Key_Escape);
        stage.key(Qt::Key_L);
        stage.move(2);
        QTRY_COMPARE(chain().name, std::string("Breath"));
        stage.window->document().edit(QStringLiteral("Name"),
                                      [](Ensemble& e) { e.instruments[0].chains[0].name = "Storm"; });
        stage.window->document().edit(QStringLiteral("Source"),
                                      [](Ensemble& e) { e.instruments[0].chains[0].source.number = 1; });
        QCOMPARE(chain().name, std::string("Storm"));
    }
};

QTEST_MAIN(LearningTest)
#include "learning.moc"
