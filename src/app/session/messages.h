#pragma once
#include <QObject>

namespace cobbleway {

/// What there is to tell the person, from wherever it comes.
class Messages : public QObject {
    Q_OBJECT
  Q_SIGNALS:
    void problem(const QString& title, const QString& text); ///< shown in a box
    /// A line that is shown quietly until it is put away, or the same `subject` has another; empty: it is
    /// over. `action`: id of what it offers to do, or empty.
    void noted(const QString& subject, const QString& text, const QString& action = {});
    void announced(const QString& text); ///< said by a screen reader
};

} // namespace cobbleway
