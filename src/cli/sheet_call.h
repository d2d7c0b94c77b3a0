// The call `sheet`: every assignment of an ensemble, for a spreadsheet, a browser or a text.
#pragma once

#include <iosfwd>
#include <string>

namespace mellow::cli {

struct SheetOptions {
    std::string ensemble;
    bool csv = false;
    bool html = false;
    bool markdown = false;
    bool pdf = false;
    std::string output = "-";
    std::string by = "move";   ///< or "hear"
    std::string find;          ///< as one types it on the page
    std::string paper = "A4";  ///< or "Letter"; of PDF
};

int runSheet(const SheetOptions& options, std::ostream& err);

}  // namespace mellow::cli
