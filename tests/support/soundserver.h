/// A sound server of a test's own, which plays into nothing (pulseaudio with a null sink).
#pragma once
#include "support/support.h"

#include <QProcess>
#include <QTemporaryDir>

namespace support {

/// Starts it in `folder`, with devices of these names, or one without; false when this machine has none.
inline bool startSoundServer(QProcess& server, const QTemporaryDir& folder, const QStringList& devices = {}) {
    const QString socket = folder.filePath(QStringLiteral("native"));
    QFile::remove(socket);
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert(QStringLiteral("XDG_RUNTIME_DIR"), folder.path());
    environment.insert(QStringLiteral("PULSE_RUNTIME_PATH"), folder.path());
    server.setProcessEnvironment(environment);
    server.setStandardErrorFile(QProcess::nullDevice());
    QStringList words = {QStringLiteral("-n"), QStringLiteral("--daemonize=no"),
                         QStringLiteral("--use-pid-file=no"), QStringLiteral("--exit-idle-time=-1"),
                         QStringLiteral("--realtime=no")};
    for (int i = 0; i < std::max<qsizetype>(1, devices.size()); ++i)
        words << QStringLiteral("--load=module-null-sink rate=48000 sink_name=sink%1").arg(i) +
                     (devices.isEmpty()
                          ? QString()
                          : QStringLiteral(" sink_properties=device.description=%1").arg(devices[i]));
    words << QStringLiteral("--load=module-native-protocol-unix auth-anonymous=1 socket=") + socket;
    server.start(QStringLiteral("pulseaudio"), words);
    return server.waitForStarted() && QTest::qWaitFor([&] { return QFile::exists(socket); }, scaled(10000));
}

/// What a program has in PULSE_SERVER to play there.
inline QString soundServerIn(const QTemporaryDir& folder) {
    return QStringLiteral("unix:") + folder.filePath(QStringLiteral("native"));
}

} // namespace support
