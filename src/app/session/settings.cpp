#include "app/session/settings.h"

#include <QSettings>
#include <QStandardPaths>

namespace cobbleway::settings {
namespace {

QVariant value(const char* key, const QVariant& otherwise = {}) {
    return QSettings().value(QLatin1String(key), otherwise);
}
void setValue(const char* key, const QVariant& v) { QSettings().setValue(QLatin1String(key), v); }

} // namespace

QStringList recentFiles() { return value("recentFiles").toStringList(); }
void addRecent(const QString& path) {
    QStringList list = recentFiles();
    list.removeAll(path);
    list.prepend(path);
    setValue("recentFiles", list.mid(0, 10));
}
QStringList fontOrder() {
    const QString single = value("defaultFont").toString(); // as it was kept before there was an order
    return value("fontOrder", single.isEmpty() ? QStringList() : QStringList{single}).toStringList();
}
void setFontOrder(const QStringList& ids) { setValue("fontOrder", ids); }
QStringList favouriteSounds() { return value("favouriteSounds").toStringList(); }
void setFavouriteSounds(const QStringList& keys) { setValue("favouriteSounds", keys); }
QStringList recentSounds() { return value("recentSounds").toStringList(); }
void addRecentSound(const QString& key) {
    QStringList list = recentSounds();
    list.removeAll(key);
    list.prepend(key);
    setValue("recentSounds", list.mid(0, 24));
}
QString midiInput() { return value("midiInput").toString(); }
void setMidiInput(const QString& id) { setValue("midiInput", id); }
QStringList fontFolders() { return value("fontFolders").toStringList(); }
void setFontFolders(const QStringList& folders) { setValue("fontFolders", folders); }
QString soundOutput() { return value("soundOutput", QStringLiteral("auto")).toString(); }
void setSoundOutput(const QString& id) { setValue("soundOutput", id); }
int themeChoice() { return value("theme", 0).toInt(); }
void setThemeChoice(int choice) { setValue("theme", choice); }
int textSize() { return value("textSize", 0).toInt(); }
void setTextSize(int percent) { setValue("textSize", percent); }
std::optional<QString> changedKeys(const QString& action) {
    const QVariant keys = QSettings().value(QStringLiteral("keys/") + action);
    return keys.isValid() ? std::optional(keys.toString()) : std::nullopt;
}
void setChangedKeys(const QString& action, const std::optional<QString>& keys) {
    if (keys)
        QSettings().setValue(QStringLiteral("keys/") + action, *keys);
    else
        QSettings().remove(QStringLiteral("keys/") + action);
}
QByteArray windowGeometry() { return value("geometry").toByteArray(); }
void setWindowGeometry(const QByteArray& geometry) { setValue("geometry", geometry); }
QString exportFolder() {
    const QString music = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
    return value("exportFolder",
                 music.isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::HomeLocation) : music)
        .toString();
}
void setExportFolder(const QString& folder) { setValue("exportFolder", folder); }

} // namespace cobbleway::settings
