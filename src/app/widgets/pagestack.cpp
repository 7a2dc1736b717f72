#include "app/widgets/pagestack.h"

#include <QApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QEvent>
#include <QLayout>
#include <QMessageBox>
#include <QScreen>
#include <QVBoxLayout>

namespace cobbleway {

PageStack::PageStack(QWidget* parent) : QWidget(parent), m_pages(new QStackedWidget(this)) {
    QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Preferred);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
    connect(m_pages, &QStackedWidget::currentChanged, this, [this] { updateGeometry(); });
}

QSize PageStack::sizeHint() const { return currentWidget() ? currentWidget()->sizeHint() : QSize(); }
QSize PageStack::minimumSizeHint() const {
    return currentWidget() ? currentWidget()->minimumSizeHint() : QSize();
}

int PageStack::heightForWidth(int width) const {
    const QLayout* layout = currentWidget() ? currentWidget()->layout() : nullptr;
    return layout && layout->hasHeightForWidth() ? layout->minimumHeightForWidth(width)
                                                 : minimumSizeHint().height();
}

bool PageStack::event(QEvent* event) {
    if (event->type() == QEvent::LayoutRequest) updateGeometry();
    return QWidget::event(event);
}

void PageStack::resizeEvent(QResizeEvent*) { m_pages->setGeometry(rect()); }

FocusScroll::FocusScroll(QWidget* content, QWidget* parent) : QScrollArea(parent) {
    setWidgetResizable(true);
    setFocusPolicy(Qt::NoFocus); // what is in it has the keys
    setFrameShape(QFrame::NoFrame);
    setWidget(content);
    connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, QWidget* now) {
        if (now && isVisible() && widget() && widget()->isAncestorOf(now)) ensureWidgetVisible(now, 8, 8);
    });
}

namespace {

/// Puts what is in a dialog into a scrolled area; a row of buttons at its end stays below it.
void scrollContent(QDialog* dialog) {
    auto* inner = new QWidget;
    QLayout* content = dialog->layout();
    QWidget* buttons = nullptr;
    if (QLayoutItem* last = content->itemAt(content->count() - 1))
        if (auto* box = qobject_cast<QDialogButtonBox*>(last->widget())) {
            content->removeWidget(box);
            buttons = box;
        }
    inner->setLayout(content);
    auto* column = new QVBoxLayout(dialog);
    auto* scroll = new FocusScroll(inner);
    column->addWidget(scroll, 1);
    scroll->show(); // the dialog has shown its children already
    if (buttons) column->addWidget(buttons);
}

} // namespace

bool OnScreen::eventFilter(QObject* watched, QEvent* event) {
    auto* dialog = event->type() == QEvent::Show ? qobject_cast<QDialog*>(watched) : nullptr;
    if (!dialog || !dialog->layout() || !dialog->screen()) return QObject::eventFilter(watched, event);
    constexpr int title = 32, border = 4;
    const QWidget* over = dialog->parentWidget() ? dialog->parentWidget()->window() : nullptr;
    const QRect room = dialog->screen()->availableGeometry().adjusted(border, title, -border, -border);
    const QSize least = dialog->minimumSizeHint().expandedTo(dialog->minimumSize());
    const bool scrolls = least.width() > room.width() || least.height() > room.height();
    if (scrolls && !qobject_cast<QMessageBox*>(dialog)) {
        dialog->setMinimumSize(0, 0);
        scrollContent(dialog);
    }
    dialog->resize(dialog->size().boundedTo(room.size()));
    if (!over) return QObject::eventFilter(watched, event);
    QRect place(QPoint(), dialog->size());
    place.moveCenter(over->geometry().center());
    place.moveLeft(
        std::clamp(place.left(), room.left(), std::max(room.left(), room.right() - place.width())));
    place.moveTop(std::clamp(place.top(), room.top(), std::max(room.top(), room.bottom() - place.height())));
    dialog->move(place.topLeft());
    return QObject::eventFilter(watched, event);
}

} // namespace cobbleway
