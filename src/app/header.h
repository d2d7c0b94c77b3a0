// The header: what is open, the pages, how the ports are, what comes and goes, and the way to silence.
#pragma once

#include <QButtonGroup>
#include <QLabel>
#include <QPushButton>

#include "app/widgets/moving_text.h"
#include "app/widgets/two_lines.h"

namespace mellow::app {

class Header : public QWidget {
    Q_OBJECT

 public:
    /// pages: their titles, in order.
    explicit Header(const QStringList& pages, QWidget* parent = nullptr);

    void showTitle(const QString& title, const QString& path);
    void showPage(int page);
    /// name: of the hands that are loaded; empty: none.
    void showHands(const QString& name, bool playing);
    void showRates(int in, int out);
    void showStatus(const QString& status);
    /// bpm: beats a minute; 0: not known yet.
    /// from: where it comes from, where that is not the document.
    /// Who is in hand; empty: there is nobody to choose from.
    void showHand(const QString& who);
    void showTempo(double bpm, const QString& from);
    void showTroubles(int troubles);

 signals:
    void pageAsked(int page);
    void playAsked();
    void silenceAsked();
    void tempoTapped();
    void checksAsked();

 private:
    MovingText* addRate(bool pointed, const QString& tip);

    QLabel* title_;
    QButtonGroup* pages_;
    QPushButton* play_;
    QPushButton* tempo_;
    QLabel* hand_;
    QPushButton* troubles_;
    TwoLines* status_;
    MovingText* in_ = nullptr;
    MovingText* out_ = nullptr;
};

}  // namespace mellow::app
