#pragma once
#include "app/session/session.h"
#include "app/session/uses.h"

#include <QWidget>
#include <functional>

class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;

namespace cobbleway {

/// The controls of any plug-in: its presets, and a row a control port. Says so while they are asked for.
class PluginControls : public QWidget {
    Q_OBJECT
  public:
    PluginControls(Uses<uses::Sounds, uses::Windows> session, QWidget* parent = nullptr);
    /// Shows a plug-in; empty URI for none. `settings` as they are now; `name` in the title of its own
    /// window.
    void show(const QString& uri, const PluginSettings& settings, const PluginPlace& place = {},
              const QString& name = {});

  Q_SIGNALS:
    void filled(); ///< the controls of another plug-in are there, or none
    /// Changed by the person; `gesture` names the control ("preset" for the presets), so that a drag is
    /// one step to undo.
    void changed(const PluginSettings& settings, const QString& gesture);

  private:
    void fill(const Sounds::PluginFace& face);
    void addControl(const PluginControl& control);
    void addHeading(const QString& group);
    void find(const QString& words); ///< shows what fits
    QWidget* makeChoice(const PluginControl& control);
    QWidget* makeFile(const PluginControl& control);
    QWidget* makeSlider(const PluginControl& control);
    [[nodiscard]] float valueOf(const PluginControl& control) const;
    void setValue(const PluginControl& control, float value);
    void refreshValues();
    Uses<uses::Sounds, uses::Windows> m_session;
    QString m_uri, m_name;
    PluginPlace m_place;
    QPushButton* m_own; ///< opens its own window
    PluginSettings m_settings;
    QComboBox* m_presets;
    QLabel* m_state;
    QWidget* m_body = nullptr;
    QVBoxLayout* m_column;
    QFormLayout* m_form = nullptr;
    QLineEdit* m_find;
    struct Row {
        QString text; ///< what it is found by, in small letters
        int row = 0;  ///< in the form
        bool heading = false;
    };
    std::vector<Row> m_rows;
    std::vector<std::function<void()>> m_refreshers;
};

} // namespace cobbleway
