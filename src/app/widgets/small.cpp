#include "app/widgets/small.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"
#include "midi/gm.h"

#include <QAction>
#include <QButtonGroup>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QStyle>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

bool isBlack(int key) {
    const int place = key % 12;
    return place == 1 || place == 3 || place == 6 || place == 8 || place == 10;
}

int whitesBelow(int key) {
    int count = 0;
    for (int k = lowestShown; k < key; ++k) count += isBlack(k) ? 0 : 1;
    return count;
}

} // namespace

Card::Card(const QString& title, QWidget* parent) : QFrame(parent), m_column(new QVBoxLayout(this)) {
    setProperty("card", true);
    m_column->setContentsMargins(12, 10, 12, 12);
    m_column->setSpacing(6);
    if (!title.isEmpty()) m_column->addWidget(titleLabel(title));
}

QLabel* mutedLabel(const QString& text) {
    auto* label = new QLabel(text);
    label->setProperty("role", "muted");
    label->setWordWrap(true);
    return label;
}

QLabel* titleLabel(const QString& text) {
    auto* label = new QLabel(text);
    label->setProperty("role", "title");
    return label;
}

QPushButton* button(const QString& text, bool primary) {
    auto* b = new QPushButton(text);
    if (primary) b->setProperty("primary", true);
    return b;
}

void triggerByToggling(QAbstractButton* button, QAction* action) {
    // Once the event is over: a click triggers the action itself after it has toggled the button.
    QObject::connect(button, &QAbstractButton::toggled, action, [button, action] {
        QTimer::singleShot(0, button, [button, action] {
            if (!action->isCheckable() || button->isChecked() == action->isChecked()) return;
            action->trigger();
            button->setChecked(action->isChecked());
        });
    });
}

QPushButton* actionButton(QAction* action, int points) {
    auto* b = button({});
    if (points) b->setFont(textFont(points));
    b->setCheckable(action->isCheckable());
    const auto show = [b, action] {
        b->setText(action->iconText());
        b->setAccessibleName(action->text().remove(QLatin1Char('&')));
        b->setToolTip(action->toolTip() == action->iconText() ? QString() : action->toolTip());
        b->setVisible(action->isVisible());
        b->setEnabled(action->isEnabled());
        b->setChecked(action->isChecked());
    };
    QObject::connect(action, &QAction::changed, b, show);
    if (action->isCheckable()) // toggled, not clicked: a screen reader toggles
        QObject::connect(b, &QPushButton::toggled, action, [action](bool on) {
            if (on != action->isChecked()) action->trigger();
        });
    else
        QObject::connect(b, &QPushButton::clicked, action, &QAction::trigger);
    triggerByToggling(b, action);
    show();
    return b;
}

Segments::Segments(const QStringList& names, const QString& what, QWidget* parent)
    : QWidget(parent), m_group(new QButtonGroup(this)) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    for (int i = 0; i < names.size(); ++i) {
        auto* b = new QToolButton;
        tellAsChoice(b, QAccessible::RadioButton);
        b->setText(names[i]);
        b->setCheckable(true);
        b->setProperty("look", "segment");
        b->setProperty("place", i == 0 ? "first" : (i + 1 == names.size() ? "last" : "middle"));
        b->setAccessibleName(what.isEmpty() ? names[i] : tr("%1: %2").arg(what, names[i]));
        m_group->addButton(b, i);
        layout->addWidget(b);
    }
    // Toggled, not clicked: a screen reader toggles.
    connect(m_group, &QButtonGroup::idToggled, this, [this](int id, bool on) {
        if (on && !m_setting) Q_EMIT chosen(id);
    });
}

void Segments::setCurrent(int index) {
    m_setting = true;
    if (QAbstractButton* b = m_group->button(index)) b->setChecked(true);
    m_setting = false;
}

void Segments::leaveFocusToOwner() {
    for (QAbstractButton* b : m_group->buttons()) b->setFocusPolicy(Qt::NoFocus);
}

int Segments::current() const { return m_group->checkedId(); }

FlowLayout::FlowLayout(int gap, QWidget* parent) : QLayout(parent), m_gap(gap) {
    setContentsMargins(0, 0, 0, 0);
}
FlowLayout::~FlowLayout() { qDeleteAll(m_items); }

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    place(rect, true);
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (const QLayoutItem* item : m_items) size = size.expandedTo(item->minimumSize());
    return size;
}

int FlowLayout::place(const QRect& rect, bool move) const {
    int x = rect.x(), y = rect.y(), line = 0;
    for (QLayoutItem* item : m_items) {
        const QSize size = item->sizeHint();
        if (x > rect.x() && x + size.width() > rect.right() + 1) {
            x = rect.x();
            y += line + m_gap;
            line = 0;
        }
        if (move)
            item->setGeometry(
                QStyle::visualRect(parentWidget() ? parentWidget()->layoutDirection() : Qt::LeftToRight, rect,
                                   QRect(QPoint(x, y), size)));
        x += size.width() + m_gap;
        line = std::max(line, size.height());
    }
    return y + line - rect.y();
}

KeyboardPicture::KeyboardPicture(QWidget* parent) : QWidget(parent) {
    setFixedHeight(42);
    setMinimumWidth(200);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Keyboard: plays the sound"));
}

void KeyboardPicture::setPreset(const Preset* preset) {
    m_preset = preset ? *preset : Preset{};
    update();
}

QString KeyboardPicture::surfaceValue() const {
    return QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(m_chosen)}));
}

std::optional<SurfaceNumber> KeyboardPicture::surfaceNumber() const {
    return SurfaceNumber{double(m_chosen), double(lowestShown), double(highestShown), 1, true};
}

void KeyboardPicture::setSurfaceNumber(double value) {
    m_chosen = std::clamp(qRound(value), lowestShown, highestShown);
    update();
}

QRectF KeyboardPicture::keyRect(int key) const {
    const int whites = whitesBelow(highestShown + 1);
    const double white = (width() - 1.0) / whites;
    if (!isBlack(key)) return {whitesBelow(key) * white, 0, white, height() - 1.0};
    return {whitesBelow(key) * white - white * 0.3, 0, white * 0.62, height() * 0.6};
}

int KeyboardPicture::keyAt(QPointF at) const {
    for (const bool black : {true, false})
        for (int key = lowestShown; key <= highestShown; ++key)
            if (isBlack(key) == black && keyRect(key).contains(at)) return key;
    return -1;
}

void KeyboardPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    for (const bool black : {false, true})
        for (int key = lowestShown; key <= highestShown; ++key) {
            if (isBlack(key) != black) continue;
            const bool plays = m_preset.plays(Key{static_cast<std::uint8_t>(key)});
            QColor fill = black ? QColor("#2A3439") : QColor("#FFFFFF");
            if (!plays) fill = black ? QColor("#A9A394") : theme().stone;
            if (key == m_down || (hasFocus() && key == m_chosen))
                fill =
                    key == m_down ? theme().brick : QColor(black ? "#D9A94F" : "#2F5D73"); // in every theme
            painter.setPen(QPen(QColor("#B9B2A3"), 0.7));
            painter.setBrush(fill);
            painter.drawRoundedRect(keyRect(key).adjusted(0.3, -3, -0.3, -0.5), 2, 2);
        }
}

void KeyboardPicture::sound(int key) {
    if (key < 0 || key == m_down) return;
    silence();
    m_down = m_chosen = key;
    Q_EMIT pressed(key);
    update();
}

void KeyboardPicture::silence() {
    if (m_down < 0) return;
    Q_EMIT released(m_down);
    m_down = -1;
    update();
}

void KeyboardPicture::mousePressEvent(QMouseEvent* event) { sound(keyAt(event->position())); }
void KeyboardPicture::mouseReleaseEvent(QMouseEvent*) { silence(); }

void KeyboardPicture::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) {
        m_chosen = std::clamp(m_chosen + (event->key() == Qt::Key_Left ? -1 : 1), lowestShown, highestShown);
        surfaceNumberChanged(this);
        announce(this, surfaceValue());
        update();
    } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
        if (!event->isAutoRepeat()) sound(m_chosen);
    } else {
        QWidget::keyPressEvent(event);
    }
}

void KeyboardPicture::keyReleaseEvent(QKeyEvent* event) {
    if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && !event->isAutoRepeat())
        silence();
    else
        QWidget::keyReleaseEvent(event);
}

} // namespace cobbleway
