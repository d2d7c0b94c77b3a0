// A program as a process: given words and what it reads, its exit status and what it wrote.
#pragma once

#include <QProcess>
#include <QStringList>

#include "support/ends.h"

namespace mellow::test {

/// As it wrote it; code −1: it did not end within a minute.
struct Raw {
    int code = -1;
    QByteArray out;
    QByteArray err;
};

/// The same as text.
struct Ended {
    int code = -1;
    QString out;
    QString err;
};

inline Raw runRaw(const QString& program, const QStringList& arguments, const QByteArray& input = {}) {
    QProcess process;
    process.start(program, arguments);
    process.write(input);
    process.closeWriteChannel();
    if (!ends(process, 60'000)) return {};
    return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
}

inline Ended run(const QString& program, const QStringList& arguments, const QByteArray& input = {}) {
    const Raw ended = runRaw(program, arguments, input);
    return {ended.code, QString::fromUtf8(ended.out), QString::fromUtf8(ended.err)};
}

/// mellow-lever-cli.
inline QString commandLine() {
    return QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli");
}

}  // namespace mellow::test
