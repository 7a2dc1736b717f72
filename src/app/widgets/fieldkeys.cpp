#include "app/widgets/fieldkeys.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractSpinBox>
#include <QComboBox>
#include <QItemSelectionModel>
#include <QKeyEvent>
#include <QLineEdit>

namespace cobbleway {
namespace {

bool spaceMeansSomething(const QObject* object) {
    if (qobject_cast<const QAbstractButton*>(object) || qobject_cast<const QComboBox*>(object)) return true;
    const auto* view = qobject_cast<const QAbstractItemView*>(object);
    if (!view && object->parent())
        view = qobject_cast<const QAbstractItemView*>(object->parent()); // its viewport
    return view && view->currentIndex().isValid() && (view->currentIndex().flags() & Qt::ItemIsUserCheckable);
}

/// The field that an object is, or is the line of; null for others.
const QWidget* fieldOf(const QObject* object) {
    const QObject* const around = object ? object->parent() : nullptr;
    for (const QObject* at : {object, around})
        if (qobject_cast<const QAbstractSpinBox*>(at) || qobject_cast<const QComboBox*>(at) ||
            qobject_cast<const QLineEdit*>(at))
            return qobject_cast<const QWidget*>(at);
    return nullptr;
}

/// Whether a text was typed that is not taken yet, and so is the field's own to undo.
bool isBeingTyped(const QObject* object) {
    const auto* line = qobject_cast<const QLineEdit*>(object);
    if (!line) line = object->findChild<const QLineEdit*>();
    return line && line->isModified();
}

bool isArrow(int key) { return key == Qt::Key_Up || key == Qt::Key_Down; }

/// A row of a list that drops down can be selected by AT-SPI while the list is not open (Qt 6.4 then only
/// marks it): that is choosing it.
void chooseWhatIsSelected(QComboBox* combo) {
    QObject::connect(combo->view()->selectionModel(), &QItemSelectionModel::selectionChanged, combo,
                     [combo](const QItemSelection& selected) {
                         if (combo->view()->isVisible() || selected.isEmpty()) return;
                         const int row = selected.first().top();
                         if (row == combo->currentIndex()) return;
                         combo->setCurrentIndex(row);
                         Q_EMIT combo->activated(row);
                     });
}

} // namespace

bool FieldKeys::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride) {
        auto* key = static_cast<QKeyEvent*>(event);
        const auto with = key->modifiers() & ~Qt::KeypadModifier;
        const QWidget* field = fieldOf(watched);
        const bool undoes = key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo);
        if (field && undoes && !isBeingTyped(watched)) {
            event->ignore(); // so that the window's shortcut takes it
            return true;
        }
        const bool opens =
            qobject_cast<const QComboBox*>(field) && key->key() == Qt::Key_F4 && with == Qt::NoModifier;
        const bool moves =
            field && isArrow(key->key()) && (with == Qt::AltModifier || with == Qt::ControlModifier);
        const bool space =
            key->key() == Qt::Key_Space && with == Qt::NoModifier && spaceMeansSomething(watched);
        if (opens || moves || space) {
            event->accept();
            return true;
        }
    } else if (event->type() == QEvent::ChildPolished) {
        auto* combo = qobject_cast<QComboBox*>(watched);
        const QObject* child = static_cast<QChildEvent*>(event)->child();
        if (combo && !qobject_cast<const QLineEdit*>(child)) chooseWhatIsSelected(combo); // its list was made
    } else if (event->type() == QEvent::Polish) {
        auto* button = qobject_cast<QAbstractButton*>(watched);
        if (button && button->focusPolicy() == Qt::StrongFocus) button->setFocusPolicy(Qt::TabFocus);
    }
    return QObject::eventFilter(watched, event);
}

} // namespace cobbleway
