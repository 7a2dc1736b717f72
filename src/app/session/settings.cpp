#include "app/session/settings.h"

#include <QSettings>
#include <QStandardPaths>
#include <algorithm>

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
int soundDelay() { return std::clamp(value("soundDelay", 0).toInt(), 0, 2); }
void setSoundDelay(int delay) { setValue("soundDelay", delay); }
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
Clicking clicking() {
    Clicking c;
    c.on = value("click/on", false).toBool();
    c.shape.sound = static_cast<ClickSound>(std::clamp(value("click/sound", 0).toInt(), 0, 2));
    c.shape.levelDb = std::clamp(value("click/level", 0.0).toDouble(), -24.0, 6.0);
    c.shape.parts = std::clamp(value("click/parts", 1).toInt(), 1, 4);
    c.shape.accent = value("click/accent", true).toBool();
    c.countIn = std::clamp(value("click/countIn", 0).toInt(), 0, 8);
    return c;
}
void setClicking(const Clicking& c) {
    setValue("click/on", c.on);
    setValue("click/sound", static_cast<int>(c.shape.sound));
    setValue("click/level", c.shape.levelDb);
    setValue("click/parts", c.shape.parts);
    setValue("click/accent", c.shape.accent);
    setValue("click/countIn", c.countIn);
}
bool tidiesOnOpening() { return value("tidiesOnOpening", true).toBool(); }
void setTidiesOnOpening(bool tidies) { setValue("tidiesOnOpening", tidies); }
bool evenLoudness() { return value("evenLoudness", true).toBool(); }
void setEvenLoudness(bool even) { setValue("evenLoudness", even); }
QMap<QString, QString> taughtMessages() {
    QMap<QString, QString> taught;
    const QVariantMap kept = value("taught").toMap();
    for (auto at = kept.begin(); at != kept.end(); ++at) taught[at.key()] = at.value().toString();
    return taught;
}
void setTaughtMessages(const QMap<QString, QString>& messages) {
    QVariantMap kept;
    for (auto at = messages.begin(); at != messages.end(); ++at) kept[at.key()] = at.value();
    setValue("taught", kept);
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
std::pair<QString, int> exportSound() {
    return {value("exportFormat", QStringLiteral("wav24")).toString(), value("exportRate", 48000).toInt()};
}
void setExportSound(const QString& format, int rate) {
    setValue("exportFormat", format);
    setValue("exportRate", rate);
}

} // namespace cobbleway::settings
