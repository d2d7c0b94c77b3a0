// Every pair of text and surface that the window uses, in both themes.
#include "app/ground/theme.h"

#include <QtTest>

using namespace mellow::app;

class ThemeTest : public QObject {
    Q_OBJECT

 private slots:
    void contrastIsMeasuredAsTheStandardSays() {
        QCOMPARE(qRound(contrast(Qt::white, Qt::black) * 100), 2100);
        QCOMPARE(qRound(contrast(QColor(0x77, 0x77, 0x77), Qt::white) * 100), 448);
    }

    /// Digits are as wide as each other, so that a number does not wander while it moves; a point is narrow,
    /// so that it does not tear the number apart.
    void numbersHaveEvenDigitsAndANarrowPoint() {
        applyTheme(*qApp, duskTheme(), 1.0);
        const QFontInfo info(numberFont());
        QCOMPARE(info.family(), QStringLiteral("B612"));
        const QFontMetricsF metrics(numberFont());
        const double digit = metrics.horizontalAdvance(QLatin1Char('0'));
        for (const char each : {'1', '2', '3', '4', '5', '6', '7', '8', '9'})
            QCOMPARE(metrics.horizontalAdvance(QLatin1Char(each)), digit);
        QVERIFY(metrics.horizontalAdvance(QLatin1Char('.')) < 0.6 * digit);
        QVERIFY(metrics.horizontalAdvance(QLatin1Char(' ')) < 0.7 * digit);
    }

    void textCanBeRead_data() {
        QTest::addColumn<QColor>("text");
        QTest::addColumn<QColor>("surface");
        for (const Theme* theme : {&duskTheme(), &linenTheme()}) {
            const std::pair<const char*, QColor> texts[] = {{"ink", theme->ink},     {"dim", theme->dim},
                                                            {"honey", theme->honey}, {"mint", theme->mint},
                                                            {"clay", theme->clay},   {"sky", theme->sky}};
            const std::pair<const char*, QColor> surfaces[] = {
                {"ground", theme->ground}, {"panel", theme->panel}, {"raised", theme->raised}};
            for (const auto& [text, color] : texts) {
                for (const auto& [surface, below] : surfaces) {
                    QTest::addRow("%s: %s on %s", qPrintable(theme->name), text, surface) << color << below;
                }
            }
            // Menus and lists show their chosen entry in the ground colour on sky.
            QTest::addRow("%s: ground on sky", qPrintable(theme->name)) << theme->ground << theme->sky;
        }
    }
    void textCanBeRead() {
        QFETCH(QColor, text);
        QFETCH(QColor, surface);
        QVERIFY2(contrast(text, surface) >= 4.5, qPrintable(QString::number(contrast(text, surface))));
    }

    void numbersDoNotDance() {
        applyTheme(*qApp, duskTheme());
        const QFontMetricsF metrics(numberFont());
        for (char digit = '0'; digit <= '9'; ++digit) {
            QCOMPARE(metrics.horizontalAdvance(QLatin1Char(digit)),
                     metrics.horizontalAdvance(QLatin1Char('0')));
        }
    }
};

QTEST_MAIN(ThemeTest)
#include "theme.moc"
