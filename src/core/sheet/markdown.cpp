#include "core/sheet/paper.h"

namespace mellow::sheet {

namespace {

/// A text that means itself: what Markdown would read as something else has a backslash before it.
std::string escaped(const std::string& text) {
    constexpr std::string_view special = "\\`*_{}[]<>#|~&";
    std::string safe;
    for (const char c : text) {
        if (c == '\n' || c == '\r') {
            safe += ' ';
            continue;
        }
        if (special.find(c) != std::string_view::npos) safe += '\\';
        safe += c;
    }
    return safe;
}

std::string rowOf(const std::vector<std::string>& cells) {
    std::string row = "|";
    for (const std::string& cell : cells) row += " " + escaped(cell) + " |";
    return row + "\n";
}

std::string tableOf(const PaperTable& table) {
    std::string text = rowOf(table.heads) + "|";
    for (std::size_t i = 0; i < table.heads.size(); ++i) text += " --- |";
    text += "\n";
    for (const auto& row : table.rows) text += rowOf(row);
    return text + "\n";
}

std::string boxOf(const Box& box) {
    std::string text = "- **" + escaped(box.name) + "**";
    if (!box.message.empty()) text += " (" + escaped(box.message) + ")";
    if (box.does.empty()) text += ": free";
    text += "\n";
    for (const std::string& line : box.does) text += "  - " + escaped(line) + "\n";
    return text;
}

}  // namespace

std::string printMarkdown(const Paper& paper) {
    std::string text = "# " + escaped(paper.title.empty() ? "Ensemble" : paper.title) + "\n\n";
    if (!paper.subtitle.empty()) text += escaped(paper.subtitle) + "\n\n";
    for (const Chapter& chapter : paper.chapters) {
        text += "## " + escaped(chapter.title) + "\n\n";
        for (const PaperSection& section : chapter.sections) {
            text += "### " + escaped(section.title) + "\n\n";
            if (!section.caption.empty()) text += escaped(section.caption) + "\n\n";
            for (const Box& box : section.boxes) text += boxOf(box);
            if (!section.boxes.empty()) text += "\n";
            if (!section.table.heads.empty()) text += tableOf(section.table);
        }
    }
    return text;
}

}  // namespace mellow::sheet
