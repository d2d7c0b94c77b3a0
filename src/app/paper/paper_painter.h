// The sheet on paper: pages of A4 or Letter, black and grey, for a wall.
//
// What is on them is a sheet::Paper; here it is laid out. Nothing is torn: a row of a table, a box of a
// diagram and a title with what follows it stand on one page, table heads and section titles are repeated on
// the next. Whatever is too long for a page by itself (a control that moves hundreds of targets) goes on in
// another box. It needs no window, and may be done on any thread.
#pragma once

#include <QFont>
#include <QPageSize>
#include <QPagedPaintDevice>
#include <functional>

#include "core/sheet/paper.h"

namespace mellow::app {

/// Is told how much is done, 0 to 1; false: leave it.
using PaperProgress = std::function<bool(double done)>;

/// Paints a paper on a device whose page size and margins are set. False when it was left, or the device
/// cannot be painted on.
bool paintPaper(QPagedPaintDevice& device, const sheet::Paper& paper, const PaperProgress& progress = {});

/// A PDF of it; empty when it was left.
QByteArray pdfOf(const sheet::Paper& paper, QPageSize::PageSizeId size, const PaperProgress& progress = {});

}  // namespace mellow::app
