#include "app/widgets/surface.h"

#include <QAbstractButton>
#include <QAbstractSlider>
#include <QAccessible>
#include <QAccessibleWidget>
#include <QPointer>
#include <QStackedWidget>
#include <QTimer>
#include <QWidget>

namespace cobbleway {
namespace {

/// A row of a Surface. Looks its data up by number each time, so it never holds anything stale.
class RowAccess final : public QAccessibleInterface, public QAccessibleActionInterface {
  public:
    RowAccess(QWidget* widget, int row) : m_widget(widget), m_row(row) {}
    [[nodiscard]] bool isValid() const override { return m_widget && data().has_value(); }
    [[nodiscard]] QObject* object() const override { return nullptr; }
    [[nodiscard]] QAccessibleInterface* parent() const override {
        return QAccessible::queryAccessibleInterface(m_widget);
    }
    [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
    [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    [[nodiscard]] int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        const auto row = data();
        if (!row) return {};
        if (kind != QAccessible::Name) return kind == QAccessible::Value ? row->value : QString();
        return row->value.isEmpty() ? row->name
                                    : row->name + QStringLiteral(", ") + row->value; // values do not leave
    }
    void setText(QAccessible::Text, const QString&) override {}
    [[nodiscard]] QRect rect() const override {
        const auto row = data();
        return row && m_widget ? QRect(m_widget->mapToGlobal(row->rect.topLeft()), row->rect.size())
                               : QRect();
    }
    [[nodiscard]] QAccessible::Role role() const override { return QAccessible::ListItem; }
    [[nodiscard]] QAccessible::State state() const override {
        QAccessible::State state;
        const auto row = data();
        state.selectable = true;
        state.selected = row && row->selected;
        return state;
    }
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this)
                                                    : nullptr;
    }
    [[nodiscard]] QStringList actionNames() const override { return {pressAction()}; }
    void doAction(const QString& name) override {
        auto* surface = dynamic_cast<Surface*>(m_widget.data());
        if (surface && name == pressAction()) surface->activateSurfaceRow(m_row);
    }
    [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {}; }

  private:
    [[nodiscard]] std::optional<SurfaceRow> data() const {
        const auto* surface = dynamic_cast<const Surface*>(m_widget.data());
        const auto rows = surface ? surface->surfaceRows() : std::vector<SurfaceRow>{};
        return m_row < static_cast<int>(rows.size()) ? std::optional(rows[static_cast<std::size_t>(m_row)])
                                                     : std::nullopt;
    }
    QPointer<QWidget> m_widget;
    int m_row;
};

class SurfaceAccess final : public QAccessibleWidget, public QAccessibleValueInterface {
  public:
    explicit SurfaceAccess(QWidget* widget) : QAccessibleWidget(widget, QAccessible::List) {}
    [[nodiscard]] QAccessible::Role role() const override {
        if (const auto number = surface()->surfaceNumber())
            return number->settable ? QAccessible::Slider : QAccessible::Indicator;
        return childCount() > 0 ? QAccessible::List : QAccessible::Graphic;
    }
    void* interface_cast(QAccessible::InterfaceType type) override {
        if (type == QAccessible::ValueInterface)
            return surface()->surfaceNumber() ? static_cast<QAccessibleValueInterface*>(this) : nullptr;
        return QAccessibleWidget::interface_cast(type);
    }
    [[nodiscard]] QVariant currentValue() const override { return number().value; }
    void setCurrentValue(const QVariant& value) override {
        if (number().settable) dynamic_cast<Surface*>(widget())->setSurfaceNumber(value.toDouble());
    }
    [[nodiscard]] QVariant maximumValue() const override { return number().highest; }
    [[nodiscard]] QVariant minimumValue() const override { return number().lowest; }
    [[nodiscard]] QVariant minimumStepSize() const override { return number().step; }
    ~SurfaceAccess() override {
        for (const QAccessible::Id id : m_rows) QAccessible::deleteAccessibleInterface(id);
    }
    SurfaceAccess(const SurfaceAccess&) = delete;
    SurfaceAccess& operator=(const SurfaceAccess&) = delete;
    [[nodiscard]] int childCount() const override {
        return static_cast<int>(surface()->surfaceRows().size());
    }
    [[nodiscard]] QAccessibleInterface* child(int index) const override {
        if (index < 0 || index >= childCount()) return nullptr;
        while (static_cast<int>(m_rows.size()) <= index)
            m_rows.push_back(QAccessible::registerAccessibleInterface(
                new RowAccess(widget(), static_cast<int>(m_rows.size()))));
        return QAccessible::accessibleInterface(m_rows[static_cast<std::size_t>(index)]);
    }
    int indexOfChild(const QAccessibleInterface* child) const override {
        for (std::size_t i = 0; i < m_rows.size(); ++i)
            if (QAccessible::accessibleInterface(m_rows[i]) == child) return static_cast<int>(i);
        return -1;
    }
    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        return kind == QAccessible::Value ? surface()->surfaceValue() : QAccessibleWidget::text(kind);
    }

  private:
    [[nodiscard]] const Surface* surface() const { return dynamic_cast<const Surface*>(widget()); }
    [[nodiscard]] SurfaceNumber number() const {
        return surface()->surfaceNumber().value_or(SurfaceNumber{});
    }
    mutable std::vector<QAccessible::Id> m_rows;
};

/// How a slider's steps are told, kept with it.
class SliderUnit final : public QObject {
  public:
    SliderUnit(QAbstractSlider* slider, std::function<double(int)> toTold, std::function<int(double)> toSet)
        : QObject(slider), told(std::move(toTold)), set(std::move(toSet)) {}
    std::function<double(int)> told;
    std::function<int(double)> set;
};

SliderUnit* unitOf(const QObject* slider) {
    for (QObject* child : slider->children())
        if (auto* unit = dynamic_cast<SliderUnit*>(child)) return unit;
    return nullptr;
}

/// A slider that counts in another unit than it tells.
class SliderAccess final : public QAccessibleWidget, public QAccessibleValueInterface {
  public:
    SliderAccess(QAbstractSlider* slider, SliderUnit* unit)
        : QAccessibleWidget(slider, QAccessible::Slider), m_slider(slider), m_unit(unit) {}
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ValueInterface ? static_cast<QAccessibleValueInterface*>(this)
                                                   : QAccessibleWidget::interface_cast(type);
    }
    [[nodiscard]] QVariant currentValue() const override { return m_unit->told(m_slider->value()); }
    void setCurrentValue(const QVariant& value) override {
        m_slider->setValue(m_unit->set(value.toDouble()));
    }
    [[nodiscard]] QVariant maximumValue() const override { return m_unit->told(m_slider->maximum()); }
    [[nodiscard]] QVariant minimumValue() const override { return m_unit->told(m_slider->minimum()); }
    [[nodiscard]] QVariant minimumStepSize() const override {
        return std::abs(m_unit->told(m_slider->minimum() + m_slider->singleStep()) -
                        m_unit->told(m_slider->minimum()));
    }
    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        return kind == QAccessible::Value ? QString::number(currentValue().toDouble())
                                          : QAccessibleWidget::text(kind);
    }

  private:
    QAbstractSlider* m_slider;
    SliderUnit* m_unit;
};

constexpr const char* choiceRole = "choiceRole";

/// A button that is one of several, of which one is chosen.
class ChoiceAccess final : public QAccessibleWidget {
  public:
    ChoiceAccess(QAbstractButton* button, QAccessible::Role role)
        : QAccessibleWidget(button, role), m_button(button) {}
    [[nodiscard]] QAccessible::State state() const override {
        QAccessible::State state = QAccessibleWidget::state();
        state.selectable = state.checkable = true;
        state.selected = state.checked = m_button->isChecked();
        return state;
    }
    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        const QString said = QAccessibleWidget::text(kind);
        return said.isEmpty() && kind == QAccessible::Name ? m_button->text().remove(QLatin1Char('&')) : said;
    }
    [[nodiscard]] QStringList actionNames() const override {
        return m_button->isEnabled() ? QStringList{pressAction(), setFocusAction()} : QStringList();
    }
    void doAction(const QString& name) override {
        if (name == pressAction())
            m_button->click();
        else
            QAccessibleWidget::doAction(name);
    }

  private:
    QAbstractButton* m_button;
};

/// What an announcement leaves through: too small to be seen.
class Notice final : public QWidget {
  public:
    explicit Notice(QWidget* window) : QWidget(window) {
        setObjectName(QStringLiteral("notice"));
        setFixedSize(1, 1);
        setAttribute(Qt::WA_TransparentForMouseEvents);
        hide();
        // Readers that are busy see only the last of what came in the meantime: it does not go at once.
        m_goes.setSingleShot(true);
        m_goes.setInterval(3000);
        connect(&m_goes, &QTimer::timeout, this, &QWidget::hide);
    }
    void tell(const QString& text) {
        setAccessibleName(text);
        if (!QAccessible::isActive()) return; // nobody reads: the window is not painted for it
        hide();                               // a notification is told when it appears
        show();
        m_goes.start();
    }

  private:
    QTimer m_goes;
};

QAccessibleInterface* makeAccess(const QString&, QObject* object) {
    auto* widget = qobject_cast<QWidget*>(object);
    if (dynamic_cast<Notice*>(object)) return new QAccessibleWidget(widget, QAccessible::Notification);
    if (auto* slider = qobject_cast<QAbstractSlider*>(object))
        if (SliderUnit* unit = unitOf(slider)) return new SliderAccess(slider, unit);
    const auto role = static_cast<QAccessible::Role>(object->property(choiceRole).toInt());
    if (auto* button = qobject_cast<QAbstractButton*>(object); button && role != QAccessible::NoRole)
        return new ChoiceAccess(button, role);
    if (widget && role == QAccessible::PageTabList) return new QAccessibleWidget(widget, role);
    if (qobject_cast<QStackedWidget*>(object)) // Qt's would be told as a layered pane each time
        return new QAccessibleWidget(widget, QAccessible::Pane);
    return widget && dynamic_cast<Surface*>(widget) ? new SurfaceAccess(widget) : nullptr;
}

} // namespace

void tellAsChoice(QAbstractButton* button, QAccessible::Role role) { button->setProperty(choiceRole, role); }
void tellAsTabList(QWidget* widget) { widget->setProperty(choiceRole, QAccessible::PageTabList); }

void installSurfaceAccess() { QAccessible::installFactory(makeAccess); }

void announce(QWidget* from, const QString& text) {
    QWidget* window = from->window();
    auto* notice = dynamic_cast<Notice*>(
        window->findChild<QWidget*>(QStringLiteral("notice"), Qt::FindDirectChildrenOnly));
    if (!notice) notice = new Notice(window);
    notice->tell(text);
#if QT_VERSION >= QT_VERSION_CHECK(6, 8, 0)
    QAccessibleAnnouncementEvent event(window, text);
    QAccessible::updateAccessibility(&event);
#endif
}

void surfaceNumberChanged(QWidget* widget) {
    const auto* surface = dynamic_cast<const Surface*>(widget);
    const auto number = surface ? surface->surfaceNumber() : std::nullopt;
    if (!number) return;
    QAccessibleValueChangeEvent event(widget, number->value);
    QAccessible::updateAccessibility(&event);
}

void surfaceRowReached(QWidget* widget, int row) {
    QAccessibleEvent event(widget, QAccessible::Focus);
    event.setChild(row);
    QAccessible::updateAccessibility(&event);
}

void tellInUnit(QAbstractSlider* slider, std::function<double(int)> told, std::function<int(double)> set) {
    new SliderUnit(slider, std::move(told), std::move(set));
}

void tellInUnit(QAbstractSlider* slider, double step) {
    tellInUnit(
        slider, [step](int value) { return value * step; },
        [step](double value) { return qRound(value / step); });
}

} // namespace cobbleway
