#pragma once
#include "app/session/uses.h"

#include <QString>
#include <QStringList>

class QWidget;

namespace cobbleway {

/// Whether a file is a soundfont by its ending.
bool isFontFile(const QString& path);

/// Asks what is to become of soundfonts that a person dropped, opened or named: used first for the song or
/// for all songs, or only kept in the list; and does it.
void askHowToUse(QWidget* parent, Uses<uses::Set, uses::Sounds> session, const QStringList& fonts);

} // namespace cobbleway
