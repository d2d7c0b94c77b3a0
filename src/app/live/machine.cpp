// Names of ports may hold anything, so a key is the name as a web address would have it.
#include "app/live/machine.h"

#include <QFileInfo>
#include <QUrl>

#include "app/ground/words.h"
#include "io/ports/osc_link.h"

namespace mellow::app {

namespace {

QString keyOf(const QString& port, const char* what) {
    return QStringLiteral("ports/") + QString::fromLatin1(QUrl::toPercentEncoding(port)) + QLatin1Char('/') +
           QLatin1String(what);
}

}  // namespace

Machine::Machine() : path_(QFileInfo(settings_.fileName()).absolutePath().toStdString() + "/machine.json") {
    writer_.setMaxThreadCount(1);
    if (QFileInfo::exists(toQt(path_.string()))) {
        if (const auto read = io::readMachineTable(path_)) {
            table_ = *read;
        } else {
            trouble_ = toQt(read.problem().sentence());
        }
    } else if (io::MachineTable before = fromSettings(); before != io::MachineTable{}) {
        change([&before](io::MachineTable& table) { table = before; });
    }
}

void Machine::change(const std::function<void(io::MachineTable&)>& how) {
    how(table_);
    writer_.start([path = path_, how] {
        auto table = io::readMachineTable(path);
        // What cannot be read is kept beside the new one.
        std::error_code error;
        if (!table) std::filesystem::rename(path, path.string() + ".unread", error);
        io::MachineTable now = table ? *table : io::MachineTable{};
        how(now);
        if (!table || now != *table) (void)io::writeMachineTable(path, now);
    });
}

io::MachineTable Machine::fromSettings() const {
    io::MachineTable table;
    for (const QString& key : settings_.allKeys()) {
        const QStringList parts = key.split(QLatin1Char('/'));
        if (parts.size() != 3 || parts[0] != QLatin1String("ports")) continue;
        const std::string port = QUrl::fromPercentEncoding(parts[1].toLatin1()).toStdString();
        const uint word = settings_.value(key).toUInt();
        if (parts[2] == QLatin1String("heard")) table.setFilter(port, io::PortFilter::unpacked(word));
        if (parts[2] == QLatin1String("bytesASecond")) table.setRate(port, static_cast<int>(word));
    }
    // Three words each: "in" or "out", and the system where it is not JACK; ours; theirs.
    const QStringList words = settings_.value(QStringLiteral("wires")).toStringList();
    for (qsizetype i = 0; i + 2 < words.size(); i += 3) {
        const QStringList way = words[i].split(QLatin1Char(' '));
        io::Wire wire{words[i + 1].toStdString(), words[i + 2].toStdString(), way[0] == QLatin1String("in")};
        if (way.size() > 1) wire.by = way[1].toStdString();
        table.wires.push_back(std::move(wire));
    }
    return table;
}

QString Machine::network(const QString& port) const {
    return settings_.value(keyOf(port, "network"), toQt(io::thisMachine)).toString();
}

void Machine::setNetwork(const QString& port, const QString& address) {
    if (address == toQt(io::thisMachine)) {
        settings_.remove(keyOf(port, "network"));
    } else {
        settings_.setValue(keyOf(port, "network"), address);
    }
}

namespace {

QString listening() {
    return QStringLiteral("documentsThatListen");
}

QString pairOf(const QString& document, const QString& port) {
    const QString canonical = QFileInfo(document).canonicalFilePath();
    return port + QLatin1Char(' ') +
           (canonical.isEmpty() ? QFileInfo(document).absoluteFilePath() : canonical);
}

}  // namespace

bool Machine::mayListen(const QString& document, const QString& port) const {
    return !document.isEmpty() &&
           settings_.value(listening()).toStringList().contains(pairOf(document, port));
}

void Machine::letListen(const QString& document, const QString& port) {
    constexpr qsizetype most = 200;
    if (document.isEmpty() || mayListen(document, port)) return;
    QStringList all = settings_.value(listening()).toStringList();
    all << pairOf(document, port);
    if (all.size() > most) all.removeFirst();
    settings_.setValue(listening(), all);
}

}  // namespace mellow::app
