/// Small controls that several pages use.
#pragma once
#include "app/widgets/surface.h"
#include "font/soundfont.h"

#include <QFrame>
#include <QLabel>
#include <QLayout>
#include <QPushButton>
#include <QWidget>
#include <functional>

class QAbstractButton;
class QAction;
class QButtonGroup;
class QVBoxLayout;

namespace cobbleway {

/// A panel with a rounded border. With a title when given.
class Card : public QFrame {
    Q_OBJECT
  public:
    explicit Card(const QString& title = {}, QWidget* parent = nullptr);
    [[nodiscard]] QVBoxLayout* column() const { return m_column; }

  private:
    QVBoxLayout* m_column;
};

QLabel* mutedLabel(const QString& text = {});
QLabel* titleLabel(const QString& text = {});
QPushButton* button(const QString& text, bool primary = false);

/// Sets a box or a slider, which paints itself anew also when it is told what it shows already.
template <typename Box, typename Value> void showValue(Box* box, Value value) {
    if (box->value() != value) box->setValue(value);
}

/// Makes an action that is on or off follow its button when that is toggled, not clicked, as a screen reader
/// does.
void triggerByToggling(QAbstractButton* button, QAction* action);

/// A button for an action: its short text, shown and enabled as the action is. `points`: size of its letters,
/// 0 for the usual.
QPushButton* actionButton(QAction* action, int points = 0);

/// Buttons side by side of which one is down: Lead | Back | Off.
class Segments : public QWidget {
    Q_OBJECT
  public:
    Segments(const QStringList& names, const QString& what, QWidget* parent = nullptr);
    void setCurrent(int index);
    [[nodiscard]] int current() const;
    void leaveFocusToOwner(); ///< its buttons are not in the order of Tab: what holds it takes the keys

  Q_SIGNALS:
    void chosen(int index);

  private:
    QButtonGroup* m_group;
    bool m_setting = false; ///< set from outside
};

/// Lays widgets out in lines, as words in a text.
class FlowLayout : public QLayout {
  public:
    explicit FlowLayout(int gap, QWidget* parent = nullptr);
    ~FlowLayout() override;
    FlowLayout(const FlowLayout&) = delete;
    FlowLayout& operator=(const FlowLayout&) = delete;
    void addItem(QLayoutItem* item) override { m_items.append(item); }
    [[nodiscard]] int count() const override { return static_cast<int>(m_items.size()); }
    [[nodiscard]] QLayoutItem* itemAt(int index) const override { return m_items.value(index); }
    QLayoutItem* takeAt(int index) override {
        return index >= 0 && index < m_items.size() ? m_items.takeAt(index) : nullptr;
    }
    [[nodiscard]] Qt::Orientations expandingDirections() const override { return {}; }
    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override { return place({0, 0, width, 0}, false); }
    void setGeometry(const QRect& rect) override;
    [[nodiscard]] QSize sizeHint() const override { return minimumSize(); }
    [[nodiscard]] QSize minimumSize() const override;

  private:
    int place(const QRect& rect, bool move) const;
    QList<QLayoutItem*> m_items;
    int m_gap;
};

/// A picture of a keyboard: keys that a sound can play are full, others faded. A click plays the key; left
/// and right choose one and Enter plays it.
class KeyboardPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit KeyboardPicture(QWidget* parent = nullptr);
    void setPreset(const Preset* preset); ///< copied; null for none
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::optional<SurfaceNumber> surfaceNumber() const override; ///< the key that is chosen
    void setSurfaceNumber(double value) override;

  Q_SIGNALS:
    void pressed(int key);
    void released(int key);

  private:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    [[nodiscard]] QRectF keyRect(int key) const;
    [[nodiscard]] int keyAt(QPointF at) const;
    void sound(int key);
    void silence();
    Preset m_preset;
    int m_down = -1;
    int m_chosen = 60;
};

} // namespace cobbleway
