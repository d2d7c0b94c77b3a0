// Reading back a sweep that was rendered elsewhere: which file was rendered, which sound came of it, whether
// they lie right, and what is measured.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <filesystem>
#include <memory>

#include "app/pages/balance/balancing.h"
#include "app/pages/balance/wave_view.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

class SoundDialog : public QDialog {
    Q_OBJECT

 public:
    SoundDialog(Workspace& workspace, Balancing& balancing, QWidget* parent);

    /// Reads a MIDI file of a sweep; without one the sweep is what is chosen on the page.
    bool readSweep(const QString& path);
    bool readSound(const QString& path);
    [[nodiscard]] QString said() const { return said_->text(); }

 private:
    struct Read {
        std::shared_ptr<const balance::Sound> sound;  ///< nullptr: none yet
        std::vector<float> outline;
        double seconds = 0;
        Result<std::int64_t> click = std::int64_t{0};  ///< its frame
    };
    static Result<Read> readAll(const std::filesystem::path& file);
    void build();
    void chooseSweep();
    void chooseSound();
    void measure();
    void say(const QString& sentence);
    void use();

    Workspace& workspace_;
    Balancing& balancing_;
    QLabel* sweepName_;
    QLabel* soundName_;
    WaveView* wave_;
    NumberField* begins_;
    QLabel* said_;
    QPushButton* use_;
    std::optional<balance::KnownSweep> known_;
    Read read_;
    std::optional<balance::Curve> curve_;
    QString soundFile_;
};

/// Writes the sweep that is chosen on the page as a MIDI file.
void writeSweep(Workspace& workspace, Balancing& balancing, const QString& path);

}  // namespace mellow::app
