// What was connected and is connected again: by whom a connection was taken away decides.
#include "io/ports/wiring.h"

#include <QtTest>
#include <set>

using mellow::io::Wire;
using mellow::io::Wiring;

class WiringTest : public QObject {
    Q_OBJECT

    const Wire keys_{"North keys", "keys:out", true};
    const Wire rack_{"North rack", "rack:in", false};
    std::set<std::string> there_;

    Wiring::Exists exists() {
        return [this](const std::string& port) { return there_.contains(port); };
    }

 private slots:
    void init() { there_ = {"keys:out", "rack:in"}; }

    void whatAPersonTookAwayIsForgotten() {
        Wiring wiring;
        QVERIFY(wiring.follow({keys_, rack_}, exists(), false).empty());
        QVERIFY(wiring.follow({rack_}, exists(), false).empty());
        QCOMPARE(wiring.wires(), std::vector<Wire>{rack_});
    }

    void whatIsGoneIsRememberedUntilItIsBack() {
        Wiring wiring;
        wiring.follow({keys_}, exists(), false);
        there_.erase("keys:out");
        QVERIFY(wiring.follow({}, exists(), true).empty());
        QVERIFY(wiring.follow({}, exists(), false).empty());
        there_.insert("keys:out");
        QCOMPARE(wiring.follow({}, exists(), false), std::vector<Wire>{keys_});
        QVERIFY(wiring.follow({keys_}, exists(), false).empty());
    }

    /// Gone and back between two looks.
    void whatWasBackAtOnceIsConnectedAgain() {
        Wiring wiring;
        wiring.follow({keys_}, exists(), false);
        QCOMPARE(wiring.follow({}, exists(), true), std::vector<Wire>{keys_});
    }

    void aServerThatIsNewTakesNothingAway() {
        Wiring wiring;
        wiring.follow({keys_, rack_}, exists(), false);
        wiring.lost();
        QCOMPARE(wiring.follow({}, exists(), false), (std::vector<Wire>{keys_, rack_}));
    }

    void whatWasThereBeforeTheStartIsConnected() {
        Wiring wiring;
        wiring.remember({keys_, keys_});
        QCOMPARE(wiring.wires().size(), std::size_t{1});
        QCOMPARE(wiring.follow({}, exists(), false), std::vector<Wire>{keys_});
    }
};

QTEST_APPLESS_MAIN(WiringTest)
#include "wiring.moc"
