#include "app/widgets/focus.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QLineEdit>
#include <QPointer>
#include <QScrollArea>
#include <QTextEdit>

namespace cobbleway {
namespace {

bool isField(const QWidget* widget) {
    return qobject_cast<const QAbstractSpinBox*>(widget) || qobject_cast<const QLineEdit*>(widget) ||
           qobject_cast<const QTextEdit*>(widget);
}

/// Where widgets are until they are freed: in no window.
QWidget* parking() {
    static QPointer<QWidget> place;
    if (!place) place = new QWidget;
    return place;
}

} // namespace

void takeTyping(const QWidget* in) {
    const QPointer<QWidget> field = QApplication::focusWidget();
    if (!field || !isField(field) || field->window() != in->window()) return;
    field->clearFocus();
    if (field && field->isVisible() && !QApplication::focusWidget()) field->setFocus();
}

void giveFocus(QWidget* to, Qt::FocusReason reason) {
    const QPointer<QWidget> wanted = to;
    takeTyping(to);
    if (wanted) wanted->setFocus(reason);
}

void letGo(QWidget* widget) {
    if (!widget) return;
    widget->hide(); // before it has another parent: a window that hides takes the focus along
    widget->setParent(parking());
    widget->deleteLater();
}

void exchangeContent(QScrollArea* area, QWidget* content) {
    if (area->widget()) area->widget()->hide();
    letGo(area->takeWidget());
    area->setWidget(content);
}

} // namespace cobbleway
