#include "app/widgets/surface.h"

#include <QAccessible>
#include <QAccessibleWidget>
#include <QPointer>
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
        return kind == QAccessible::Value ? row->value : (kind == QAccessible::Name ? row->name : QString());
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

class SurfaceAccess final : public QAccessibleWidget {
  public:
    explicit SurfaceAccess(QWidget* widget) : QAccessibleWidget(widget, QAccessible::List) {}
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
    mutable std::vector<QAccessible::Id> m_rows;
};

QAccessibleInterface* makeAccess(const QString&, QObject* object) {
    auto* widget = qobject_cast<QWidget*>(object);
    return widget && dynamic_cast<Surface*>(widget) ? new SurfaceAccess(widget) : nullptr;
}

} // namespace

void installSurfaceAccess() { QAccessible::installFactory(makeAccess); }

void announce(QWidget* from, const QString& text) {
    // Qt 6.4 has no announcement event: an alert on a named object is what screen readers speak.
    from->setAccessibleDescription(text);
    QAccessibleEvent event(from, QAccessible::Alert);
    QAccessible::updateAccessibility(&event);
}

} // namespace cobbleway
