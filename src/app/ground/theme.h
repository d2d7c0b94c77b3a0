// The two themes and everything that takes its look from them.
//
// Colours, sizes and fonts live in this one place. Widgets ask theme() while they paint; the style sheet for
// standard widgets is made from the same tokens. A test computes the contrast of every text pair.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>

namespace mellow::app {

struct Theme {
    QString name;
    QColor ground, panel, raised;  ///< three depths of surface
    QColor line;                   ///< hairlines
    QColor ink, dim;               ///< text
    QColor honey;                  ///< what the hands play; round
    QColor mint;                   ///< what is sent; pointed
    QColor clay;                   ///< trouble
    QColor sky;                    ///< focus, selection
};

const Theme& duskTheme();
const Theme& linenTheme();

/// The theme in use.
const Theme& theme();
/// Puts a theme, the fonts and the style sheet on the application. scale: of the fonts, 1 for 13 px body
/// text.
void applyTheme(QApplication& application, const Theme& chosen, double scale = 1.0);

/// Fonts in the sizes that pages use, already scaled.
QFont bodyFont();
QFont titleFont();
QFont captionFont();
QFont numberFont();

/// A length that grows with the fonts, in pixels.
int scaled(int pixels);

/// WCAG 2 contrast of two opaque colours, 1 to 21.
double contrast(const QColor& one, const QColor& other);

/// A colour between two, for surfaces that are half lit. share: 0 gives the first.
QColor blend(const QColor& from, const QColor& to, double share);

}  // namespace mellow::app
