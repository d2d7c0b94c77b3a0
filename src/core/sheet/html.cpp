// Tables become cards on a narrow screen, where each cell says its column's name before it. Colours are
// those of a page of a book: nothing is said by them alone.
#include "core/sheet/paper.h"

namespace mellow::sheet {

namespace {

constexpr const char* style = R"(
:root { color-scheme: light dark; --ink: #24302d; --dim: #5c6862; --line: #c9bfa9; --page: #fffdf7; }
@media (prefers-color-scheme: dark) {
  :root { --ink: #f2ebdd; --dim: #a9b5ad; --line: #3a4a47; --page: #17201f; }
}
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 72rem; padding: 1.5rem; color: var(--ink); background: var(--page);
  font: 15px/1.45 Manrope, "Noto Sans", sans-serif; }
h1 { margin: 0; font-size: 1.9rem; }
h2 { margin: 2.2rem 0 0; padding-bottom: .3rem; border-bottom: 2px solid var(--ink); font-size: 1.3rem; }
h3 { margin: 1.4rem 0 0; font-size: 1.05rem; }
p { margin: .1rem 0 .5rem; color: var(--dim); }
table { width: 100%; border-collapse: collapse; font-size: .92rem; }
th, td { padding: .35rem .6rem .35rem 0; border-bottom: 1px solid var(--line); text-align: left;
  vertical-align: top; overflow-wrap: anywhere; }
th { color: var(--dim); font-weight: 600; }
caption { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
ol { display: grid; grid-template-columns: repeat(auto-fill, minmax(15rem, 1fr)); gap: .6rem; margin: .4rem 0 0;
  padding: 0; list-style: none; }
ol > li { padding: .5rem .75rem; border: 1px solid var(--line); border-radius: .6rem; break-inside: avoid;
  overflow-wrap: anywhere; }
ol > li > span { color: var(--dim); font-size: .85rem; }
ul { margin: .3rem 0 0; padding-left: 1rem; font-size: .9rem; }
@media (max-width: 40rem) {
  body { padding: 1rem; }
  thead { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  tr { display: block; padding: .5rem 0; border-bottom: 1px solid var(--line); }
  td, tbody th { display: block; padding: .1rem 0; border: 0; }
  td[data-head]:not(:empty)::before { content: attr(data-head) ": "; color: var(--dim); }
}
@media print {
  :root { --ink: #000; --dim: #444; --line: #999; --page: #fff; }
  body { max-width: none; padding: 0; font-size: 10pt; }
  tr, li { break-inside: avoid; }
  h2, h3 { break-after: avoid; }
}
)";

std::string escaped(const std::string& text) {
    std::string safe;
    for (const char c : text) {
        switch (c) {
            case '&':
                safe += "&amp;";
                break;
            case '<':
                safe += "&lt;";
                break;
            case '>':
                safe += "&gt;";
                break;
            case '"':
                safe += "&quot;";
                break;
            default:
                // Control characters are none of HTML's.
                if (static_cast<unsigned char>(c) >= ' ' || c == '\n' || c == '\t') safe += c;
        }
    }
    return safe;
}

std::string tagged(const char* tag, const std::string& text) {
    return std::string("<") + tag + ">" + escaped(text) + "</" + tag + ">\n";
}

std::string boxHtml(const Box& box) {
    std::string html = "<li><strong>" + escaped(box.name) + "</strong>";
    if (!box.message.empty()) html += " <span>" + escaped(box.message) + "</span>";
    if (box.does.empty()) return html + "<br><span>free</span></li>\n";
    html += "<ul>";
    for (const std::string& line : box.does) html += "<li>" + escaped(line) + "</li>";
    return html + "</ul></li>\n";
}

std::string tableHtml(const PaperSection& section) {
    std::string html = "<table>\n<caption>" + escaped(section.title) + "</caption>\n<thead><tr>";
    for (const std::string& head : section.table.heads)
        html += "<th scope=\"col\">" + escaped(head) + "</th>";
    html += "</tr></thead>\n<tbody>\n";
    for (const auto& row : section.table.rows) {
        html += "<tr>";
        for (std::size_t i = 0; i < row.size(); ++i) {
            html += i == 0 ? "<th scope=\"row\">" + escaped(row[i]) + "</th>"
                           : "<td data-head=\"" + escaped(section.table.heads[i]) + "\">" + escaped(row[i]) +
                                 "</td>";
        }
        html += "</tr>\n";
    }
    return html + "</tbody>\n</table>\n";
}

}  // namespace

std::string printHtml(const Paper& paper) {
    const std::string title = paper.title.empty() ? "Ensemble" : paper.title;
    std::string html =
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
        "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n";
    html += tagged("title", title) + "<style>" + style + "</style>\n</head>\n<body>\n<header>\n";
    html += tagged("h1", title) + tagged("p", paper.subtitle) + "</header>\n<main>\n";
    for (const Chapter& chapter : paper.chapters) {
        html += "<section>\n" + tagged("h2", chapter.title);
        for (const PaperSection& section : chapter.sections) {
            html += tagged("h3", section.title.empty() ? "Without a name" : section.title);
            if (!section.caption.empty()) html += tagged("p", section.caption);
            if (!section.boxes.empty()) {
                html += "<ol>\n";
                for (const Box& box : section.boxes) html += boxHtml(box);
                html += "</ol>\n";
            }
            if (!section.table.heads.empty()) html += tableHtml(section);
        }
        html += "</section>\n";
    }
    return html + "</main>\n</body>\n</html>\n";
}

}  // namespace mellow::sheet
