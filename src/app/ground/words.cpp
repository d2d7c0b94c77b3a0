// Qt leaves the choice between singular and plural to a translation, and has none for the language in which
// texts are written. English needs one rule, so it is written here instead of a file: "(s)" and "(es)" go,
// or lose their brackets.
#include "app/ground/words.h"

#include <QCoreApplication>
#include <QStringList>
#include <QTranslator>

#include "core/text/printable.h"

namespace mellow::app {

namespace {

class EnglishPlurals : public QTranslator {
 public:
    using QTranslator::QTranslator;

    [[nodiscard]] bool isEmpty() const override { return false; }
    [[nodiscard]] QString translate(const char*, const char* text, const char*, int count) const override {
        if (count < 0) return {};
        QString words = QString::fromUtf8(text);
        for (const char* ending : {"s", "es"}) {
            const QString many = QLatin1String(ending);
            words.replace(QStringLiteral("(%1)").arg(many), count == 1 ? QString() : many);
        }
        return words;
    }
};

}  // namespace

QString toQt(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<int>(text.size()));
}

QString nameToShow(std::string_view name) {
    constexpr std::size_t longest = 80;
    return toQt(text::printable(name, longest));
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
