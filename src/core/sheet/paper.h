// The sheet as a document for the studio's wall: what is on it, section by section, before anybody has
// decided how it looks.
//
// Controllers come first, as plain diagrams: a box for each control, in their order, with what it does. Then
// the instruments with what moves each parameter, then ports, pages of the desk, takes, loudness as far as it
// was measured, and what is still wrong. Paper, HTML and Markdown are written from this one value, and say the
// same.
#pragma once

#include <string>
#include <vector>

#include "core/checks/check.h"
#include "core/sheet/sheet.h"

namespace mellow::sheet {

/// A control as a box of a diagram.
struct Box {
    std::string name;
    std::string message;
    std::vector<std::string> does;  ///< a line each; empty: it is free
};

struct PaperTable {
    std::vector<std::string> heads;
    std::vector<std::vector<std::string>> rows;  ///< as many cells as heads
};

struct PaperSection {
    std::string title;
    std::string caption;  ///< one line below the title; may be empty
    std::vector<Box> boxes;
    PaperTable table;  ///< without heads: there is none
};

/// What stands together: "What you move", "What you hear", and the rest.
struct Chapter {
    std::string title;
    std::vector<PaperSection> sections;
};

struct Paper {
    std::string title;
    std::string subtitle;  ///< what and how much it is, and of what day
    std::vector<Chapter> chapters;
};

/// day: as it is to be printed, "30 November 2026"; may be empty. findings: what check() says. Where
/// something is searched for, only what was found is on it, and neither ports nor pages of the desk, takes
/// and troubles are.
Paper paperOf(const Sheet& sheet, const Wish& wish, const Findings& findings, const std::string& day);

/// One self-contained HTML file: no script, nothing from elsewhere; for large and small screens, both
/// themes, screen readers and printers.
std::string printHtml(const Paper& paper);
/// CommonMark with tables.
std::string printMarkdown(const Paper& paper);

}  // namespace mellow::sheet
