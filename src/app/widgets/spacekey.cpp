#include "app/widgets/spacekey.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QKeyEvent>

namespace cobbleway {
namespace {

bool spaceMeansSomething(const QObject* object) {
    if (qobject_cast<const QAbstractButton*>(object)) return true;
    const auto* view = qobject_cast<const QAbstractItemView*>(object);
    if (!view && object->parent())
        view = qobject_cast<const QAbstractItemView*>(object->parent()); // its viewport
    return view && view->currentIndex().isValid() && (view->currentIndex().flags() & Qt::ItemIsUserCheckable);
}

} // namespace

bool SpaceKey::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Space && key->modifiers() == Qt::NoModifier &&
            spaceMeansSomething(watched)) {
            event->accept();
            return true;
        }
    } else if (event->type() == QEvent::Polish) {
        auto* button = qobject_cast<QAbstractButton*>(watched);
        if (button && button->focusPolicy() == Qt::StrongFocus) button->setFocusPolicy(Qt::TabFocus);
    }
    return QObject::eventFilter(watched, event);
}

} // namespace cobbleway
