/// What is remembered between sessions, under the XDG configuration folder.
#pragma once
#include "sound/clicks.h"

#include <QByteArray>
#include <QMap>
#include <QString>
#include <QStringList>
#include <optional>

namespace cobbleway::settings {

QStringList recentFiles(); ///< newest first, at most 10
void addRecent(const QString& path);
QStringList fontOrder(); ///< ids of fonts that serve first; empty for the system's choice
void setFontOrder(const QStringList& ids);
QStringList favouriteSounds(); ///< as soundKey() of the shelf gives them, newest first
void setFavouriteSounds(const QStringList& keys);
QStringList recentSounds(); ///< the same, at most 24
void addRecentSound(const QString& key);
QString midiInput(); ///< id of a port; empty for none
void setMidiInput(const QString& id);
QStringList fontFolders();
void setFontFolders(const QStringList& folders);
QString soundOutput(); ///< see openOutput(); "auto" at first
void setSoundOutput(const QString& id);
int soundDelay(); ///< as SoundDelay; 0 at first
void setSoundDelay(int delay);
int themeChoice(); ///< as ThemeChoice
void setThemeChoice(int choice);
int textSize(); ///< percent, 100–200; 0 for the system's
void setTextSize(int percent);
/// The keys that a person gave an action, in portable form; empty for none at all; nullopt: as it came.
std::optional<QString> changedKeys(const QString& action);
void setChangedKeys(const QString& action, const std::optional<QString>& keys);
/// The click while playing: whether it is on, how it sounds, how many bars are counted before.
struct Clicking {
    bool on = false;
    ClickShape shape;
    int countIn = 0; ///< bars, 0–8
    bool operator==(const Clicking&) const = default;
};
Clicking clicking();
void setClicking(const Clicking& clicking);
bool tidiesOnOpening(); ///< see edits::tidy(); at first it does
void setTidiesOnOpening(bool tidies);
bool evenLoudness(); ///< whether songs that nobody has levelled are heard equally loud; at first they are
void setEvenLoudness(bool even);
/// The message of a pedal or pad that does what an action does, as its kind and number in hexadecimal;
/// actions by id.
QMap<QString, QString> taughtMessages();
void setTaughtMessages(const QMap<QString, QString>& messages);
QByteArray windowGeometry();
void setWindowGeometry(const QByteArray& geometry);
QString exportFolder();
void setExportFolder(const QString& folder);
/// The format (formatId()) and rate in Hz of sound files written last.
std::pair<QString, int> exportSound();
void setExportSound(const QString& format, int rate);

} // namespace cobbleway::settings
