// Tablets that move the desk, and whoever pretends to be one: over real sockets.
#include <QNetworkProxy>
#include <QUdpSocket>
#include <QtTest>

#include "io/ports/osc_link.h"
#include "io/ports/osc_packet.h"
#include "io/ports/surfaces.h"
#include "io/ports/udp.h"

using namespace mellow;
using namespace std::chrono_literals;

namespace {

/// A socket that asks no proxy, as those of an orchestra's stage do not.
class Tablet : public QUdpSocket {
 public:
    Tablet() {
        setProxy(QNetworkProxy::NoProxy);
        if (!bind(QHostAddress::LocalHost, 0)) qFatal("no UDP here");
    }

    [[nodiscard]] sockaddr_in place() const { return *io::placeOf("127.0.0.1", localPort()); }
    [[nodiscard]] std::string name() const { return io::placeText(place()); }

    /// Every packet that has come, without waiting: on one machine what was sent is there.
    QList<QByteArray> heard() {
        QList<QByteArray> packets;
        while (hasPendingDatagrams()) {
            QByteArray packet(static_cast<qsizetype>(pendingDatagramSize()), '\0');
            readDatagram(packet.data(), packet.size());
            packets.append(packet);
        }
        return packets;
    }
    /// The address that the last question names.
    std::string proofAsked() {
        const QList<QByteArray> packets = heard();
        if (packets.empty()) return {};
        const qsizetype at = packets.back().indexOf("/desk/hi/");
        return at < 0 ? std::string() : std::string(packets.back().constData() + at);
    }
};

/// Surfaces that answer by a socket of their own.
struct Board {
    std::shared_ptr<io::UdpSocket> socket = std::make_shared<io::UdpSocket>();
    int changes = 0;
    io::Surfaces surfaces{[this] { ++changes; }};
    io::Surfaces::Clock::time_point now{1h};

    Board() {
        if (!socket->bind("127.0.0.1", 0)) qFatal("no UDP here");
        surfaces.setAddresses({"/desk/rasp", "/desk/weather-hand/x"});
    }
    void hear(const Tablet& tablet, std::string_view address, std::optional<double> number = {}) {
        surfaces.hear(socket, tablet.place(), 32, address, number, now);
    }
    void meet(Tablet& tablet) {
        hear(tablet, "/desk");
        hear(tablet, tablet.proofAsked());
    }
};

}  // namespace

class SurfacesTest : public QObject {
    Q_OBJECT

 private slots:
    void nobodyIsToldBeforeItShowsThatItHears() {
        Board desk;
        Tablet tablet;
        desk.hear(tablet, "/desk");
        QVERIFY(desk.surfaces.told().empty());
        QCOMPARE(desk.surfaces.waiting(), std::vector{tablet.name()});
        const std::string proof = tablet.proofAsked();
        QVERIFY(!proof.empty());
        desk.surfaces.tell("/desk/rasp", 0.5);
        desk.surfaces.tell("/desk/rasp/name", std::string("Rasp"));
        QVERIFY(tablet.heard().isEmpty());
        desk.hear(tablet, "/desk/hi/guessed");
        QVERIFY(desk.surfaces.told().empty());
        QCOMPARE(desk.changes, 0);
        desk.hear(tablet, proof);
        QCOMPARE(desk.surfaces.told(), std::vector{tablet.name()});
        QCOMPARE(desk.changes, 1);
        desk.surfaces.tell("/desk/rasp", 0.5);
        QCOMPARE(tablet.heard().size(), 1);
    }

    /// A person who sees it on the screen may say that it is theirs.
    void orIsNamedByHand() {
        Board desk;
        Tablet tablet;
        desk.hear(tablet, "/desk/rasp", 0.25);
        tablet.heard();
        desk.surfaces.welcome(tablet.name());
        QCOMPARE(desk.surfaces.told(), std::vector{tablet.name()});
        desk.surfaces.tell("/desk/weather-hand/x", 1.0);
        QCOMPARE(tablet.heard().size(), 1);
    }

    /// What a forged sender brings to somebody else is never more than three times what it cost.
    void answersToTheUnprovedStaySmall() {
        Board desk;
        Tablet victim;
        qsizetype asked = 0;
        qsizetype answered = 0;
        for (int i = 0; i < 2000; ++i) {
            constexpr std::size_t small = 12;
            const std::size_t bytes = small + static_cast<std::size_t>(i % 24);
            desk.surfaces.hear(desk.socket, victim.place(), bytes, "/desk", {}, desk.now);
            desk.now += 7ms;
            asked += static_cast<qsizetype>(bytes);
            for (const QByteArray& packet : victim.heard()) {
                QVERIFY(packet.size() <= 3 * static_cast<qsizetype>(bytes));
                answered += packet.size();
            }
        }
        QVERIFY(answered > 0);
        QVERIFY(answered <= asked);
    }

    /// Many victims at once: twenty questions a second, whoever they are put to.
    void questionsAreFew() {
        Board desk;
        std::vector<std::unique_ptr<Tablet>> victims;
        for (int i = 0; i < 60; ++i) victims.push_back(std::make_unique<Tablet>());
        for (const auto& victim : victims) desk.hear(*victim, "/desk");
        qsizetype answers = 0;
        for (const auto& victim : victims) answers += victim->heard().size();
        QCOMPARE(answers, 20);
        desk.now += 1s;
        desk.hear(*victims.back(), "/desk");
        QCOMPARE(victims.back()->heard().size(), 1);
    }

    void theSeventeenthTakesThePlaceOfTheOneSilentLongest() {
        Board desk;
        std::vector<std::unique_ptr<Tablet>> tablets;
        for (int i = 0; i < 16; ++i) {
            tablets.push_back(std::make_unique<Tablet>());
            desk.meet(*tablets.back());
            desk.now += 1s;
        }
        QCOMPARE(desk.surfaces.told().size(), std::size_t{16});
        desk.hear(*tablets[0], "/desk/rasp", 0.5);
        Tablet late;
        desk.meet(late);
        const auto told = desk.surfaces.told();
        const auto isTold = [&told](const Tablet& tablet) {
            return std::find(told.begin(), told.end(), tablet.name()) != told.end();
        };
        QVERIFY(isTold(*tablets[0]));
        QVERIFY(!isTold(*tablets[1]));
        QVERIFY(isTold(late));
        // Strangers take places from each other, not from those that have shown that they hear.
        Tablet stranger;
        Tablet other;
        desk.hear(stranger, "/desk/nowhere");
        const auto left = desk.surfaces.told();
        desk.hear(other, "/desk/nowhere");
        QCOMPARE(desk.surfaces.told(), left);
        QCOMPARE(desk.surfaces.waiting(), std::vector{other.name()});
    }

    /// What is known of a tablet is what it shows at addresses that the desk has.
    void anAddressThatTheDeskDoesNotHaveIsNotKept() {
        Board desk;
        Tablet tablet;
        desk.meet(tablet);
        desk.hear(tablet, "/desk/rasp", 0.5);
        desk.hear(tablet, "/desk/nowhere", 0.5);
        desk.now += 1s;
        desk.surfaces.tell("/desk/rasp", 0.5);
        QVERIFY(tablet.heard().isEmpty());
        desk.surfaces.tell("/desk/nowhere", 0.5);
        QCOMPARE(tablet.heard().size(), 1);
        desk.surfaces.setAddresses({});
        desk.surfaces.tell("/desk/rasp", 0.5);
        QCOMPARE(tablet.heard().size(), 1);
    }

    /// Packets of every kind of nonsense, cut anywhere: nothing is read beyond their end, and nothing is
    /// heard.
    void damagedPacketsAreLeftAlone() {
        const io::OscPacket whole("/desk/rasp", 0.5F);
        const std::string bytes(whole.bytes().begin(), whole.bytes().end());
        for (std::size_t length = 0; length < bytes.size(); ++length) {
            std::vector<char> cut(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(length));
            int heard = 0;
            io::readOsc(cut, [&heard](std::string_view, std::optional<double> number) {
                heard += number.has_value() ? 1 : 0;
            });
            QCOMPARE(heard, 0);
        }
    }
};

QTEST_GUILESS_MAIN(SurfacesTest)
#include "surfaces.moc"
