// Nothing that a person reads is cut off or covered, at every size, font and theme that the window supports.
#include <QCheckBox>
#include <set>

#include "app/ground/theme.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/practice_keys.h"
#include "app/widgets/short_list.h"
#include "support/texts.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::faults;
using test::labelOf;
using test::Window;

namespace {

/// What a widget tells whoever rests the pointer on it; nothing where it has nothing to say.
QString toolTipOf(QWidget& widget) {
    QToolTip::hideText();
    (void)QTest::qWaitFor([] { return !QToolTip::isVisible(); });
    QHelpEvent asks(QEvent::ToolTip, QPoint(5, 5), widget.mapToGlobal(QPoint(5, 5)));
    QApplication::sendEvent(&widget, &asks);
    return QToolTip::isVisible() ? QToolTip::text() : QString();
}

}  // namespace

class LayoutTest : public QObject {
    Q_OBJECT

 private slots:
    void nothingIsCutOffOrCovered_data() {
        QTest::addColumn<QSize>("size");
        QTest::addColumn<double>("fonts");
        QTest::addColumn<bool>("linen");
        for (const QSize size : {QSize(1100, 700), QSize(1280, 800), QSize(1920, 1080)}) {
            for (const bool linen : {false, true}) {
                QTest::addRow("%dx%d %s", size.width(), size.height(), linen ? "Linen" : "Dusk")
                    << size << 1.0 << linen;
            }
        }
        QTest::addRow("1280x800, larger fonts") << QSize(1280, 800) << 1.25 << false;
        QTest::addRow("1920x1080, larger fonts") << QSize(1920, 1080) << 1.25 << true;
    }
    void nothingIsCutOffOrCovered() {
        QFETCH(QSize, size);
        QFETCH(double, fonts);
        QFETCH(bool, linen);
        Window window(size, fonts, linen);
        QCOMPARE(window->size(), size);
        const auto look = [&](const char* state) {
            // A layout settles in the event loop.
            (void)QTest::qWaitFor([&] { return faults(*window).isEmpty(); }, 8000);
            const QStringList found = faults(*window);
            QVERIFY2(found.isEmpty(), qPrintable(QLatin1String(state) + QStringLiteral(":\n") +
                                                 found.join(QLatin1Char('\n'))));
        };
        const std::tuple<const char*, const char*, const char*, Part, int> states[] = {
            {"source", "glass", "swell", Part::source, 0},
            {"step", "glass", "swell", Part::step, 1},
            {"points", "glass", "half-light", Part::step, 0},
            {"branch", "flute", "breath", Part::branch, 1},
            {"window", "whistles", "top", Part::branch, 0},
            {"instrument", "drone", "", Part::instrument, 0}};
        for (const auto& [state, instrument, chain, part, index] : states) {
            window.select(instrument, chain, part, index);
            look(state);
        }
        window->newEnsemble();
        look("empty");
    }

    /// What is wrong is read in lines, not word by word: its mends stand below it where it is narrow.
    void findingsHaveRoomForTheirWords() {
        Window window;
        window->document().edit(QStringLiteral("put"), [](Ensemble& e) {
            Instrument one = e.instruments[0];
            one.id = "another";
            one.name = "Another";
            one.output.channel = 7;
            e.instruments.push_back(one);
        });
        window.select("another", "", Part::instrument, 0);
        QLabel* words = nullptr;
        const auto isThere = [&] {
            for (auto* each : window.details().findChildren<QLabel*>(QStringLiteral("finding"))) {
                if (each->isVisible()) words = each;
            }
            return words != nullptr && words->width() * 10 > window.details().width() * 8;
        };
        QTRY_VERIFY(isThere());
        const auto* mend = window.details().findChild<QPushButton*>(QStringLiteral("mend"));
        QVERIFY(mend != nullptr);
        const auto bottom = words->mapToGlobal(QPoint(0, words->height())).y();
        QTRY_VERIFY(mend->mapToGlobal(QPoint()).y() >= bottom);
    }

    /// What a label of one line has no room for is told by its tool tip: as it is now, and only then.
    void labelsInLittleRoomAreShortened() {
        Window window;
        ElidedLabel label(&*window);
        label.resize(80, 20);
        label.show();
        for (const QString& words : {QStringLiteral("The brightness of the upper whistle pair"),
                                     QStringLiteral("The stiffness of the lower bellows")}) {
            label.setText(words);
            QCOMPARE(toolTipOf(label), words);
        }
        label.setText(QStringLiteral("Bellows"));
        QCOMPARE(toolTipOf(label), QString());
        label.setToolTip(QStringLiteral("What blows"));
        QCOMPARE(toolTipOf(label), QStringLiteral("What blows"));
        QToolTip::hideText();
    }

    /// What is chosen from a list and finds no room is shortened, and said whole by its tool tip; the open
    /// list has room for it.
    void choicesInLittleRoomAreShortened() {
        Window window;
        ShortList list(5, &*window);
        const QString longest = QStringLiteral("The brightness of the upper whistle pair");
        list.addItems({QStringLiteral("short"), longest});
        list.setToolTip(QStringLiteral("What it is about"));
        list.resize(100, list.sizeHint().height());
        list.show();
        QCOMPARE(list.shownText(), QStringLiteral("short"));
        const auto told = [&list] { return toolTipOf(list); };
        QCOMPARE(told(), list.toolTip());
        list.setCurrentIndex(1);
        QVERIFY(list.shownText().endsWith(QChar(0x2026)));
        QVERIFY(list.shownText().startsWith(QStringLiteral("The")));
        QCOMPARE(told(), longest + QLatin1Char('\n') + list.toolTip());
        list.showPopup();
        QTRY_VERIFY(list.view()->isVisible());
        QVERIFY(list.view()->viewport()->width() >= list.fontMetrics().horizontalAdvance(longest));
        list.hidePopup();
        QToolTip::hideText();
        // At the right edge of the screen the open list is all on it.
        ShortList last;
        last.addItem(longest);
        const QRect screen = last.screen()->availableGeometry();
        last.setGeometry(screen.right() - 90, screen.top() + 50, 90, list.height());
        last.show();
        last.showPopup();
        QTRY_VERIFY(last.view()->isVisible());
        QVERIFY(last.view()->window()->frameGeometry().right() <= screen.right());
        last.hidePopup();
        // Of a list that does not shorten, the check of all pages would say so.
        QComboBox plain;
        plain.addItem(longest);
        plain.resize(list.size());
        QVERIFY(!test::cutOff(&plain).isEmpty());
        plain.resize(2000, list.height());
        QVERIFY(test::cutOff(&plain).isEmpty());
    }

    /// Each octave is named, whole, however narrow the keys are.
    void octavesAreNamed_data() {
        QTest::addColumn<int>("width");
        for (const int width : {360, 450, 571, 760, 1400}) QTest::addRow("%d px", width) << width;
    }
    void octavesAreNamed() {
        QFETCH(int, width);
        const Window window;
        Keyboard keyboard;
        keyboard.setKeys(24, 96);
        keyboard.resize(width, 100);
        const QImage picture = keyboard.grab().toImage();
        const auto isInk = [&picture](int x, int y) { return qGray(picture.pixel(x, y)) < 150; };
        for (int key = 24; key <= 96; key += 12) {
            const QRect name = keyboard.octaveRect(key).toAlignedRect();
            QVERIFY(keyboard.rect().contains(name));
            QVERIFY(name.width() >= QFontMetrics(captionFont()).horizontalAdvance(QStringLiteral("C1")));
            // Letter and number both: ink to the left and to the right of the middle.
            const QRect words(name.left(), name.bottom() - 12, name.width(), 12);
            int left = 0;
            int right = 0;
            for (int y = words.top(); y <= words.bottom(); ++y) {
                for (int x = words.left(); x <= words.right(); ++x)
                    if (isInk(x, y)) ++(x < words.center().x() ? left : right);
            }
            QVERIFY2(left > 5 && right > 5,
                     qPrintable(QStringLiteral("%1: %2, %3").arg(key).arg(left).arg(right)));
        }
    }

    /// Six pages in words as long as German ones, with all that the header can have to say.
    void theHeaderFitsSixPagesInLongWords_data() {
        QTest::addColumn<double>("fonts");
        QTest::newRow("plain") << 1.0;
        QTest::newRow("larger") << 1.25;
    }
    void theHeaderFitsSixPagesInLongWords() {
        QFETCH(double, fonts);
        Window window({1100, 700}, fonts);
        Header header(
            {QStringLiteral("Ketten"), QStringLiteral("Spieltisch"), QStringLiteral("Aufnahmen"),
             QStringLiteral("Anschlüsse"), QStringLiteral("Übersicht"), QStringLiteral("Ausgleich")},
            new Transport(window->document(), window->takes()));
        header.resize(1100, header.sizeHint().height());
        header.show();
        header.showTitle(QStringLiteral("Die zinnerne Sternwarte im Nebel *"), {});
        header.showHand(QStringLiteral("Glasharmonika und Bassflöte"));
        header.showTempo(123.4, QStringLiteral("wartet auf den Taktgeber"));
        header.showRates(9999, 9999);
        header.showTroubles(12);
        header.ports().say(PortsPill::State::ill, QStringLiteral("JACK antwortet nicht"), {});
        (void)QTest::qWaitFor([&] { return faults(header).isEmpty(); }, 8000);
        QVERIFY2(faults(header).isEmpty(), qPrintable(faults(header).join(QLatin1Char('\n'))));
        for (QWidget* each : header.findChildren<QWidget*>()) {
            const QRect place(each->mapTo(&header, QPoint(0, 0)), each->size());
            QVERIFY2(!each->isVisible() || header.rect().contains(place), qPrintable(labelOf(each)));
        }
        QCOMPARE(header.width(), 1100);
    }

    void everyActionHasATooltipAndThePageCanBeWalked() {
        Window window;
        for (const auto* button : window->findChildren<QPushButton*>()) {
            if (button->isHidden() || !button->isVisible()) continue;
            const bool explained = !button->toolTip().isEmpty() || !button->text().isEmpty();
            QVERIFY2(explained, qPrintable(labelOf(button)));
        }
        window.page().chains().setFocus();
        std::set<QWidget*> reached;
        std::vector<const QWidget*> order;
        for (int i = 0; i < 60; ++i) {
            if (reached.insert(QApplication::focusWidget()).second)
                order.push_back(QApplication::focusWidget());
            QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
        }
        QVERIFY(reached.contains(&window.page().lever().sourceRail()));
        QVERIFY(reached.contains(window.page().lever().targetRails()[3]));
        QVERIFY(reached.contains(&window.page().lever().picture()));
        QVERIFY(reached.contains(&window->practiceKeys().keyboard()));
        QVERIFY(reached.contains(window.find<QPushButton>("silence")));
        // As one reads: chains, source, steps, response, targets, details, and the practice keys at the end.
        const auto placeOf = [&order](const QWidget* widget) {
            return std::find(order.begin(), order.end(), widget) - order.begin();
        };
        const QWidget* chip = nullptr;
        for (const QWidget* each : order) {
            if (chip == nullptr && each->parentWidget()->objectName() == QStringLiteral("chips")) chip = each;
        }
        QVERIFY(chip != nullptr);
        const QWidget* detail = nullptr;
        for (const QWidget* each : order) {
            if (detail == nullptr && window.details().isAncestorOf(each)) detail = each;
        }
        QVERIFY(detail != nullptr);
        const std::array<const QWidget*, 7> read{
            &window.page().chains(),           &window.page().lever().sourceRail(),    chip,
            &window.page().lever().picture(),  window.page().lever().targetRails()[0], detail,
            &window->practiceKeys().keyboard()};
        for (std::size_t i = 1; i < read.size(); ++i)
            QVERIFY2(placeOf(read[i - 1]) < placeOf(read[i]), qPrintable(QString::number(i)));
        for (const QWidget* widget : reached) {
            const bool named = !widget->accessibleName().isEmpty() ||
                               qobject_cast<const QAbstractButton*>(widget) != nullptr ||
                               qobject_cast<const QScrollArea*>(widget) != nullptr;
            QVERIFY2(named, qPrintable(labelOf(widget)));
        }
    }
};

QTEST_MAIN(LayoutTest)
#include "layout.moc"
