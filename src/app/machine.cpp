// Names of ports may hold anything, so a key is the name as a web address would have it.
#include "app/machine.h"

#include <QFileInfo>
#include <QUrl>

#include "app/words.h"
#include "io/osc_link.h"

namespace mellow::app {

namespace {

QString keyOf(const QString& port, const char* what) {
    return QStringLiteral("ports/") + QString::fromLatin1(QUrl::toPercentEncoding(port)) + QLatin1Char('/') +
           QLatin1String(what);
}

}  // namespace

io::PortFilter Machine::filter(const QString& port) const {
    bool known = false;
    const uint word = settings_.value(keyOf(port, "heard")).toUInt(&known);
    return known ? io::PortFilter::unpacked(word) : io::PortFilter{};
}

void Machine::setFilter(const QString& port, const io::PortFilter& filter) {
    if (filter == io::PortFilter{}) {
        settings_.remove(keyOf(port, "heard"));
    } else {
        settings_.setValue(keyOf(port, "heard"), filter.packed());
    }
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

int Machine::rate(const QString& port) const {
    return settings_.value(keyOf(port, "bytesASecond")).toInt();
}

void Machine::setRate(const QString& port, int bytesASecond) {
    settings_.setValue(keyOf(port, "bytesASecond"), bytesASecond);
}

std::vector<io::Wire> Machine::wires() const {
    std::vector<io::Wire> wires;
    const QStringList words = settings_.value(QStringLiteral("wires")).toStringList();
    for (qsizetype i = 0; i + 2 < words.size(); i += 3) {
        // "in" or "out", and the system where it is not JACK.
        const QStringList way = words[i].split(QLatin1Char(' '));
        io::Wire wire{words[i + 1].toStdString(), words[i + 2].toStdString(), way[0] == QLatin1String("in")};
        if (way.size() > 1) wire.by = way[1].toStdString();
        wires.push_back(std::move(wire));
    }
    return wires;
}

void Machine::setWires(const std::vector<io::Wire>& wires) {
    QStringList words;
    for (const io::Wire& wire : wires) {
        const QString way = wire.input ? QStringLiteral("in") : QStringLiteral("out");
        const bool usual = wire.by == io::Wire{}.by;
        words << (usual ? way : way + QLatin1Char(' ') + toQt(wire.by)) << toQt(wire.ours)
              << toQt(wire.theirs);
    }
    settings_.setValue(QStringLiteral("wires"), words);
}

}  // namespace mellow::app
