#include "app/pages/sheet/sheet_model.h"

#include <algorithm>
#include <set>

#include "app/ground/words.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/text/numbers.h"

namespace mellow::app {

const std::vector<SheetColumn>& sheetColumns() {
    static const std::vector<SheetColumn> all = [] {
        const std::map<std::string_view, std::string_view> below{
            {"move", "message"}, {"way", "chain"}, {"target", "instrument"}, {"sends", "outPort"}};
        std::vector<SheetColumn> columns;
        for (const AssignmentColumn& column : assignmentColumns()) {
            const auto found = below.find(column.key);
            columns.push_back({column.key, toQt(column.title), toQt(column.tip), &column,
                               found == below.end() ? std::string_view() : found->second});
            if (column.key == "direction") {
                columns.push_back({"now", SheetModel::tr("Now"),
                                   SheetModel::tr("Where the target stands, and what moves it")});
            }
        }
        return columns;
    }();
    return all;
}

QStringList usualSheetColumns() {
    return {QStringLiteral("move"),  QStringLiteral("way"),   QStringLiteral("target"),
            QStringLiteral("sends"), QStringLiteral("reach"), QStringLiteral("now")};
}

SheetModel::SheetModel(Document& document, const Live& live, QObject* parent)
    : CellModel(parent),
      document_(document),
      live_(live),
      sheet_(std::make_unique<sheet::Sheet>(std::make_shared<const Ensemble>())) {
    showColumns(usualSheetColumns());
}

void SheetModel::setWish(sheet::Wish wish) {
    const bool turned = wish.by != wish_.by;
    wish_ = std::move(wish);
    if (turned) turnColumns();
    if (!isStale_) arrange();
}

/// What a reading begins with stands first: what is moved, or what is heard.
void SheetModel::turnColumns() {
    const int move = columnOf("move");
    const int target = columnOf("target");
    if (move < 0 || target < 0) return;
    const bool moveFirst = wish_.by == sheet::Reading::move;
    if ((move < target) == moveFirst) return;
    std::swap(columns_[static_cast<std::size_t>(move)], columns_[static_cast<std::size_t>(target)]);
    emit arranging();
    reshape();
    emit turned();
    emit arrangedAnew();
}

void SheetModel::showColumns(const QStringList& keys) {
    columns_.clear();
    for (const QString& key : keys) {
        for (const SheetColumn& column : sheetColumns()) {
            if (key == toQt(column.key)) columns_.push_back(&column);
        }
    }
    emit arranging();
    reshape();
    emit arrangedAnew();
}

QStringList SheetModel::shownColumns() const {
    QStringList keys;
    for (const SheetColumn* column : columns_) keys << toQt(column->key);
    return keys;
}

int SheetModel::columnOf(std::string_view key) const {
    const auto found = std::find_if(columns_.begin(), columns_.end(),
                                    [key](const SheetColumn* column) { return column->key == key; });
    return found == columns_.end() ? -1 : static_cast<int>(found - columns_.begin());
}

void SheetModel::followDocument(bool shown) {
    isStale_ = isStale_ || &sheet_->ensemble() != document_.shared().get();
    if (!shown || !isStale_) return;
    // Who keeps a place in the lines is told while they are still those of the sheet before.
    emit arranging();
    sheet_ = std::make_unique<sheet::Sheet>(document_.shared());
    isStale_ = false;
    // What they are now is told a moment later.
    troubles_.clear();
    followPorts();
    arrangeAnew();
}

void SheetModel::followFindings() {
    if (isStale_) return;
    noteTroubles();
    followPorts();
    if (cellRows() > 0) emit dataChanged(index(0, 0), index(cellRows() - 1, columnCount() - 1));
}

void SheetModel::arrange() {
    emit arranging();
    arrangeAnew();
}

void SheetModel::arrangeAnew() {
    if (!wish_.find.empty() && !knowsWords_) {
        knowsWords_ = true;
        std::vector<std::string> words;
        words.reserve(sheet_->rows().size());
        for (const Assignment& row : sheet_->rows())
            words.push_back(text::folded(stateOf(row, false).words.toStdString()));
        sheet_->setWords(std::move(words));
    }
    arranged_ = sheet_->arranged(wish_);
    CellModel::follow();
    emit arrangedAnew();
}

void SheetModel::noteTroubles() {
    troubles_.clear();
    const Ensemble& ensemble = sheet_->ensemble();
    for (const Finding* finding : document_.findings()) {
        const Place& place = finding->place;
        if (!place.chain) continue;
        const std::vector<Chain>& chains = place.instrument
                                               ? std::as_const(ensemble.instruments)[*place.instrument].chains
                                               : ensemble.sharedChains;
        if (*place.chain >= chains.size()) continue;
        if (finding->severity != Severity::trouble) continue;
        troubles_[&chains[*place.chain]].emplace_back(place.branch ? static_cast<int>(*place.branch) : -1,
                                                      toQt(finding->problem.what));
    }
}

AssignmentId SheetModel::idAt(int line) const {
    return line < 0 || line >= cellRows() || isHead(line) ? AssignmentId{} : idOf(rowAt(line));
}

int SheetModel::lineOf(const AssignmentId& id) const {
    for (int line = 0; line < cellRows(); ++line) {
        if (!isHead(line) && idAt(line) == id) return line;
    }
    return -1;
}

std::vector<AssignmentId> SheetModel::idsOf(const std::vector<std::size_t>& lines) const {
    std::set<int> rows;
    std::vector<AssignmentId> ids;
    const auto add = [&](int row) {
        if (rows.insert(row).second) ids.push_back(idOf(sheet_->rows()[static_cast<std::size_t>(row)]));
    };
    for (const std::size_t each : lines) {
        const int line = static_cast<int>(each);
        if (line >= cellRows()) continue;
        if (!isHead(line)) {
            add(lineAt(line).row);
        } else if (groupAt(line).isFolded) {
            for (const int row : groupAt(line).rows) add(row);
        }
    }
    return ids;
}

void SheetModel::fold(int line, bool folded) {
    const std::string key = groupAt(line).key;
    if (folded) {
        wish_.folded.insert(key);
    } else {
        wish_.folded.erase(key);
    }
    arrange();
}

QString SheetModel::waitsFor(const Assignment& row) const {
    const Ensemble& ensemble = sheet_->ensemble();
    const Source source = resolved(ensemble, row.chain->source);
    static const std::string nowhere;
    const std::string* port = portOf(ensemble, source);
    const std::string& from = port != nullptr        ? *port
                              : row.owner != nullptr ? row.owner->input.port
                                                     : nowhere;
    const bool isPlayed =
        mellow::row(source.kind).origin == Origin::message || mellow::row(source.kind).origin == Origin::note;
    if (isPlayed && source.kind != SourceKind::desk && live_.ports().waitsFor(from, true)) return toQt(from);
    const Instrument* to = row.target.instrument;
    return to != nullptr && live_.ports().waitsFor(to->output.port, false) ? toQt(to->output.port)
                                                                           : QString();
}

SheetModel::State SheetModel::stateOf(const Assignment& row, bool moment) const {
    if (row.leads() == nullptr || !row.target.exists())
        return {Standing::alone, toQt(findAssignmentColumn("state")->text(sheet_->ensemble(), row))};
    if (!row.chain->on || !row.leads()->on) return {Standing::off, tr("off")};
    if (row.owner != nullptr && !row.owner->on) return {Standing::off, tr("instrument off")};
    const auto trouble = troubles_.find(row.chain);
    if (trouble != troubles_.end() &&
        std::any_of(trouble->second.begin(), trouble->second.end(),
                    [&row](const auto& each) { return each.first < 0 || each.first == row.branch; }))
        return {Standing::trouble, tr("trouble")};
    const auto& hand = sheet_->ensemble().inHand;
    if (row.owner != nullptr && row.chain->active == Active::inHand && hand &&
        std::find(hand->begin(), hand->end(), row.owner->id) == hand->end())
        return {Standing::outOfHand, tr("out of hand")};
    if (const QString port = waitsFor(row); !port.isEmpty())
        return {Standing::waits, tr("waits for %1").arg(port)};
    if (!moment)
        return {Standing::quiet, row.chain->active == Active::inHand ? tr("only in hand") : tr("on")};
    return readingOf(row).spoken ? State{Standing::speaks, tr("speaks")}
                                 : State{Standing::quiet, tr("quiet")};
}

ChainReading SheetModel::readingOf(const Assignment& row) const {
    return live_.reading(row.owner == nullptr ? sharedOwner : row.owner->id, row.chain->id);
}

std::pair<int, int> SheetModel::counts() const {
    if (counts_) return *counts_;
    std::pair<int, int> all{0, 0};
    for (const Assignment& row : sheet_->rows()) {
        if (row.leads() == nullptr) continue;
        const Standing standing = stateOf(row, false).standing;
        if (standing == Standing::trouble) ++all.second;
        if (standing == Standing::waits) ++all.first;
    }
    counts_ = all;
    return all;
}

QString SheetModel::troubleAt(int line) const {
    if (isHead(line)) return {};
    const Assignment& row = rowAt(line);
    const auto found = troubles_.find(row.chain);
    if (row.chain == nullptr || found == troubles_.end()) return {};
    QStringList all;
    for (const auto& [branch, sentence] : found->second) {
        if (branch < 0 || branch == row.branch) all << sentence;
    }
    return all.join(QLatin1Char('\n'));
}

SheetModel::Now SheetModel::nowAt(int line) const {
    if (isHead(line)) return {};
    const Assignment& row = rowAt(line);
    if (row.leads() == nullptr || !row.target.exists()) return {};
    const ChainReading reading = readingOf(row);
    Now now;
    now.source = reading.spoken ? reading.position : -1;
    const auto branch = static_cast<std::size_t>(row.branch);
    if (branch < reading.values.size() && row.target.hand == nullptr) now.position = reading.values[branch];
    if (now.position >= 0) {
        now.text = toQt(displayText(rangeOf(row.target), now.position));
        return now;
    }
    const State state = stateOf(row, true);
    now.standing = state.standing;
    // For what it waits is said beside it, and in the column of states.
    now.text = state.standing >= Standing::quiet   ? QStringLiteral("–")
               : state.standing == Standing::waits ? tr("waits")
                                                   : state.words;
    return now;
}

std::vector<CellModel::Column> SheetModel::cellColumns() const {
    std::vector<Column> all;
    for (const SheetColumn* column : columns_) all.push_back({column->title, column->tip});
    return all;
}

QString SheetModel::sayAt(int line, int column) const {
    const SheetColumn& at = columnAt(column);
    if (at.key == "now") return nowAt(line).text;
    if (at.key == "state") return stateAt(line).words;
    const std::string text = at.said->text(sheet_->ensemble(), rowAt(line));
    if (text.empty() && at.key == "way" && rowAt(line).chain != nullptr) return tr("as it is");
    if (text.empty() && at.key == "way" && rowAt(line).control != nullptr) return tr("free: leads nowhere");
    return toQt(text);
}

QString SheetModel::captionAt(int line, int column) const {
    const SheetColumn& at = columnAt(column);
    if (at.below.empty() || columnOf(at.below) >= 0) return {};
    const AssignmentColumn& below = *findAssignmentColumn(at.below);
    const QString text = toQt(below.text(sheet_->ensemble(), rowAt(line)));
    if (at.key != "move" || text.isEmpty()) return text;
    const QString channel = toQt(findAssignmentColumn("channel")->text(sheet_->ensemble(), rowAt(line)));
    return channel.isEmpty() || channel == QLatin1String("any") ? text
                                                                : text + QStringLiteral(" · ") + channel;
}

QVariant SheetModel::headCell(int line, int column, int role) const {
    const sheet::Group& group = groupAt(line);
    if (role == headRole) return toQt(group.caption);
    if (role == foldedRole) return group.isFolded;
    if (column != 0) return {};
    if (role == Qt::DisplayRole) return nameToShow(group.title);
    if (role == Qt::AccessibleTextRole)
        return tr("%1, %2, %n row(s)", nullptr, static_cast<int>(group.rows.size()))
            .arg(nameToShow(group.title), toQt(group.caption));
    return {};
}

QVariant SheetModel::cell(int row, int column, int role) const {
    if (isHead(row)) return headCell(row, column, role);
    switch (role) {
        case Qt::DisplayRole:
            return sayAt(row, column);
        case Qt::EditRole:
            return columnAt(column).said == nullptr
                       ? QVariant()
                       : toQt(columnAt(column).said->text(sheet_->ensemble(), rowAt(row)));
        case captionRole:
            return captionAt(row, column);
        case troubleRole:
            return troubleAt(row);
        case repeatsRole:
            return columnAt(column).key == (wish_.by == sheet::Reading::move ? "move" : "target") &&
                   row > 0 && !isHead(row - 1) && rowAt(row).chain != nullptr &&
                   rowAt(row - 1).chain != nullptr && sayAt(row, column) == sayAt(row - 1, column) &&
                   captionAt(row, column) == captionAt(row - 1, column);
        case Qt::ToolTipRole: {
            const QString caption = captionAt(row, column);
            const QString said =
                sayAt(row, column) + (caption.isEmpty() ? QString() : QLatin1Char('\n') + caption);
            const QString trouble = columnAt(column).key == "now" ? stateAt(row).words : troubleAt(row);
            return trouble.isEmpty() ? said : said + QLatin1Char('\n') + trouble;
        }
        case Qt::AccessibleTextRole: {
            const QString caption = captionAt(row, column);
            return caption.isEmpty() ? sayAt(row, column) : tr("%1, %2").arg(sayAt(row, column), caption);
        }
        default:
            return {};
    }
}

Qt::ItemFlags SheetModel::use(int row, int column) const {
    const bool isTyped =
        !isHead(row) && columnAt(column).said != nullptr && columnAt(column).said->set != nullptr;
    return isTyped && !document_.isReadOnly() ? Qt::ItemIsEditable : Qt::NoItemFlags;
}

QStringList SheetModel::pasteAt(const profiles::Table& table, const QModelIndex& from) {
    std::vector<Typed> cells;
    int line = std::max(0, from.row());
    for (const profiles::Row& row : table) {
        // A group's head is no row of a spreadsheet.
        while (line < cellRows() && isHead(line)) ++line;
        int column = std::max(0, from.column());
        for (const std::string& text : row) {
            const bool isTyped = column < columnCount() && line < cellRows() &&
                                 columnAt(column).said != nullptr && columnAt(column).said->set != nullptr;
            // What is only read here is passed over where it says the same.
            if (isTyped || line >= cellRows() || column >= columnCount() ||
                data(index(line, column), Qt::EditRole).toString() != toQt(text))
                cells.push_back({line, column, toQt(text)});
            ++column;
        }
        ++line;
    }
    const QStringList said = type(tr("Paste %n row(s)", nullptr, static_cast<int>(table.size())), cells);
    QStringList complaints;
    for (int i = 0; i < said.size(); ++i) {
        if (!said[i].isEmpty())
            complaints << tr("“%1”: %2")
                              .arg(nameToShow(
                                       cells[static_cast<std::size_t>(i)].value.toString().toStdString()),
                                   said[i]);
    }
    return complaints;
}

QStringList SheetModel::type(const QString& act, const std::vector<Typed>& cells) {
    QStringList complaints;
    QString name = act;
    struct Wanted {
        AssignmentId id;
        const AssignmentColumn* column = nullptr;
        std::string typed;
    };
    std::vector<Wanted> wanted;
    for (const Typed& each : cells) {
        complaints << QString();
        const bool isThere = each.row < cellRows() && each.column < columnCount() && !isHead(each.row);
        const AssignmentColumn* column = isThere ? columnAt(each.column).said : nullptr;
        if (column == nullptr) {
            complaints.last() = isThere ? tr("it is only read here") : tr("there is no row for it");
            continue;
        }
        if (name.isEmpty()) name = tr("Edit %1").arg(toQt(column->title));
        wanted.push_back({idAt(each.row), column, each.value.toString().toStdString()});
    }
    Ensemble changed = document_.ensemble();
    std::size_t next = 0;
    for (QString& complaint : complaints) {
        if (!complaint.isEmpty()) continue;
        const Wanted& each = wanted[next++];
        if (const auto why = typeInto(changed, *each.column, each.id, each.typed)) complaint = toQt(*why);
    }
    document_.edit(name, [&changed](Ensemble& ensemble) { ensemble = changed; });
    return complaints;
}

}  // namespace mellow::app
