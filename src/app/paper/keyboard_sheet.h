// All keys of the program as a sheet for the wall: made from the menus as they are, so that it cannot say
// otherwise than they do.
#pragma once

#include <QByteArray>
#include <QMenuBar>
#include <QPageSize>
#include <QPagedPaintDevice>
#include <vector>

namespace mellow::app {

struct KeyLine {
    QString keys;
    QString what;  ///< in the words of the menu
    QString tip;   ///< in a sentence
};

struct KeyGroup {
    QString title;
    std::vector<KeyLine> lines;
};

/// Every entry of the menus that has keys, and the keys that are held; whatever page is shown.
std::vector<KeyGroup> keyGroups(const QMenuBar& menus);

/// Paints the sheet in two columns, on as many pages as it needs. False: the device cannot be written.
bool paintKeyboardSheet(QPagedPaintDevice& device, const std::vector<KeyGroup>& groups);
/// The same as a PDF.
QByteArray keyboardSheetPdf(const std::vector<KeyGroup>& groups, QPageSize::PageSizeId size);

}  // namespace mellow::app
