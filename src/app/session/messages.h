#pragma once
#include <QObject>

namespace cobbleway {

/// What there is to tell the person, from wherever it comes.
class Messages : public QObject {
    Q_OBJECT
  Q_SIGNALS:
    void problem(const QString& title, const QString& text); ///< shown in a box
    void announced(const QString& text);                     ///< said by a screen reader
};

} // namespace cobbleway
