#pragma once
#include <QObject>

namespace cobbleway {

/// Gives fields and lists the keys that they need, though the window has shortcuts on them. Install it on the
/// application.
///
/// - The space bar plays. Where it already means something (a button, a box or a row to tick, a list that
///   opens, a text) it keeps that meaning; and buttons take the focus by Tab alone, so that after a click
///   with the mouse the space bar plays again.
/// - Lists that open do so by Alt+Down and F4; arrows with Alt or Ctrl do nothing to the song from within a
///   field.
/// - A row of a list that opens can be chosen by AT-SPI without opening it.
/// - Undo and redo are the song's, unless something was typed in the field and not taken yet.
class FieldKeys : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace cobbleway
