// Checks: each rule finds what it should, says where and how to mend it, and leaves sound ensembles alone.
#include "core/checks/check.h"

#include <QtTest>

#include "core/store/ensemble_json.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

namespace {

QStringList found(const Ensemble& ensemble) {
    QStringList lines;
    for (const Finding& finding : check(ensemble)) {
        lines << (finding.severity == Severity::trouble ? QStringLiteral("trouble ")
                                                        : QStringLiteral("note ")) +
                     QString::fromStdString(finding.problem.where + ": " + finding.problem.what);
        if (finding.problem.mend.empty()) lines << QStringLiteral("(no mend)");
    }
    return lines;
}

Ensemble sound() {
    Ensemble e = ensemble({instrument()});
    e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("expression", 0, 127)})};
    return e;
}

}  // namespace

class ChecksTest : public QObject {
    Q_OBJECT

 private slots:
    void nothingToSay() { QCOMPARE(found(sound()), QStringList{}); }

    void rules_data() {
        QTest::addColumn<std::function<void(Ensemble&)>>("harm");
        QTest::addColumn<QString>("says");
        QTest::addColumn<bool>("stops");
        const auto row = [](const char* name, std::function<void(Ensemble&)> harm, const char* says,
                            bool stops) { QTest::newRow(name) << harm << QString::fromUtf8(says) << stops; };
        row(
            "target", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].target = "gone"; },
            "trouble one, c, branch 1: it leads to the parameter \"gone\", which one does not have", true);
        row(
            "controller", [](Ensemble& e) { e.instruments[0].chains[0].source.controller = "tile"; },
            "trouble one, c: its source names the controller \"tile\"", true);
        row(
            "source kind", [](Ensemble& e) { e.instruments[0].chains[0].source.kind = SourceKind::lfo; },
            "trouble one, c: the source \"lfo\" is not available yet", true);
        row(
            "step kind",
            [](Ensemble& e) { e.instruments[0].chains[0].steps = {makeStep(*findStepKind("formula"))}; },
            "trouble one, c: the step \"formula\" is not available yet", true);
        row(
            "branch step kind",
            [](Ensemble& e) {
                e.instruments[0].chains[0].branches[0].steps = {makeStep(*findStepKind("combine"))};
            },
            "trouble one, c, branch 1: the step \"combine\" is not available yet", true);
        row(
            "message kind",
            [](Ensemble& e) { e.instruments[0].parameters[0].message.kind = MessageKind::nrpn; },
            "the message \"nrpn\" of expression is not available yet", true);
        row(
            "fan", [](Ensemble& e) { e.instruments[0].chains[0].fan.mode = "chosen"; },
            "the fan \"chosen\" is not available yet", true);
        row(
            "mix", [](Ensemble& e) { e.instruments[0].parameters[0].mix = Mix::sum; }, "mixing by a rule",
            true);
        row(
            "bend amount", [](Ensemble& e) { e.instruments[0].chains[0].steps = {step("bend", {2})}; },
            "trouble one, c: bend: amount 2 is outside −1 to 1", true);
        row(
            "source channel", [](Ensemble& e) { e.instruments[0].chains[0].source.channel = 17; },
            "its source listens to channel 17", true);
        row(
            "source number", [](Ensemble& e) { e.instruments[0].chains[0].source.number = 128; },
            "number 128 is outside 0 to 127", true);
        row(
            "log from 0",
            [](Ensemble& e) { e.instruments[0].parameters[0].display = {0.0, 10.0, "", Law::log, {}, {}}; },
            "a log range needs both ends above 0", true);
        row(
            "unknown word",
            [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = std::string("loud"); },
            "its reach names \"loud\"", true);
        row(
            "reach", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 200.0; },
            "trouble one, c, branch 1: its reach goes to 200, and expression only has 0 to 127", false);
        row(
            "no branch", [](Ensemble& e) { e.instruments[0].chains[0].branches.clear(); },
            "trouble one, c: it has no effect: it leads to no target", false);
        row(
            "one value", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].low = 127.0; },
            "it has no effect: every target gets one value", false);
        row(
            "filtered",
            [](Ensemble& e) {
                e.instruments[0].input.channel = 1;
                e.instruments[0].chains[0].source.channel = 2;
            },
            "it has no effect: what moves it never passes", false);
        row(
            "meet",
            [](Ensemble& e) {
                e.instruments[0].chains.push_back(
                    chain("d", ccSource(2), {}, {branch("expression", 0, 127)}));
            },
            "note one, d, branch 1: it meets c, branch 1 on expression", false);
        row(
            "one message", [](Ensemble& e) { e.instruments.push_back(instrument("two")); },
            "note two: its expression is the same message on out channel 1 as expression of one", false);
        row(
            "shared chain", [](Ensemble& e) { e.sharedChains = {chain("s", ccSource(1), {}, {})}; },
            "trouble Shared chains, s: shared chains are not available yet", false);
        row(
            "same id",
            [](Ensemble& e) {
                e.instruments[0].chains.push_back(e.instruments[0].chains[0]);
                e.instruments[0].chains[1].source.number = 2;
            },
            "another chain has the id \"c\" already", false);
    }
    void rules() {
        QFETCH(std::function<void(Ensemble&)>, harm);
        QFETCH(QString, says);
        QFETCH(bool, stops);
        Ensemble e = sound();
        harm(e);
        const QStringList lines = found(e);
        QVERIFY2(lines.join('\n').contains(says), qPrintable(lines.join('\n')));
        QVERIFY(!lines.contains("(no mend)"));
        QCOMPARE(stoppedBy(e).chains[0][0], stops);
    }

    void anInstrumentOnNoChannelIsStopped() {
        Ensemble e = sound();
        e.instruments[0].output.channel = 0;
        QVERIFY(stoppedBy(e).instruments[0]);
        Feeder feeder(e);
        QVERIFY(feeder.feed({"0 keys 90 3C 40", "0 keys B0 01 40"}).empty());
    }

    void troublesComeFirst() {
        Ensemble e = sound();
        e.instruments[0].chains.push_back(chain("d", ccSource(2), {}, {branch("expression", 0, 127)}));
        e.instruments[0].chains.push_back(chain("z", ccSource(3), {}, {}));
        const auto findings = check(e);
        QCOMPARE(findings.size(), std::size_t{2});
        QVERIFY(findings.front().severity == Severity::trouble);
    }

    void theDemoIsClear() {
        const QByteArray demo = sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
        QCOMPARE(found(*store::parseEnsemble({demo.constData(), static_cast<std::size_t>(demo.size())})),
                 QStringList{});
    }
};

QTEST_APPLESS_MAIN(ChecksTest)
#include "checks.moc"
