#include "app/pages/gear/switch_learning.h"

#include "app/ground/words.h"
#include "core/midi/names.h"
#include "core/model/edit.h"

namespace mellow::app {

SwitchLearning::SwitchLearning(Document& document, Live& live, QObject* parent)
    : QObject(parent), document_(document), live_(live) {
    connect(&live_, &Live::cameIn, this, &SwitchLearning::hear);
    connect(&document_, &Document::replaced, this, &SwitchLearning::stop);
}

void SwitchLearning::start(const std::string& instrument, std::size_t row) {
    instrument_ = instrument;
    row_ = row;
    last_ = -1;
    gesture_ = Document::newGesture();
    emit changed();
}

void SwitchLearning::stop() {
    if (!isOn()) return;
    instrument_.clear();
    emit changed();
}

QString SwitchLearning::says() const {
    const Instrument* instrument = findById(document_.ensemble().instruments, instrument_);
    if (instrument == nullptr) return {};
    const auto& all = instrument->articulations;
    const QString next = row_ < all.size()
                             ? tr("Play the key switch of “%1”.").arg(nameToShow(nameOf(all[row_])))
                             : tr("Play the key switch of a new articulation.");
    return last_ < 0 ? next : tr("%1 heard. %2").arg(toQt(midi::keyName(last_)), next);
}

void SwitchLearning::hear(const io::Happening& happening) {
    const midi::Bytes bytes = happening.message.bytes();
    if (!isOn() || happening.played || bytes.size() < 3 || !midi::isNoteOn(bytes)) return;
    const int key = bytes[1];
    document_.edit(
        tr("Learn key switches"),
        [&](Ensemble& e) {
            Instrument* instrument = findById(e.instruments, instrument_);
            if (instrument == nullptr) return;
            auto& all = instrument->articulations;
            while (all.size() <= row_) {
                Articulation made;
                made.name = tr("Switch %1").arg(toQt(midi::keyName(key))).toStdString();
                made.id = newId(all, made.name);
                all.push_back(std::move(made));
            }
            // What else selects it stays; its key switch is another, or the first.
            auto& select = all[row_].select;
            const auto found = std::find_if(select.begin(), select.end(),
                                            [](const Select& each) { return each.kind == SelectKind::note; });
            if (found != select.end()) {
                found->number = key;
            } else {
                Select made;
                made.number = key;
                select.push_back(made);
            }
        },
        gesture_);
    last_ = key;
    ++row_;
    emit changed();
}

}  // namespace mellow::app
