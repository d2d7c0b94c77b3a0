// Instruments from and to MIDI name documents (.midnam), the open XML in which names of controls and programs
// are handed round (MIDI Manufacturers Association, MIDINameDocument 1.0).
//
// A document names devices. Each becomes an instrument that listens to the device's controls (7 and 14 bits,
// RPN, NRPN) with the ranges and named values that the document gives, and to its programs, a parameter for
// each bank. Named values become choices where our even spread of choices (signal rules, section 4) sends
// each one's number; where it would send another, they are left out, and that is said. What has no place in a
// profile (names of notes) is left out and said too. Real documents are careless, so what is missing is put
// up with where the rest makes sense. The XML is read by pugixml, which expands no entities of a document's
// own.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::profiles {

struct NamedInstruments {
    std::vector<Instrument> instruments;
    std::vector<std::string> remarks;  ///< what was left out, a sentence each
};

/// text: XML, at most 16 MB. Errors: no XML (with the line), no name document, or none with anything in it.
Result<NamedInstruments> parseNames(std::string_view text);

/// A document of one device. remarks: what a name document has no place for.
struct PrintedNames {
    std::string text;
    std::vector<std::string> remarks;
};
PrintedNames printNames(const Instrument& instrument);

}  // namespace mellow::profiles
