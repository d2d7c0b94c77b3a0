#include "app/takes/take_work.h"

namespace mellow::app {

TakeWork::TakeWork(Document& document, Selection& selection, Live& live, TakeStore& store, QObject* parent)
    : QObject(parent),
      choice(document, selection, store),
      playing(choice, live),
      changing(document, choice, store),
      logs(document, choice, changing, store),
      recording(document, selection, live, store, choice, playing, changing, logs),
      trigger(live) {
    connect(&document, &Document::replaced, this, [this] {
        playing.forget();
        recording.endNow();
        logs.leave();
        choice.setSpan({});
    });
    connect(&trigger, &TakeTrigger::changed, &playing, &TakePlaying::runChanged);
    // Whoever hears it may be playing just now.
    connect(&trigger, &TakeTrigger::pressed, &recording, &TakeRecording::toggle, Qt::QueuedConnection);
}

}  // namespace mellow::app
