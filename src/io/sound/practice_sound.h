// The sound that an instrument has on the practice rack: a General MIDI program, kept in the document as the
// key "practiceSound" beside the ones that the format names.
#pragma once

#include "core/model/ensemble.h"

namespace mellow::io {

/// 0..127; 0 when the document says nothing.
int practiceSound(const Instrument& instrument);
void setPracticeSound(Instrument& instrument, int program);

}  // namespace mellow::io
