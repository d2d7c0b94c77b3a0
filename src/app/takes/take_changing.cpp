#include "app/takes/take_changing.h"

#include <algorithm>
#include <utility>

#include "app/ground/words.h"
#include "core/model/edit.h"

namespace mellow::app {

TakeChanging::TakeChanging(Document& document, TakeChoice& choice, TakeStore& store, QObject* parent)
    : QObject(parent), document_(document), choice_(choice), store_(store) {}

void TakeChanging::edit(const QString& text, const std::vector<LaneEdit>& edits) {
    if (!edits.empty()) change(text, withEdits(*choice_.take(), edits));
}

bool TakeChanging::change(const QString& text, Take made) {
    const KeptTake* before = choice_.kept();
    if (before == nullptr) return false;
    if (choice_.isLive()) {
        emit choice_.hinted(tr("End the recording first; then it can be changed."));
        return false;
    }
    QString trouble;
    const bool done = changeUntold(before->id, text, std::move(made), trouble);
    if (!done && !trouble.isEmpty()) emit choice_.told(trouble + QLatin1Char('.'));
    return done;
}

bool TakeChanging::mayEdit(QString& trouble) const {
    if (!document_.isReadOnly()) return true;
    trouble = tr("another window has this ensemble");
    emit document_.editRefused();
    return false;
}

bool TakeChanging::changeUntold(const std::string& id, const QString& text, Take made, QString& trouble) {
    const KeptTake* before = findById(document_.ensemble().takes, id);
    if (before == nullptr || !mayEdit(trouble)) return false;
    auto stored = store_.keep(*before, std::move(made));
    if (!stored) {
        trouble = toQt(stored.problem().where + " " + stored.problem().what);
        return false;
    }
    document_.edit(text, [&](Ensemble& e) {
        if (KeptTake* take = findById(e.takes, id)) *take = *stored;
    });
    return true;
}

QString TakeChanging::freeName(const QString& wanted) const {
    const auto& takes = document_.ensemble().takes;
    for (int number = 1;; ++number) {
        QString name = QStringLiteral("%1 %2").arg(wanted).arg(number);
        const bool taken = std::any_of(takes.begin(), takes.end(),
                                       [&](const KeptTake& each) { return toQt(nameOf(each)) == name; });
        if (!taken) return name;
    }
}

bool TakeChanging::add(const QString& text, const QString& name, Take take, std::int64_t startUs,
                       const QString& recorded) {
    KeptTake kept;
    kept.name = name.toStdString();
    kept.recorded = recorded.toStdString();
    kept.startUs = startUs;
    QString trouble;
    const bool done = put(text, std::move(kept), std::move(take), trouble);
    if (!done && !trouble.isEmpty()) emit choice_.told(trouble + QLatin1Char('.'));
    return done;
}

bool TakeChanging::addUntold(const QString& text, const QString& name, Take take, const QString& recorded,
                             QString& trouble) {
    KeptTake kept;
    kept.name = name.toStdString();
    kept.recorded = recorded.toStdString();
    return put(text, std::move(kept), std::move(take), trouble);
}

bool TakeChanging::put(const QString& text, KeptTake kept, Take take, QString& trouble) {
    if (!mayEdit(trouble)) return false;
    kept.id = newId(document_.ensemble().takes, kept.name);
    auto stored = store_.keep(kept, std::move(take));
    if (!stored) {
        trouble = toQt(stored.problem().where + " " + stored.problem().what);
        return false;
    }
    document_.edit(text, [&](Ensemble& e) { e.takes.push_back(*stored); });
    choice_.choose(kept.id);
    return true;
}

void TakeChanging::rename(const QString& name) {
    const KeptTake* take = choice_.kept();
    if (take == nullptr || name.trimmed().isEmpty()) return;
    document_.edit(tr("Rename the take"), [id = take->id, name](Ensemble& e) {
        if (KeptTake* found = findById(e.takes, id)) found->name = name.trimmed().toStdString();
    });
}

void TakeChanging::remove() {
    const KeptTake* take = choice_.kept();
    if (take == nullptr) return;
    document_.edit(tr("Remove %1").arg(nameToShow(nameOf(*take))), [id = take->id](Ensemble& e) {
        erase_if(e.takes, [&id](const KeptTake& each) { return each.id == id; });
    });
}

void TakeChanging::setCues(const QString& text, std::vector<TakeMark> cues) {
    Take made = *choice_.stored();
    std::erase_if(made.marks, [](const TakeMark& mark) { return mark.isCue(); });
    made.marks.insert(made.marks.end(), std::make_move_iterator(cues.begin()),
                      std::make_move_iterator(cues.end()));
    std::stable_sort(made.marks.begin(), made.marks.end(),
                     [](const TakeMark& one, const TakeMark& other) { return one.time < other.time; });
    change(text, std::move(made));
}

}  // namespace mellow::app
