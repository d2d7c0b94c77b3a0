// Tab goes as one reads: what stands higher before what stands lower, and in a row from left to right.
//
// Qt goes in the order in which widgets were made, and much here is made anew whenever something else is
// selected. So the order is found when it is asked for. Where the place on screen says something else than
// the sense, a widget says behind which other it is read.
#pragma once

#include <QWidget>

namespace mellow::app {

/// A widget, and all in it, is read behind another and what is in that, wherever it stands.
void readBehind(QWidget& widget, QWidget& other);

/// Gives the next widget of a window that takes the focus by Tab, or the one before, the focus. False where
/// there is none.
bool focusByReading(QWidget& window, bool next);

}  // namespace mellow::app
