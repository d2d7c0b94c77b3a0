// A MIDI file that a person wants in: read aside, what is wrong with it told.
#pragma once

#include <QString>
#include <functional>
#include <optional>

#include "core/smf/file.h"

namespace mellow::app {

/// What a MIDI file holds, as far as it can be read; nothing when it is none, or a person would not wait for
/// it any longer. What is wrong, or lost, is told.
std::optional<smf::File> readMidiFile(const QString& path, const std::function<void(const QString&)>& tell);

}  // namespace mellow::app
