// Takes, as the window works with them: which is in hand, playing it, changing it, recording. Each is a part
// of its own that knows those before it; the page shows them and its commands change them, and nothing here
// is a widget.
#pragma once

#include "app/takes/take_changing.h"
#include "app/takes/take_choice.h"
#include "app/takes/take_logs.h"
#include "app/takes/take_playing.h"
#include "app/takes/take_recording.h"
#include "app/takes/take_trigger.h"

namespace mellow::app {

class TakeWork : public QObject {
    Q_OBJECT

 public:
    TakeWork(Document& document, Selection& selection, Live& live, TakeStore& store,
             QObject* parent = nullptr);

    TakeChoice choice;
    TakePlaying playing;
    TakeChanging changing;
    TakeLogs logs;
    TakeRecording recording;
    TakeTrigger trigger;
};

}  // namespace mellow::app
