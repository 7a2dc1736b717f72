#include "app/dialogs/layersdialog.h"
#include "app/widgets/rowlist.h"

#include "app/dialogs/plugincontrols.h"
#include "app/session/session.h"
#include "app/widgets/keybox.h"
#include "app/widgets/painting.h"
#include "midi/gm.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <QDoubleSpinBox>
#include <QListWidget>
#include <QSpinBox>

namespace cobbleway {
LayersDialog::LayersDialog(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Windows> session,
                           QWidget* parent)
    : Form(tr("Layers and controls"), parent), m_session(session), m_list(new QuietView<QListWidget>),
      m_level(new QDoubleSpinBox), m_octaves(new QSpinBox), m_lowest(new KeyBox), m_highest(new KeyBox),
      m_remove(button(tr("Remove"))), m_hint(mutedLabel()), m_numbers(new QWidget),
      m_portNumbers(new QWidget), m_channel(new QSpinBox), m_bank(new QSpinBox), m_program(new QSpinBox),
      m_controls(new PluginControls(session)) {
    setPreferredWidth(620);
    m_list->setAccessibleName(tr("Sounds of the part"));
    m_list->setObjectName(QStringLiteral("layers"));
    m_list->setMaximumHeight(110);
    m_level->setRange(lowestLevelDb, highestLevelDb);
    m_level->setDecimals(1);
    m_level->setSuffix(tr(" dB"));
    m_level->setObjectName(QStringLiteral("layerLevel"));
    m_octaves->setRange(-4, 4);
    m_octaves->setObjectName(QStringLiteral("layerOctaves"));
    m_lowest->setObjectName(QStringLiteral("layerLowest"));
    m_highest->setObjectName(QStringLiteral("layerHighest"));
    m_remove->setObjectName(QStringLiteral("removeLayer"));
    auto* line = row({labelled(tr("&Level"), m_level), labelled(tr("&Octave"), m_octaves),
                      labelled(tr("&Keys from"), m_lowest), labelled(tr("&to"), m_highest), m_remove});
    line->setContentsMargins(0, 0, 0, 0);
    m_numbers->setLayout(line);
    m_channel->setRange(1, 16);
    m_channel->setObjectName(QStringLiteral("portChannel"));
    m_bank->setRange(0, 127);
    m_bank->setObjectName(QStringLiteral("portBank"));
    m_program->setRange(1, 128);
    m_program->setObjectName(QStringLiteral("portProgram"));
    auto* portLine = row({labelled(tr("&Channel"), m_channel), labelled(tr("&Bank"), m_bank),
                          labelled(tr("&Program"), m_program)});
    portLine->setContentsMargins(0, 0, 0, 0);
    m_portNumbers->setLayout(portLine);
    column()->addWidget(m_list);
    column()->addWidget(m_hint);
    column()->addWidget(m_numbers);
    column()->addWidget(m_portNumbers);
    column()->addWidget(m_controls, 1);
    column()->addStretch();
    addButtons({}, tr("Close"));
    connect(m_list, &QListWidget::currentRowChanged, this, &LayersDialog::refreshChoice);
    connect(m_level, &QDoubleSpinBox::valueChanged, this, [this] { apply(QStringLiteral("level")); });
    for (QSpinBox* box : {m_octaves, m_lowest, m_highest})
        connect(box, &QSpinBox::valueChanged, this, [this, box] { apply(box->objectName()); });
    for (QSpinBox* box : {m_channel, m_bank, m_program})
        connect(box, &QSpinBox::valueChanged, this, [this, box] { applyPort(box->objectName()); });
    connect(m_remove, &QPushButton::clicked, this, [this] {
        m_session.current.edit(tr("Remove a layer"),
                               [id = m_session.current.selectedPart(), layer = current()](const Song& s) {
                                   return edits::removeLayer(s, id, static_cast<std::size_t>(layer));
                               });
    });
    connect(m_controls, &PluginControls::filled, this, &Form::fit,
            Qt::QueuedConnection); // once it is laid out
    connect(m_controls, &PluginControls::changed, this,
            [this](const PluginSettings& settings, const QString& gesture) {
                m_session.current.edit(
                    tr("Set an instrument's control"),
                    [&](const Song& s) { return edits::setSettingsAt(s, place(), settings); },
                    QStringLiteral("control %1 %2").arg(current()).arg(gesture));
            });
    follow(session.current, Side::Sounds | Side::Names | Side::Notes, this, &LayersDialog::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &LayersDialog::refresh);
    refresh();
}

int LayersDialog::current() const { return m_list->currentRow() - 1; }

void LayersDialog::refresh() {
    const Part* part = m_session.current.part();
    setHeading(part ? tr("Layers and controls of %1").arg(QString::fromStdString(part->name))
                    : windowTitle());
    m_filling = true;
    const int before = std::max(0, m_list->currentRow());
    m_list->clear();
    if (part) {
        const PartMatch* match = m_session.findings.matchOf(part->id);
        const auto& sound = match ? match->first().sound : std::optional<SoundRef>();
        m_list->addItem(
            tr("%1 — the part's sound").arg(sound ? QString::fromStdString(sound->name) : tr("nothing")));
        for (const Layer& layer : part->sound.layers)
            m_list->addItem(
                tr("%1 — layer, %2").arg(QString::fromStdString(layer.sound.name), dbText(layer.levelDb)));
        m_list->setCurrentRow(std::min(before, m_list->count() - 1));
    }
    m_hint->setText(part && part->sound.layers.size() >= mostLayers
                        ? tr("A part takes two layers at most.")
                        : tr("To add a layer choose a sound on the shelf, then More, Add as a layer."));
    m_filling = false;
    refreshChoice();
}

void LayersDialog::refreshChoice() {
    if (m_filling) return;
    const Part* part = m_session.current.part();
    const int layer = current();
    const bool isLayer = part && layer >= 0 && static_cast<std::size_t>(layer) < part->sound.layers.size();
    m_numbers->setVisible(isLayer);
    m_filling = true;
    if (isLayer) {
        const Layer& shown = part->sound.layers[static_cast<std::size_t>(layer)];
        m_level->setValue(shown.levelDb);
        m_octaves->setValue(shown.octaves);
        m_lowest->setValue(shown.keys.lowest);
        m_highest->setValue(shown.keys.highest);
        m_octaves->setEnabled(!part->source.drums);
    }
    m_filling = false;
    const SoundRef* sound = currentSound();
    const bool port = sound && sound->kind == SoundKind::Port;
    m_portNumbers->setVisible(port);
    m_filling = true;
    if (port) {
        m_channel->setValue(sound->channel + 1);
        m_bank->setValue(sound->bank);
        m_program->setValue(sound->program + 1);
    }
    m_filling = false;
    const bool plugin = sound && sound->kind == SoundKind::Plugin;
    m_controls->setVisible(plugin);
    const PluginSettings* settings = plugin ? settingsAt(m_session.current.song(), place()) : nullptr;
    if (settings)
        m_controls->show(
            QString::fromStdString(sound->font), *settings, place(),
            tr("%1 – %2").arg(QString::fromStdString(part->name), QString::fromStdString(sound->name)));
    else
        m_controls->show({}, {});
}

PluginPlace LayersDialog::place() const { return {m_session.current.selectedPart(), current(), -1}; }

const SoundRef* LayersDialog::currentSound() const {
    const Part* part = m_session.current.part();
    if (!part) return nullptr;
    if (current() < 0) return part->sound.chosen ? &*part->sound.chosen : nullptr;
    const auto layer = static_cast<std::size_t>(current());
    return layer < part->sound.layers.size() ? &part->sound.layers[layer].sound : nullptr;
}

void LayersDialog::applyPort(const QString& gesture) {
    const SoundRef* sound = currentSound();
    if (m_filling || !sound) return;
    SoundRef to = *sound;
    to.channel = m_channel->value() - 1;
    to.bank = m_bank->value();
    to.program = m_program->value() - 1;
    m_session.current.edit(
        tr("Set the outside instrument"),
        [&, id = m_session.current.selectedPart(), layer = current()](const Song& s) {
            if (layer < 0) return edits::chooseSound(s, id, to);
            Layer changed = s.part(id)->sound.layers[static_cast<std::size_t>(layer)];
            changed.sound = to;
            return edits::setLayer(s, id, static_cast<std::size_t>(layer), changed);
        },
        QStringLiteral("port %1 %2").arg(current()).arg(gesture));
}

void LayersDialog::apply(const QString& gesture) {
    const Part* part = m_session.current.part();
    const auto layer = static_cast<std::size_t>(current());
    if (m_filling || !part || current() < 0 || layer >= part->sound.layers.size()) return;
    Layer to = part->sound.layers[layer];
    to.levelDb = m_level->value();
    to.octaves = m_octaves->value();
    to.keys = {m_lowest->value(), std::max(m_lowest->value(), m_highest->value())};
    m_session.current.edit(
        tr("Change a layer"), [&, id = part->id](const Song& s) { return edits::setLayer(s, id, layer, to); },
        QStringLiteral("layer %1 %2 %3").arg(part->id).arg(layer).arg(gesture));
}

} // namespace cobbleway
