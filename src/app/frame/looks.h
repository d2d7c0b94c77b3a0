// Theme and size of fonts, as a person has chosen them.
#pragma once

#include <QWidget>

namespace mellow::app {

inline constexpr double plainFonts = 1.0;
inline constexpr double largeFonts = 1.25;

/// What was chosen last.
double fontScale();
/// name: of a theme. Kept in the settings, and seen at once; fonts take full effect at the next start.
void useTheme(QWidget& window, const QString& name, double scale);

}  // namespace mellow::app
