/// A sound server of a test's own, which plays into nothing (pulseaudio with a null sink).
#pragma once
#include "support/support.h"

#include <QProcess>
#include <QTemporaryDir>

namespace support {

/// Starts it in `folder`; false when this machine has none.
inline bool startSoundServer(QProcess& server, const QTemporaryDir& folder) {
    const QString socket = folder.filePath(QStringLiteral("native"));
    QFile::remove(socket);
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("XDG_RUNTIME_DIR"), folder.path());
    environment.insert(QStringLiteral("PULSE_RUNTIME_PATH"), folder.path());
    server.setProcessEnvironment(environment);
    server.setStandardErrorFile(QProcess::nullDevice());
    server.start(QStringLiteral("pulseaudio"),
                 {QStringLiteral("-n"), QStringLiteral("--daemonize=no"), QStringLiteral("--use-pid-file=no"),
                  QStringLiteral("--exit-idle-time=-1"), QStringLiteral("--realtime=no"),
                  QStringLiteral("--load=module-null-sink rate=48000"),
                  QStringLiteral("--load=module-native-protocol-unix auth-anonymous=1 socket=") + socket});
    return server.waitForStarted() && QTest::qWaitFor([&] { return QFile::exists(socket); }, scaled(10000));
}

/// What a program has in PULSE_SERVER to play there.
inline QString soundServerIn(const QTemporaryDir& folder) {
    return QStringLiteral("unix:") + folder.filePath(QStringLiteral("native"));
}

} // namespace support
