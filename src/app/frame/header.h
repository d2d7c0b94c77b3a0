// The header: what is open, the pages, the transport, how the ports are, what comes and goes, and the way to
// silence.
//
// It is one row, whatever the language, the fonts and the number of pages are. Where all of it finds no room,
// words give way one after the other, each to a tooltip that says them: first the name of the take, last the
// title, which the frame of the window says too.
#pragma once

#include <QButtonGroup>
#include <QLabel>
#include <QPushButton>

#include "app/takes/transport.h"
#include "app/widgets/moving_text.h"
#include "app/widgets/ports_pill.h"

namespace mellow::app {

class Header : public QWidget {
    Q_OBJECT

 public:
    /// pages: their titles, in order; transport: becomes part of the header.
    Header(const QStringList& pages, Transport* transport, QWidget* parent = nullptr);

    void showTitle(const QString& title, const QString& path);
    void showPage(int page);
    void showRates(int in, int out);
    [[nodiscard]] PortsPill& ports() { return *ports_; }
    /// Who is in hand; empty: there is nobody to choose from.
    void showHand(const QString& who);
    /// bpm: beats a minute; 0: not known yet.
    /// from: where it comes from, where that is not the document.
    void showTempo(double bpm, const QString& from);
    void showTroubles(int troubles);

    /// How narrow it can be.
    [[nodiscard]] QSize minimumSizeHint() const override { return {0, QWidget::minimumSizeHint().height()}; }

 signals:
    void pageAsked(int page);
    void silenceAsked();
    void tempoTapped();
    void checksAsked();
    /// The title was clicked: another is wished for.
    void titleAsked(QWidget* title);

 protected:
    void resizeEvent(QResizeEvent* event) override;
    void changeEvent(QEvent* event) override;
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

 private:
    MovingText* addRate(bool pointed, const QString& tip);
    void paintMarks();
    void fit();
    void shorten(int by);
    [[nodiscard]] int wanted() const;

    QLabel* title_;
    QButtonGroup* pages_;
    Transport* transport_;
    QPushButton* tempo_;
    QLabel* hand_;
    QPushButton* troubles_;
    PortsPill* ports_;
    QPushButton* silence_;
    MovingText* in_ = nullptr;
    MovingText* out_ = nullptr;
    std::vector<QLabel*> marks_;  ///< before the rates: what comes in, what goes out
    int count_ = 0;               ///< of troubles
    QString titleText_;
    QString handText_;
    QString tempoText_;
    QString tempoFrom_;
};

}  // namespace mellow::app
