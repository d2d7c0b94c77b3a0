// Which paper printers have where the person is.
#pragma once

#include <QLocale>
#include <QPageSize>

namespace mellow::app {

inline QPageSize::PageSizeId usualPaper() {
    return QLocale().measurementSystem() == QLocale::ImperialUSSystem ? QPageSize::Letter : QPageSize::A4;
}

}  // namespace mellow::app
