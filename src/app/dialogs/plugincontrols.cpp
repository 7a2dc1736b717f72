#include "app/dialogs/plugincontrols.h"

#include "app/dialogs/ask.h"
#include "app/session/pluginwindows.h"
#include "app/widgets/focus.h"
#include "app/widgets/small.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

constexpr int steps = 1000;

QString valueText(const PluginControl& control, float value) {
    const double range = static_cast<double>(control.most) - static_cast<double>(control.least);
    const int decimals = control.whole || range >= 500 ? 0 : (range >= 20 ? 1 : 2);
    const QString number =
        QString::number(static_cast<double>(value), 'f', decimals).replace(QLatin1Char('-'), QChar(0x2212));
    return control.unit.empty() ? number : number + QLatin1Char(' ') + QString::fromStdString(control.unit);
}

int stepOf(const PluginControl& control, float value) {
    if (control.most <= control.least) return 0;
    const float share = control.logarithmic ? std::log(std::max(value, control.least) / control.least) /
                                                  std::log(control.most / control.least)
                                            : (value - control.least) / (control.most - control.least);
    return static_cast<int>(std::lround(std::clamp(share, 0.0F, 1.0F) * steps));
}

float valueAt(const PluginControl& control, int step) {
    const float share = static_cast<float>(step) / steps;
    const float value = control.logarithmic ? control.least * std::pow(control.most / control.least, share)
                                            : control.least + share * (control.most - control.least);
    return control.whole ? std::round(value) : value;
}

} // namespace

PluginControls::PluginControls(Uses<uses::Sounds, uses::Windows> session, QWidget* parent)
    : QWidget(parent), m_session(session), m_own(button(tr("Open its own &window"))),
      m_presets(new QComboBox), m_state(mutedLabel()), m_column(new QVBoxLayout(this)),
      m_find(new QLineEdit) {
    m_column->setContentsMargins(0, 0, 0, 0);
    m_presets->setAccessibleName(tr("Preset"));
    m_presets->setObjectName(QStringLiteral("pluginPreset"));
    m_own->setObjectName(QStringLiteral("ownWindow"));
    m_own->setAutoDefault(false);
    connect(m_own, &QPushButton::clicked, this, [this] { m_session.windows.open(m_place, m_name); });
    m_find->setPlaceholderText(tr("Find a control"));
    m_find->setAccessibleName(tr("Find a control"));
    m_find->setObjectName(QStringLiteral("findControl"));
    m_find->setClearButtonEnabled(true);
    connect(m_find, &QLineEdit::textChanged, this, &PluginControls::find);
    auto* top = new QHBoxLayout;
    top->addWidget(m_presets, 1);
    top->addWidget(m_find, 1);
    top->addStretch();
    top->addWidget(m_own);
    m_column->addLayout(top);
    m_column->addWidget(m_state);
    connect(m_presets, &QComboBox::activated, this, [this](int index) {
        const QString preset = m_presets->itemData(index).toString();
        if (preset.isEmpty()) {
            m_settings = {};
            refreshValues();
            Q_EMIT changed(m_settings, QStringLiteral("preset"));
            return;
        }
        m_session.sounds.askPreset(
            m_uri, preset,
            [self = QPointer<PluginControls>(this), uri = m_uri](const PluginSettings& settings) {
                if (!self || self->m_uri != uri) return;
                self->m_settings = settings;
                self->refreshValues();
                Q_EMIT self->changed(settings, QStringLiteral("preset"));
            });
    });
    show({}, {});
}

void PluginControls::show(const QString& uri, const PluginSettings& settings, const PluginPlace& place,
                          const QString& name) {
    m_settings = settings;
    m_place = place;
    m_name = name;
    if (uri == m_uri && !uri.isEmpty()) return refreshValues();
    m_uri = uri;
    letGo(std::exchange(m_body, nullptr));
    m_refreshers.clear();
    m_rows.clear();
    m_presets->hide();
    m_find->hide();
    m_own->hide();
    m_state->setVisible(true);
    m_state->setText(uri.isEmpty() ? QString() : tr("Asking the plug-in for its controls…"));
    if (uri.isEmpty()) return;
    m_session.sounds.askFace(uri,
                             [self = QPointer<PluginControls>(this), uri](const Sounds::PluginFace& face) {
                                 if (self && self->m_uri == uri) self->fill(face);
                             });
}

void PluginControls::fill(const Sounds::PluginFace& face) {
    m_presets->clear();
    m_presets->addItem(tr("As it starts"), QString());
    for (const PluginPreset& preset : face.presets)
        m_presets->addItem(QString::fromStdString(preset.name), QString::fromStdString(preset.uri));
    m_presets->setVisible(!face.presets.empty());
    m_own->setVisible(face.window && m_place != PluginPlace{}); // of one that is in the song
    m_state->setText(face.controls.empty() ? tr("It has nothing to set.") : QString());
    m_state->setVisible(face.controls.empty());
    auto* area = new QScrollArea;
    area->setWidgetResizable(true);
    area->setFocusPolicy(Qt::NoFocus);
    auto* inside = new QWidget;
    m_form = new QFormLayout(inside);
    m_form->setVerticalSpacing(5);
    m_form->setRowWrapPolicy(QFormLayout::WrapLongRows); // where there is little room
    area->setWidget(inside);
    m_body = area;
    m_column->addWidget(area, 1);
    std::string group;
    for (const PluginControl& control : face.controls) {
        if (std::exchange(group, control.group) != control.group)
            addHeading(QString::fromStdString(control.group));
        addControl(control);
    }
    constexpr std::size_t many = 20;
    m_find->clear();
    m_find->setVisible(face.controls.size() > many);
    refreshValues();
    Q_EMIT filled();
}

void PluginControls::addControl(const PluginControl& control) {
    QWidget* editor = nullptr;
    const QString name = QString::fromStdString(control.name);
    if (control.toggled) {
        auto* box = new QCheckBox;
        connect(box, &QCheckBox::toggled, this, [this, control](bool on) { setValue(control, on ? 1 : 0); });
        m_refreshers.push_back([this, box, control] {
            const QSignalBlocker quiet(box);
            box->setChecked(valueOf(control) > 0.5F);
        });
        editor = box;
    } else if (control.kind == PluginControl::Kind::File) {
        editor = makeFile(control);
    } else {
        editor = control.choice && !control.points.empty() ? makeChoice(control) : makeSlider(control);
    }
    auto* label = new QLabel(name);
    QWidget* target = editor->findChild<QSlider*>();
    if (!target) target = editor->findChild<QPushButton*>();
    if (!target) target = editor;
    target->setAccessibleName(name);
    target->setObjectName(QStringLiteral("control:") + QString::fromStdString(control.symbol));
    label->setBuddy(target);
    m_rows.push_back({(name + QLatin1Char(' ') + QString::fromStdString(control.group)).toLower(),
                      m_form->rowCount(), false});
    m_form->addRow(label, editor);
}

void PluginControls::addHeading(const QString& group) {
    m_rows.push_back({{}, m_form->rowCount(), true});
    m_form->addRow(titleLabel(group.isEmpty() ? tr("Others") : group));
}

void PluginControls::find(const QString& words) {
    const QStringList wanted = words.toLower().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    int heading = -1;
    for (const Row& row : m_rows) {
        if (row.heading) {
            heading = row.row;
            m_form->setRowVisible(heading, false);
            continue;
        }
        const bool fits = std::all_of(wanted.begin(), wanted.end(),
                                      [&](const QString& word) { return row.text.contains(word); });
        m_form->setRowVisible(row.row, fits);
        if (fits && heading >= 0) m_form->setRowVisible(heading, true);
    }
}

QWidget* PluginControls::makeChoice(const PluginControl& control) {
    auto* box = new QComboBox;
    constexpr int shortest = 8; // letters; it takes what room there is
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(shortest);
    for (const auto& [value, text] : control.points) box->addItem(QString::fromStdString(text), value);
    connect(box, &QComboBox::activated, this,
            [this, box, control](int index) { setValue(control, box->itemData(index).toFloat()); });
    m_refreshers.push_back([this, box, control] { box->setCurrentIndex(box->findData(valueOf(control))); });
    return box;
}

/// A button that says which file it is, and another that takes it out.
QWidget* PluginControls::makeFile(const PluginControl& control) {
    auto* whole = new QWidget;
    auto* line = new QHBoxLayout(whole);
    line->setContentsMargins(0, 0, 0, 0);
    auto* choose = new QPushButton;
    auto* none = new QPushButton(tr("None"));
    none->setAccessibleName(tr("%1: none").arg(QString::fromStdString(control.name)));
    line->addWidget(choose, 1);
    line->addWidget(none);
    const std::string uri = control.symbol;
    const auto path = [this, uri] {
        const auto at = m_settings.files.find(uri);
        return at == m_settings.files.end() ? QString() : QString::fromStdString(at->second);
    };
    const auto set = [this, uri](const QString& file) {
        if (file.isEmpty())
            m_settings.files.erase(uri);
        else
            m_settings.files[uri] = file.toStdString();
        refreshValues();
        Q_EMIT changed(m_settings, {});
    };
    connect(choose, &QPushButton::clicked, this,
            [this, path, set, name = QString::fromStdString(control.name)] {
                const QString folder = path().isEmpty() ? QDir::homePath() : QFileInfo(path()).absolutePath();
                ask::forFile(this, name, folder, {}, set);
            });
    connect(none, &QPushButton::clicked, this, [set] { set({}); });
    m_refreshers.push_back([choose, none, path] {
        const QFileInfo file(path());
        const bool any = !path().isEmpty();
        choose->setText(!any            ? tr("Choose a file…")
                        : file.exists() ? file.fileName()
                                        : tr("%1 is not there").arg(file.fileName()));
        choose->setToolTip(path());
        none->setEnabled(any);
    });
    return whole;
}

QWidget* PluginControls::makeSlider(const PluginControl& control) {
    auto* whole = new QWidget;
    auto* line = new QHBoxLayout(whole);
    line->setContentsMargins(0, 0, 0, 0);
    auto* slider = new QSlider(Qt::Horizontal);
    tellInUnit(
        slider, [control](int step) { return double(valueAt(control, step)); },
        [control](double value) { return stepOf(control, static_cast<float>(value)); });
    slider->setRange(0, steps);
    slider->setPageStep(steps / 10);
    slider->setSingleStep(
        control.whole && control.most - control.least < steps
            ? std::max(1, static_cast<int>(steps / std::max(1.0F, control.most - control.least)))
            : steps / 100);
    QLabel* text = mutedLabel();
    text->setFixedWidth(78);
    line->addWidget(slider, 1);
    line->addWidget(text);
    connect(slider, &QSlider::valueChanged, this,
            [this, control](int step) { setValue(control, valueAt(control, step)); });
    m_refreshers.push_back([this, slider, text, control] {
        const QSignalBlocker quiet(slider);
        slider->setValue(stepOf(control, valueOf(control)));
        text->setText(valueText(control, valueOf(control)));
    });
    return whole;
}

float PluginControls::valueOf(const PluginControl& control) const {
    const auto at = m_settings.controls.find(control.symbol);
    return at == m_settings.controls.end() ? control.normal : at->second;
}

void PluginControls::setValue(const PluginControl& control, float value) {
    if (value == valueOf(control)) return;
    if (value == control.normal && m_settings.preset.empty())
        m_settings.controls.erase(control.symbol);
    else
        m_settings.controls[control.symbol] = value;
    refreshValues();
    Q_EMIT changed(m_settings, QString::fromStdString(control.symbol));
}

void PluginControls::refreshValues() {
    m_presets->setCurrentIndex(std::max(0, m_presets->findData(QString::fromStdString(m_settings.preset))));
    for (const auto& refresh : m_refreshers) refresh();
}

} // namespace cobbleway
