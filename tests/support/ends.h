// A process is awaited that may have ended already: QProcess says of such a one that it does not end.
#pragma once

#include <QProcess>

namespace mellow::test {

/// True when a program that was started ends in time (ms), or has ended and been noticed already.
inline bool ends(QProcess& process, int within = 30'000) {
    if (process.state() != QProcess::NotRunning) return process.waitForFinished(within);
    return process.error() != QProcess::FailedToStart;
}

}  // namespace mellow::test
