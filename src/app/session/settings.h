/// What is remembered between sessions, under the XDG configuration folder.
#pragma once
#include <QByteArray>
#include <QString>
#include <QStringList>

namespace cobbleway::settings {

QStringList recentFiles(); ///< newest first, at most 10
void addRecent(const QString& path);
QString defaultFont(); ///< id of a font; empty for the system's choice
void setDefaultFont(const QString& id);
QStringList fontFolders();
void setFontFolders(const QStringList& folders);
QString soundOutput(); ///< see openOutput(); "auto" at first
void setSoundOutput(const QString& id);
int themeChoice(); ///< as ThemeChoice
void setThemeChoice(int choice);
QByteArray windowGeometry();
void setWindowGeometry(const QByteArray& geometry);
QString exportFolder();
void setExportFolder(const QString& folder);

} // namespace cobbleway::settings
