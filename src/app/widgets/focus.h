/// The one way by which focus moves and rows are exchanged: what is being typed is taken first, and no widget
/// goes while it is being given the focus.
#pragma once
#include <QWidget>

class QScrollArea;

namespace cobbleway {

/// Takes what is being typed in the field that has the focus, if one of the same window as `in` does: its
/// edit is made now. The field keeps the focus, if it is still there.
void takeTyping(const QWidget* in);

/// Takes what is being typed, then gives the focus to a widget, if it is still there.
void giveFocus(QWidget* to, Qt::FocusReason reason);

/// Takes a widget out of sight now and frees it when nobody is inside it any more: an edit that a field makes
/// as the focus leaves it may exchange the very rows that are to get the focus. Null is nothing.
void letGo(QWidget* widget);
/// The same with what a scroll area shows, in whose place something else comes.
void exchangeContent(QScrollArea* area, QWidget* content);

} // namespace cobbleway
