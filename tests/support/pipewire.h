// PipeWire for real, in the folder that XDG_RUNTIME_DIR names, and somewhere for its sound to go.
#pragma once

#include <sys/prctl.h>

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QProcess>
#include <QtTest/QtTest>
#include <csignal>

#include "support/ends.h"

namespace mellow::test {

/// A process that dies with this one.
inline void startWithUs(QProcess& process, const QString& program, const QStringList& arguments) {
    process.setChildProcessModifier([] { ::prctl(PR_SET_PDEATHSIG, SIGKILL); });
    process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    process.start(program, arguments);
    QVERIFY2(process.waitForStarted(), qPrintable(program));
}

/// PipeWire with its session manager.
struct PipeWireServer {
    QProcess bus, pipewire, manager;
    PipeWireServer() {
        // Its manager is over at once where there is nothing to connect to, as behind a socket that one which
        // was killed has left.
        const QString socket = qEnvironmentVariable("XDG_RUNTIME_DIR") + QStringLiteral("/pipewire-0");
        QFile::remove(socket);
        startWithUs(pipewire, QStringLiteral("pipewire"), {});
        QVERIFY(QTest::qWaitFor([&socket] { return QFile::exists(socket); }, 20'000));
        startWithUs(
            bus, QStringLiteral("dbus-daemon"),
            {QStringLiteral("--session"), QStringLiteral("--nofork"), QStringLiteral("--print-address")});
        QVERIFY(bus.waitForReadyRead(20'000));
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("DBUS_SESSION_BUS_ADDRESS"),
                           QString::fromUtf8(bus.readLine()).trimmed());
        manager.setProcessEnvironment(environment);
        startWithUs(manager, QStringLiteral("wireplumber"), {});
    }
    ~PipeWireServer() { end(); }
    void end() {
        for (QProcess* each : {&manager, &pipewire, &bus}) {
            each->kill();
            ends(*each, 5000);
        }
    }
};

/// A machine without a sound card has nowhere for sound to go; this is somewhere.
inline bool makePlaceForSound() {
    QProcess maker;
    maker.start(
        QStringLiteral("pw-cli"),
        {QStringLiteral("create-node"), QStringLiteral("adapter"),
         QStringLiteral("{ factory.name=support.null-audio-sink node.name=hall media.class=Audio/Sink "
                        "object.linger=true audio.position=[FL FR] }")});
    return ends(maker, 10'000) && maker.exitCode() == 0;
}

inline bool takePlaceForSoundAway() {
    QProcess dump;
    dump.start(QStringLiteral("pw-dump"), QStringList());
    if (!ends(dump, 10'000)) return false;
    for (const QJsonValue each : QJsonDocument::fromJson(dump.readAllStandardOutput()).array()) {
        if (each[QStringLiteral("info")][QStringLiteral("props")][QStringLiteral("node.name")] !=
            QStringLiteral("hall"))
            continue;
        const QString id = QString::number(each[QStringLiteral("id")].toInt());
        return QProcess::execute(QStringLiteral("pw-cli"), {QStringLiteral("destroy"), id}) == 0;
    }
    return false;
}

}  // namespace mellow::test
