// What the header says of the document and of playing, and what is asked for where it says it.
#pragma once

#include <QElapsedTimer>
#include <QObject>

#include "app/document/document.h"
#include "app/frame/header.h"
#include "app/live/live.h"
#include "app/widgets/notice_bar.h"
#include "core/takes/tap_tempo.h"

namespace mellow::app {

class HeaderFeed : public QObject {
    Q_OBJECT

 public:
    /// window: has the document's title, too.
    HeaderFeed(Header& header, Document& document, Live& live, NoticeBar& notice, QWidget& window);

    /// Asks for the ensemble's name, where it is shown.
    void nameEnsemble(QWidget* at);
    /// A beat; several make the tempo.
    void tapTempo();

 private:
    void showTitle();
    void showPorts();
    void showTempo();
    void showHand();
    void showTroubles();

    Header& header_;
    Document& document_;
    Live& live_;
    NoticeBar& notice_;
    QWidget& window_;
    QString shownHand_;
    TapTempo taps_;
    QElapsedTimer sinceFirstTap_;
    Gesture tapGesture_ = 0;
};

}  // namespace mellow::app
