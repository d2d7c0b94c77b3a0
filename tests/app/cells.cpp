// A table of cells, whatever its rows are: looking, typing, filling down, pasting a column, choosing, and
// keeping one's place.
#include "app/widgets/cell_model.h"

#include <QAbstractItemModelTester>
#include <QComboBox>
#include <QSignalSpy>
#include <QtTest>

#include "app/widgets/cell_table.h"

using namespace mellow::app;

namespace {

/// Fruits with how many there are, 0 to 9, how they are eaten, and whether they are ripe; each act is noted.
class Fruits : public CellModel {
 public:
    enum Column { name, count, eaten, ripe };
    struct Row {
        QString name;
        int count = 0;
        int eaten = 0;
        bool ripe = false;
    };
    explicit Fruits(std::vector<Row> rows) : all(std::move(rows)) { reshape(); }
    void set(std::vector<Row> rows) {
        all = std::move(rows);
        follow();
    }
    std::vector<Row> all;
    QStringList acts;

 protected:
    [[nodiscard]] int cellRows() const override { return static_cast<int>(all.size()); }
    [[nodiscard]] std::vector<CellModel::Column> cellColumns() const override {
        return {{QStringLiteral("Fruit")},
                {QStringLiteral("How many"), QStringLiteral("0 to 9")},
                {QStringLiteral("Eaten")},
                {QStringLiteral("Ripe")}};
    }
    [[nodiscard]] QVariant cell(int row, int column, int role) const override {
        const Row& at = all[static_cast<std::size_t>(row)];
        const QStringList ways{QStringLiteral("raw"), QStringLiteral("cooked")};
        if (column == ripe)
            return role == Qt::CheckStateRole ? QVariant(at.ripe ? Qt::Checked : Qt::Unchecked) : QVariant();
        if (column == eaten && role == choicesRole) return ways;
        if (column == eaten && role == Qt::EditRole) return at.eaten;
        if (role != Qt::DisplayRole && role != Qt::EditRole) return {};
        return column == name ? at.name : column == count ? QString::number(at.count) : ways[at.eaten];
    }
    [[nodiscard]] Qt::ItemFlags use(int, int column) const override {
        return column == ripe ? Qt::ItemIsUserCheckable : Qt::ItemIsEditable;
    }
    QStringList type(const QString& act, const std::vector<Typed>& cells) override {
        acts << act;
        QStringList complaints;
        for (const Typed& each : cells) {
            while (each.row >= static_cast<int>(all.size())) all.emplace_back();
            Row& at = all[static_cast<std::size_t>(each.row)];
            bool isNumber = true;
            const int number = each.column == count ? each.value.toString().toInt(&isNumber) : 0;
            const bool fits = isNumber && number >= 0 && number <= 9;
            complaints << (fits ? QString() : QStringLiteral("%1 is no count").arg(each.value.toString()));
            if (each.column == name) at.name = each.value.toString();
            if (each.column == count && fits) at.count = number;
            if (each.column == eaten) at.eaten = each.value.toInt();
            if (each.column == ripe) at.ripe = each.value.toInt() == Qt::Checked;
        }
        follow();
        return complaints;
    }
};

std::vector<Fruits::Row> three() {
    return {{QStringLiteral("pear"), 3}, {QStringLiteral("plum"), 5}, {QStringLiteral("quince"), 1}};
}

QStringList columnOf(const Fruits& fruits, int column) {
    QStringList all;
    for (int row = 0; row < fruits.rowCount(); ++row) all << fruits.index(row, column).data().toString();
    return all;
}

}  // namespace

class CellsTest : public QObject {
    Q_OBJECT

 private slots:
    void aTableSaysWhatItsRowsSay() {
        Fruits fruits(three());
        const QAbstractItemModelTester tester(&fruits,
                                              QAbstractItemModelTester::FailureReportingMode::QtTest);
        QCOMPARE(fruits.rowCount(), 3);
        QCOMPARE(fruits.columnCount(), 4);
        QCOMPARE(columnOf(fruits, Fruits::name),
                 (QStringList{QStringLiteral("pear"), QStringLiteral("plum"), QStringLiteral("quince")}));
        QCOMPARE(fruits.headerData(1, Qt::Horizontal, Qt::ToolTipRole).toString(), QStringLiteral("0 to 9"));
        QVERIFY(!fruits.headerData(0, Qt::Horizontal, Qt::ToolTipRole).isValid());
        QVERIFY(!fruits.data(fruits.index(7, 0), Qt::DisplayRole).isValid());
    }

    void whatIsTypedIsOneActOrRefused() {
        Fruits fruits(three());
        QSignalSpy refused(&fruits, &CellModel::refused);
        QVERIFY(fruits.setData(fruits.index(0, Fruits::count), QStringLiteral("7"), Qt::EditRole));
        QCOMPARE(fruits.all[0].count, 7);
        QCOMPARE(fruits.acts, QStringList{QString()});
        // What it says already is no act.
        QVERIFY(!fruits.setData(fruits.index(0, Fruits::count), QStringLiteral("7"), Qt::EditRole));
        QCOMPARE(fruits.acts.size(), 1);
        QVERIFY(!fruits.setData(fruits.index(0, Fruits::count), QStringLiteral("many"), Qt::EditRole));
        QCOMPARE(refused.size(), 1);
        QCOMPARE(refused[0][0].toString(), QStringLiteral("many is no count."));
        QCOMPARE(fruits.all[0].count, 7);
        QVERIFY(fruits.setData(fruits.index(2, Fruits::ripe), Qt::Checked, Qt::CheckStateRole));
        QVERIFY(fruits.all[2].ripe);
    }

    void aColumnIsFilledDownAndPasted() {
        Fruits fruits(three());
        QVERIFY(fruits.fillDown(Fruits::count, {0, 2, 9}).isEmpty());
        QCOMPARE(columnOf(fruits, Fruits::count),
                 (QStringList{QStringLiteral("3"), QStringLiteral("5"), QStringLiteral("3")}));
        QVERIFY(fruits.fillDown(Fruits::count, {}).isEmpty());
        QVERIFY(fruits.fillDown(Fruits::count, {12}).isEmpty());
        // Rows that are not there are made; what is no value is said with its row, the rest is taken.
        const QStringList said =
            fruits.typeDown({QStringLiteral("8"), QStringLiteral("lots"), QStringLiteral("2")},
                            fruits.index(1, Fruits::count));
        QCOMPARE(said, QStringList{QStringLiteral("row 2: lots is no count")});
        QCOMPARE(columnOf(fruits, Fruits::count), (QStringList{QStringLiteral("3"), QStringLiteral("8"),
                                                               QStringLiteral("3"), QStringLiteral("2")}));
        QCOMPARE(fruits.acts.size(), 2);
    }

    void onesPlaceIsKeptWhileRowsStay() {
        Fruits fruits(three());
        CellTable table(fruits, QStringLiteral("fruits"), QStringLiteral("Fruits"));
        table.setCurrentIndex(fruits.index(2, 1));
        QSignalSpy reset(&fruits, &QAbstractItemModel::modelReset);
        auto others = three();
        others[0].count = 9;
        fruits.set(others);
        QCOMPARE(reset.size(), 0);
        QCOMPARE(table.currentIndex(), fruits.index(2, 1));
        others.pop_back();
        fruits.set(others);
        QCOMPARE(reset.size(), 1);
        QCOMPARE(fruits.rowCount(), 2);
    }

    void aChoiceIsABoxInItsCell() {
        Fruits fruits(three());
        CellTable table(fruits, QStringLiteral("fruits"), QStringLiteral("Fruits"));
        table.showChoices(Fruits::eaten);
        table.show();
        auto* box = qobject_cast<QComboBox*>(table.indexWidget(fruits.index(1, Fruits::eaten)));
        QVERIFY(box != nullptr);
        QCOMPARE(box->accessibleName(), QStringLiteral("plum"));
        QCOMPARE(box->currentText(), QStringLiteral("raw"));
        box->setCurrentIndex(1);
        emit box->activated(1);
        QCOMPARE(fruits.all[1].eaten, 1);
        QCOMPARE(fruits.all[0].eaten, 0);
        // Rows that come later have theirs too.
        auto more = three();
        more.push_back({QStringLiteral("medlar")});
        fruits.set(more);
        QVERIFY(table.indexWidget(fruits.index(3, Fruits::eaten)) != nullptr);
    }

    void theKeysOfASpreadsheetAskWhereSomebodyListens() {
        Fruits fruits(three());
        CellTable table(fruits, QStringLiteral("fruits"), QStringLiteral("Fruits"));
        table.show();
        QSignalSpy paste(&table, &CellTable::pasteAsked);
        QSignalSpy remove(&table, &CellTable::removeAsked);
        QTest::keyClick(&table, Qt::Key_V, Qt::ControlModifier);
        QTest::keyClick(&table, Qt::Key_Delete);
        QCOMPARE(paste.size(), 1);
        QCOMPARE(remove.size(), 1);
        table.selectionModel()->select(QItemSelection(fruits.index(0, 1), fruits.index(1, 2)),
                                       QItemSelectionModel::ClearAndSelect);
        QCOMPARE(table.chosenRows(), (std::vector<std::size_t>{0, 1}));
        QCOMPARE(table.chosenColumns(), (std::vector<int>{1, 2}));
    }
};

QTEST_MAIN(CellsTest)
#include "cells.moc"
