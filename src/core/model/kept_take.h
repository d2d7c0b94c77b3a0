// A take that a document keeps: its name, and which file beside the document holds what was played.
//
// The messages are no part of the document. They lie in a Standard MIDI File that is written once and never
// changed (core/takes/take_file.h), so an edit of a take is a new file and another name here, and undoing it
// is the old name again.
#pragma once

#include <cstdint>
#include <map>
#include <string>

#include "core/model/field.h"

namespace mellow {

struct KeptTake {
    std::string id;  ///< unique among the document's takes
    std::string name;
    std::string file;      ///< a name in the folder NAME.takes beside the document
    std::string sha256;    ///< of the file, in hexadecimal; empty: nobody said
    std::string recorded;  ///< when, as ISO 8601 in universal time
    std::int64_t startUs =
        0;  ///< where its beginning stands in the piece (the transport's time), microseconds
    std::map<std::string, std::string> ports;  ///< by a track's name; what is not here plays by that name
    Extras extras;
    bool operator==(const KeptTake&) const = default;
};

}  // namespace mellow
