// Qt leaves the choice between singular and plural to a translation, and has none for the language in which
// texts are written. English needs one rule, so it is written here instead of a file: "(s)" goes, or becomes
// "s".
#include "app/words.h"

#include <QCoreApplication>
#include <QStringList>
#include <QTranslator>

namespace mellow::app {

namespace {

class EnglishPlurals : public QTranslator {
 public:
    using QTranslator::QTranslator;

    [[nodiscard]] bool isEmpty() const override { return false; }
    [[nodiscard]] QString translate(const char*, const char* text, const char*, int count) const override {
        if (count < 0) return {};
        return QString::fromUtf8(text).replace(QStringLiteral("(s)"),
                                               count == 1 ? QString() : QStringLiteral("s"));
    }
};

}  // namespace

QString toQt(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<int>(text.size()));
}

QString joined(const std::vector<std::string>& names) {
    QStringList list;
    for (const std::string& name : names) list << QString::fromStdString(name);
    return list.join(QStringLiteral(", "));
}

std::vector<std::string> parted(const QString& text) {
    std::vector<std::string> names;
    for (const QString& name : text.split(QLatin1Char(','), Qt::SkipEmptyParts))
        names.push_back(name.trimmed().toStdString());
    return names;
}

QString choiceLabel(std::string_view word) {
    // The document's words are one word each; people read several.
    QString label;
    for (const char c : word) {
        if (c >= 'A' && c <= 'Z') label += QLatin1Char(' ');
        label += QChar(QLatin1Char(c)).toLower();
    }
    if (!label.isEmpty()) label[0] = label[0].toUpper();
    return label;
}

void speakEnglish() {
    static EnglishPlurals* plurals = nullptr;
    if (plurals != nullptr) return;
    plurals = new EnglishPlurals(QCoreApplication::instance());
    QCoreApplication::installTranslator(plurals);
}

}  // namespace mellow::app
