#pragma once
#include <QObject>

namespace cobbleway {

/// Makes the space bar both play and press what has the focus.
///
/// The space bar is the shortcut that plays. Where it already means something (a button, a box to tick, a row
/// to tick, a text) it keeps that meaning; and buttons take the focus by Tab alone, so that after a click
/// with the mouse the space bar plays again. Install it on the application.
class SpaceKey : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace cobbleway
