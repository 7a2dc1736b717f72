#include "app/dialogs/forms.h"

#include "app/look/theme.h"

#include <QListView>
#include <QListWidget>
#include <QScreen>
#include <algorithm>
#include <utility>

namespace cobbleway {

namespace {

constexpr int highest = 640; // pixels; a longer list scrolls

} // namespace

Form::Form(const QString& title, QWidget* parent)
    : QDialog(parent), m_column(new QVBoxLayout(this)), m_heading(titleLabel(title)) {
    setWindowTitle(title);
    setAttribute(Qt::WA_DeleteOnClose);
    m_column->setContentsMargins(16, 14, 16, 14);
    m_column->setSpacing(10);
    m_heading->setFont(textFont(12, QFont::Bold));
    m_heading->setWordWrap(true);
    m_heading->setObjectName(QStringLiteral("heading"));
    m_column->addWidget(m_heading);
}

void Form::setHeading(const QString& task) { m_heading->setText(task); }

void Form::fit() {
    if (layout() != m_column) return; // it scrolls, since the screen is small
    ensurePolished();
    for (auto* view : findChildren<QAbstractItemView*>()) { // those that wrap take what width they get
        const auto* list = qobject_cast<QListView*>(view);
        if (!list || !list->wordWrap()) view->setSizeAdjustPolicy(QAbstractScrollArea::AdjustToContents);
    }
    const QWidget* outermost = parentWidget();
    while (outermost && outermost->parentWidget()) outermost = outermost->parentWidget();
    const QSize room = (outermost ? outermost->size() : screen()->availableSize()) * 0.92;
    const int width = std::min(std::max(m_width, m_column->sizeHint().width()), room.width());
    m_column->activate();
    const int height = m_column->hasHeightForWidth() ? m_column->totalHeightForWidth(width)
                                                     : m_column->totalSizeHint().height();
    const int below = isVisible() ? screen()->availableGeometry().bottom() - geometry().top() - 8 : highest;
    resize(width, std::min({height, room.height(), highest, below}));
}

void Form::setVisible(bool visible) {
    if (visible && !std::exchange(m_fitted, true)) fit(); // before it is placed
    QDialog::setVisible(visible);
}

void Form::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    // Lists that were filled before they had their style measure their rows again.
    for (auto* list : findChildren<QListView*>()) {
        list->doItemsLayout();
        list->scrollTo(list->currentIndex()); // the one that is chosen is seen
    }
}

QPushButton* Form::addButtons(const QString& take, const QString& close) {
    auto* line = new QHBoxLayout;
    line->addStretch();
    auto* leave = button(close);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    line->addWidget(leave);
    QPushButton* made = nullptr;
    if (!take.isEmpty()) {
        made = button(take, true);
        made->setDefault(true);
        made->setObjectName(QStringLiteral("take"));
        connect(made, &QPushButton::clicked, this, &QDialog::accept);
        line->addWidget(made);
    }
    m_column->addLayout(line);
    return made;
}

QWidget* Form::labelled(const QString& label, QWidget* control) {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(7);
    auto* text = new QLabel(label);
    text->setBuddy(control);
    if (control->accessibleName().isEmpty())
        control->setAccessibleName(QString(label).remove(QLatin1Char('&')));
    line->addWidget(text);
    line->addWidget(control);
    return box;
}

void Form::tellTicks(QListWidget* list) {
    const auto textOf = [](const QListWidgetItem* item) {
        return item->checkState() == Qt::Checked ? tr("ticked") : tr("not ticked");
    };
    const auto tell = [textOf](QListWidgetItem* item) {
        item->setData(Qt::AccessibleTextRole, textOf(item) + QStringLiteral(", ") + item->text());
    };
    for (int row = 0; row < list->count(); ++row) tell(list->item(row));
    connect(list, &QListWidget::itemChanged, list, [list, textOf, tell](QListWidgetItem* item) {
        const QSignalBlocker once(list);
        tell(item);
        announce(list, textOf(item));
    });
}

QHBoxLayout* Form::row(std::initializer_list<QWidget*> controls) {
    auto* line = new QHBoxLayout;
    line->setSpacing(12);
    for (QWidget* control : controls) line->addWidget(control);
    line->addStretch();
    return line;
}

} // namespace cobbleway
