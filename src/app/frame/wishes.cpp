#include "app/frame/wishes.h"

#include <QCommandLineParser>
#include <QCoreApplication>

namespace mellow::app {

namespace {

QString say(const char* text) {
    return QCoreApplication::translate("Wishes", text);
}

QCommandLineOption option(const char* name, const char* description, const char* value = nullptr) {
    QCommandLineOption made(QString::fromLatin1(name), say(description));
    if (value != nullptr) made.setValueName(QString::fromLatin1(value));
    return made;
}

}  // namespace

QList<QCommandLineOption> windowOptions() {
    return {option("demo", "Open the demo ensemble."),
            option("new", "Begin an empty ensemble, in the window that is open if there is one."),
            option("another", "Open a window of its own, though one is open."),
            option("play", "Play the take at once."),
            option("hands", "Take a MIDI file in as a take.", "file"),
            option("no-sound", "Do not look for a sound card."),
            option("soundfont", "Soundfont of the practice rack.", "file"),
            option("report-start", "Print how long the start took.")};
}

QString windowSummary() {
    return say("Turns what hands do into what instruments want.");
}

std::pair<QString, QString> windowFiles() {
    return {QStringLiteral("file"), say("A .lever document to open, or a .lever-part to use.")};
}

Wishes wishesOf(const QStringList& words) {
    QCommandLineParser parser;
    parser.setApplicationDescription(windowSummary());
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addOptions(windowOptions());
    const auto [name, description] = windowFiles();
    parser.addPositionalArgument(name, description, QStringLiteral("[%1…]").arg(name));
    parser.process(words);
    const auto is = [&parser](const char* option) { return parser.isSet(QLatin1String(option)); };
    return {is("demo"),
            is("new"),
            is("another"),
            is("play"),
            !is("no-sound"),
            is("report-start"),
            parser.value(QStringLiteral("hands")),
            parser.value(QStringLiteral("soundfont")),
            parser.positionalArguments()};
}

}  // namespace mellow::app
