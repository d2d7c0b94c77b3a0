// The whole signal language, added and edited in the window: every edit is one undo step, and what is played
// and shown follows.
#include <QCheckBox>
#include <QComboBox>

#include "core/describe/sentence.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::type;
using test::Window;

namespace {

/// The visible field of the details panel whose label says so; the last one, where a second source repeats
/// it.
template<class Widget>
Widget* field(Window& window, const QString& label) {
    Widget* found = nullptr;
    for (Widget* each : window.details().findChildren<Widget*>()) {
        if (each->isVisible() && each->accessibleName() == label) found = each;
    }
    if (found == nullptr) qFatal("no visible field %s", qPrintable(label));
    return found;
}

bool offers(Window& window, const QString& label) {
    for (QWidget* each : window.details().findChildren<QWidget*>()) {
        if (each->isVisible() && each->accessibleName() == label) return true;
    }
    return false;
}

void choose(Window& window, const QString& label, const QString& entry) {
    auto* box = field<QComboBox>(window, label);
    const int index = box->findText(entry);
    if (index < 0) qFatal("%s does not offer %s", qPrintable(label), qPrintable(entry));
    box->setCurrentIndex(index);
    emit box->activated(index);
    QCoreApplication::processEvents();
}

void tick(Window& window, const QString& label) {
    for (auto* box : window.details().findChildren<QCheckBox*>()) {
        if (box->isVisible() && box->text() == label) return box->click();
    }
    qFatal("no box %s", qPrintable(label));
}

QString railText(Window& window, std::size_t rail) {
    return window.page().lever().targetRails()[rail]->content().valueText;
}

void addStep(Window& window, const QString& label) {
    window.pickStep("addStep", label);
}

}  // namespace

class LanguageTest : public QObject {
    Q_OBJECT

 private slots:
    void everyKindOfSourceCanBeChosenAndEdited() {
        Window window;
        window.select("glass", "swell");
        for (const SourceRow& kind : sourceKinds()) {
            if (kind.kind == window.chain("glass", "swell").source.kind) continue;
            window.editsOnce([&] { choose(window, QStringLiteral("Source"), toQt(kind.label)); });
            const Source& source = window.chain("glass", "swell").source;
            QCOMPARE(static_cast<int>(source.kind), static_cast<int>(kind.kind));
            for (const Field& each : kind.fields)
                QVERIFY2(offers(window, toQt(each.label)), each.label.data());
            QCOMPARE(offers(window, QStringLiteral("Number")), kind.numbered);
            if (kind.kind == SourceKind::osc) continue;  // It needs an address first.
            QVERIFY2(check(window.ensemble()).empty() || kind.kind != SourceKind::tieLine,
                     "a tie line is found");
        }
    }

    void aCycleMovesThePage() {
        Window window;
        window.select("glass", "swell");
        choose(window, QStringLiteral("Source"), QStringLiteral("Cycle"));
        window.editsOnce([&] { choose(window, QStringLiteral("Shape"), QStringLiteral("Square")); });
        window.editsOnce(
            [&] { type(field<NumberField>(window, QStringLiteral("Rate")), QStringLiteral("3")); });
        QCOMPARE(numberOf(window.chain("glass", "swell").source, 1), 3.0);
        QTRY_COMPARE(railText(window, 0), QStringLiteral("127"));
        QTRY_COMPARE(railText(window, 0), QStringLiteral("30"));
        QVERIFY(window.find<app::FewLines>("sentence")->text().startsWith(QStringLiteral("Square of 3 Hz")));
    }

    void aSecondSourceIsCombined() {
        Window window;
        window.select("glass", "half-light");
        window.editsOnce([&] { addStep(window, QStringLiteral("Combine")); });
        window.editsOnce([&] { choose(window, QStringLiteral("How"), QStringLiteral("Lowest")); });
        choose(window, QStringLiteral("Source"), QStringLiteral("Control (CC)"));
        window.editsOnce(
            [&] { type(field<NumberField>(window, QStringLiteral("Number")), QStringLiteral("4")); });
        const Step& step = window.chain("glass", "half-light").steps.back();
        QCOMPARE(step.with->number, 4);
        window->live().hands().send(midi::make(midi::controlChange, 0, 67, 127));
        const auto& rail = *window.page().lever().targetRails()[0];
        QTRY_VERIFY(rail.content().hasValue);
        const QString held = railText(window, 0);
        window->live().hands().send(midi::make(midi::controlChange, 0, 4, 127));
        QTRY_VERIFY(railText(window, 0) != held);
    }

    void aFormulaIsTypedAndAWrongOneSaysWhy() {
        Window window;
        window.select("glass", "swell");
        addStep(window, QStringLiteral("Formula"));
        window.editsOnce(
            [&] { type(field<QLineEdit>(window, QStringLiteral("Formula")), QStringLiteral("1 - x")); });
        window->live().hands().send(midi::make(midi::controlChange, 0, 1, 0));
        QTRY_COMPARE(railText(window, 0), QStringLiteral("127"));
        type(field<QLineEdit>(window, QStringLiteral("Formula")), QStringLiteral("1 -"));
        QTRY_VERIFY(findingsText(window).contains(QStringLiteral("formula")));
    }

    void aChooserFeedsOneBranch() {
        Window window;
        window.select("glass", "swell");
        window.editsOnce([&] { choose(window, QStringLiteral("Fan"), QStringLiteral("One, chosen by…")); });
        QVERIFY(window.chain("glass", "swell").fan.by.has_value());
        choose(window, QStringLiteral("Source"), QStringLiteral("Channel pressure"));
        QCOMPARE(static_cast<int>(window.chain("glass", "swell").fan.by->kind),
                 static_cast<int>(SourceKind::pressure));
        window->live().hands().send(midi::make(midi::channelPressure, 0, 127));
        window->live().hands().send(midi::make(midi::controlChange, 0, 1, 127));
        const auto& rails = window.page().lever().targetRails();
        QTRY_VERIFY(rails.back()->content().active && rails.back()->content().hasValue);
        QVERIFY(!rails[0]->content().active && !rails[0]->content().hasValue);
        window.editsOnce([&] { choose(window, QStringLiteral("Fan"), QStringLiteral("All at once")); });
    }

    void theTempoIsSetHere() {
        Window window;
        window.select(sharedOwner, "storm", Part::instrument);
        QVERIFY(!offers(window, QStringLiteral("Clock from")));
        window.editsOnce([&] { choose(window, QStringLiteral("Follows"), QStringLiteral("MIDI clock")); });
        QVERIFY(window.ensemble().tempo.follow == Follow::clock);
        window.editsOnce([&] {
            test::type(field<QLineEdit>(window, QStringLiteral("Clock from")), QStringLiteral("keys"));
        });
        QCOMPARE(window.ensemble().tempo.port, std::string("keys"));
        window.editsOnce(
            [&] { test::type(field<NumberField>(window, QStringLiteral("BPM")), QStringLiteral("90.5")); });
        QCOMPARE(window.ensemble().tempo.bpm, 90.5);
    }

    void tieLinesAndSharedChainsAreMadeHere() {
        Window window;
        window.select(sharedOwner, "", Part::instrument);
        QCOMPARE(window.find<QLabel>("detailsTitle")->text(), QStringLiteral("Shared"));
        window.editsOnce([&] { window.click("addTieLine"); });
        QCOMPARE(window.ensemble().tieLines.size(), std::size_t{2});
        window.editsOnce([&] { window.click("addChain"); });
        QCOMPARE(window.ensemble().sharedChains.size(), std::size_t{3});
        QCOMPARE(window->selection().now().instrument, sharedOwner);
        QCOMPARE(window.page().chains().model()->rowCount(), 3);
        window.editsOnce([&] { window.addTarget(); });
        QVERIFY(!window.ensemble().sharedChains[2].branches[1].target.empty());
        window.editsOnce(
            [&] { choose(window, QStringLiteral("Target"), QStringLiteral("Frame drums Tone")); });
        QCOMPARE(window.ensemble().sharedChains[2].branches[1].target, std::string("drums/tone"));
        window->live().hands().send(midi::make(midi::controlChange, 0, 1, 127));
        QTRY_COMPARE(railText(window, 1), QStringLiteral("20 kHz"));
        window.select(sharedOwner, "", Part::instrument);
        window.editsOnce([&] { window.click("removeTieLine0"); });
        QCOMPARE(window.ensemble().tieLines.size(), std::size_t{1});
        QVERIFY(window.ensemble().sharedChains[0].branches.empty());
    }

    void aSharedChainMovesWhatFollowsItsTieLine() {
        Window window;
        window.select("drone", "storm-front");
        window->live().hands().sendTo("gesture-tile", midi::make(midi::controlChange, 0, 24, 127));
        QTRY_COMPARE(railText(window, 1), QStringLiteral("6.5 Hz"));
        QTRY_COMPARE(railText(window, 0), QStringLiteral("60 cents"));
    }

    void everyMessageCanBeATarget() {
        Window window;
        window.select("glass", "", Part::instrument);
        auto* list = window.find<QListView>("parameters");
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {},
                          list->visualRect(list->model()->index(0, 0)).center());
        QTRY_VERIFY(offers(window, QStringLiteral("Message")));
        for (const MessageRow& kind : messageKinds()) {
            if (kind.kind == window.instrument("glass").parameters[0].message.kind) continue;
            window.editsOnce([&] { choose(window, QStringLiteral("Message"), toQt(kind.label)); });
            QCOMPARE(offers(window, QStringLiteral("Velocity")), kind.kind == MessageKind::note);
            QCOMPARE(offers(window, QStringLiteral("Bank")), kind.kind == MessageKind::program);
            QCOMPARE(offers(window, QStringLiteral("Address")), kind.kind == MessageKind::osc);
        }
        choose(window, QStringLiteral("Message"), QStringLiteral("Program change"));
        window.editsOnce(
            [&] { type(field<QLineEdit>(window, QStringLiteral("Bank")), QStringLiteral("1, 2")); });
        QCOMPARE((*window.instrument("glass").parameters[0].message.bank)[1], 2);
        window.editsOnce(
            [&] { choose(window, QStringLiteral("Where chains meet"), QStringLiteral("The highest")); });
        QCOMPARE(static_cast<int>(window.instrument("glass").parameters[0].mix),
                 static_cast<int>(Mix::highest));
    }

    void anInstrumentIsTakenOutOfHandAndBack() {
        Window window;
        window.select("glass", "", Part::instrument);
        window.editsOnce([&] { tick(window, QStringLiteral("In hand")); });
        QCOMPARE(window.ensemble().inHand->size(), window.ensemble().instruments.size() - 1);
        QTRY_VERIFY(window->ensembleList()
                        .model()
                        ->index(0, 0)
                        .data(InstrumentModel::where)
                        .toString()
                        .contains(QStringLiteral("not in hand")));
        window->live().hands().send(midi::make(midi::noteOn, 0, 60, 100));
        window.editsOnce([&] { tick(window, QStringLiteral("In hand")); });
        QVERIFY(!window.ensemble().inHand);
    }

    void handoverAndActivityOfAChain() {
        Window window;
        window.select("glass", "swell");
        window.editsOnce(
            [&] { choose(window, QStringLiteral("Handover"), QStringLiteral("Wait until they meet")); });
        QCOMPARE(static_cast<int>(*window.chain("glass", "swell").handover),
                 static_cast<int>(Handover::meet));
        window.editsOnce([&] { choose(window, QStringLiteral("Active"), QStringLiteral("Only in hand")); });
        QVERIFY(window.find<app::FewLines>("sentence")->text().contains(QStringLiteral("only in hand")));
    }
};

QTEST_MAIN(LanguageTest)
#include "language.moc"
