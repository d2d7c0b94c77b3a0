// Recorded hands: a MIDI file that plays as if somebody played on the practice keys.
#pragma once

#include <QObject>
#include <QString>
#include <memory>

#include "app/live.h"
#include "app/widgets/notice_bar.h"

namespace mellow::app {

class Hands : public QObject {
    Q_OBJECT

 public:
    Hands(Live& live, NoticeBar& notice, QObject* parent = nullptr);

    /// False when the file cannot be read; then the hands of before stay.
    bool load(const QString& path);
    /// The demo's, which go when another document is opened; those that a person loaded stay.
    void loadDemos(midi::Bytes file, const QString& name);
    void dropDemos();
    /// Starts to play, or stops.
    void toggle();

    [[nodiscard]] bool playing() const { return live_.takePosition() >= 0; }
    /// Of the file, without folder and ending; empty: none is loaded.
    [[nodiscard]] const QString& name() const { return name_; }

 signals:
    void changed();

 private:
    bool read(midi::Bytes file, const QString& path);

    Live& live_;
    NoticeBar& notice_;
    std::shared_ptr<const Take> take_;
    QString name_;
    bool areDemos_ = false;
};

}  // namespace mellow::app
