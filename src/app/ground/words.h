// Words between the core and the screen: its texts as Qt's, lists as a line, and the plurals of English.
#pragma once

#include <QString>
#include <string>
#include <string_view>
#include <vector>

namespace mellow::app {

QString toQt(std::string_view text);
/// A name as it can stand in a line of a window: one that is long loses its middle, and letters that cannot
/// be seen are told by their numbers. What is typed into is given the name itself.
QString nameToShow(std::string_view name);
/// A list of names as one line, separated by commas, and back.
QString joined(const std::vector<std::string>& names);
std::vector<std::string> parted(const QString& text);
/// A word of the document as people read it: "rampUp" becomes "Ramp up".
QString choiceLabel(std::string_view word);

/// Lets "%n chain(s)" be read as "1 chain" and "3 chains" from now on, where no other translation says how it
/// is read. Costs nothing when called again.
void speakEnglish();

}  // namespace mellow::app
