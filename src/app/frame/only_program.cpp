// A request is one line of JSON, the answer another; whoever sends anything else is not answered.
#include "app/frame/only_program.h"

#include <QCryptographicHash>
#include <QDir>
#include <QGuiApplication>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLocalSocket>
#include <QStandardPaths>

namespace mellow::app {

namespace {

constexpr int patience = 1000;  // ms
constexpr qint64 longestRequest = 1 << 20;
constexpr const char* taken = "taken\n";

QByteArray lineOf(const Request& request) {
    const QJsonObject object{{QStringLiteral("paths"), QJsonArray::fromStringList(request.paths)},
                             {QStringLiteral("demo"), request.demo},
                             {QStringLiteral("new"), request.begin},
                             {QStringLiteral("token"), request.token}};
    return QJsonDocument(object).toJson(QJsonDocument::Compact) + '\n';
}

std::optional<Request> requestOf(const QByteArray& line) {
    const QJsonDocument document = QJsonDocument::fromJson(line);
    if (!document.isObject()) return std::nullopt;
    const QJsonObject object = document.object();
    Request request;
    const QJsonArray paths = object[QStringLiteral("paths")].toArray();
    for (const auto path : paths) {
        if (QDir::isAbsolutePath(path.toString())) request.paths << path.toString();
    }
    request.demo = object[QStringLiteral("demo")].toBool();
    request.begin = object[QStringLiteral("new")].toBool();
    request.token = object[QStringLiteral("token")].toString();
    return request;
}

}  // namespace

QString OnlyProgram::meetingPlace() {
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::RuntimeLocation);
    if (folder.isEmpty()) return {};
    QByteArray whose = QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation).toUtf8();
    for (const char* screen : {"WAYLAND_DISPLAY", "DISPLAY"}) whose += '\n' + qgetenv(screen);
    whose += '\n' + QGuiApplication::platformName().toUtf8();
    const QByteArray sum = QCryptographicHash::hash(whose, QCryptographicHash::Sha256).toHex().left(16);
    return QDir(folder).filePath(QStringLiteral("mellow-lever-") + QString::fromLatin1(sum));
}

bool OnlyProgram::handOver(const Request& request) const {
    if (place_.isEmpty()) return false;
    QLocalSocket socket;
    socket.connectToServer(place_);
    if (!socket.waitForConnected(patience)) return false;
    socket.write(lineOf(request));
    return socket.waitForBytesWritten(patience) && socket.waitForReadyRead(patience) &&
           socket.readLine() == taken;
}

void OnlyProgram::beTheOne() {
    if (place_.isEmpty()) return;
    server_.setSocketOptions(QLocalServer::UserAccessOption);
    connect(&server_, &QLocalServer::newConnection, this, &OnlyProgram::hear);
    // What a program that was killed has left is in the way; one that is only slow keeps its window, and the
    // newest is asked from now on.
    QLocalServer::removeServer(place_);
    server_.listen(place_);
}

void OnlyProgram::hear() {
    while (QLocalSocket* socket = server_.nextPendingConnection()) {
        connect(socket, &QLocalSocket::disconnected, socket, &QObject::deleteLater);
        const auto read = [this, socket] {
            if (!socket->canReadLine()) {
                if (socket->bytesAvailable() > longestRequest) socket->abort();
                return;
            }
            const auto request = requestOf(socket->readLine());
            if (!request) return socket->abort();
            socket->write(taken);
            socket->flush();
            // Whatever is asked may take long, and ask the person; the other program is over by then.
            QMetaObject::invokeMethod(
                this, [this, request] { emit asked(*request); }, Qt::QueuedConnection);
        };
        connect(socket, &QLocalSocket::readyRead, this, read);
        read();
    }
}

}  // namespace mellow::app
