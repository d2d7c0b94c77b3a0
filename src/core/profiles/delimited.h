// Tables as text: what a spreadsheet puts into the clipboard, and CSV (RFC 4180).
//
// A spreadsheet copies cells with tabs between them, exports them with commas or, where the comma is the
// decimal sign, with semicolons; a cell with one of these in it stands in quotation marks, and so may hold
// line breaks. Which of the three a text uses is told by which makes its first rows the same width.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace mellow::profiles {

using Row = std::vector<std::string>;
using Table = std::vector<Row>;

/// Rows of cells, without those that are empty altogether. Never fails: a quotation mark that is not closed
/// ends with the text. A byte order mark is left out; cells are trimmed. Text that is not UTF-8 is made that
/// (text/utf8.h).
Table parseTable(std::string_view text);

/// With commas, CRLF at line ends, quotation marks where they are needed; a cell that a spreadsheet would
/// take for a formula has an apostrophe before it, which parseTable() takes away again.
std::string printCsv(const Table& table);
/// With tabs, as spreadsheets paste it.
std::string printCells(const Table& table);

}  // namespace mellow::profiles
