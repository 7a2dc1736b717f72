#include "app/dialogs/effectsdialog.h"
#include "app/widgets/rowlist.h"

#include "app/dialogs/pluginchooser.h"
#include "app/dialogs/plugincontrols.h"
#include "app/session/session.h"
#include "song/shape/edits.h"
#include "song/shape/pluginplace.h"

#include <QCheckBox>
#include <QListWidget>

namespace cobbleway {

EffectsDialog::EffectsDialog(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> session, Of of,
                             QWidget* parent)
    : Form(of == TheMix ? tr("Effects on the whole mix") : tr("Effects on a part"), parent),
      m_session(session), m_of(of), m_list(new QuietView<QListWidget>),
      m_add(button(tr("&Add an effect…"), true)), m_remove(button(tr("Remove"))), m_up(button(tr("Earlier"))),
      m_down(button(tr("Later"))), m_on(new QCheckBox(tr("Switched &on"))),
      m_controls(new PluginControls(session)) {
    setPreferredWidth(600);
    m_list->setAccessibleName(tr("Effects, in the order in which they work"));
    m_list->setObjectName(QStringLiteral("effects"));
    m_list->setMaximumHeight(120);
    m_add->setObjectName(QStringLiteral("addEffect"));
    m_add->setAutoDefault(false);
    column()->addWidget(m_list);
    column()->addLayout(row({m_add}));
    column()->addLayout(row({m_on, m_up, m_down, m_remove}));
    column()->addWidget(m_controls, 1);
    addButtons({}, tr("Close"));
    connect(m_add, &QPushButton::clicked, this, &EffectsDialog::addOne);
    connect(m_remove, &QPushButton::clicked, this, [this] {
        auto to = effects();
        if (m_list->currentRow() >= 0) to.erase(to.begin() + m_list->currentRow());
        change(tr("Remove an effect"), to);
    });
    connect(m_up, &QPushButton::clicked, this, [this] { move(-1); });
    connect(m_down, &QPushButton::clicked, this, [this] { move(1); });
    connect(m_list, &QListWidget::currentRowChanged, this, &EffectsDialog::refreshChoice);
    connect(m_on, &QCheckBox::toggled, this, [this](bool on) { // the same as the row's tick
        if (QListWidgetItem* item = m_filling ? nullptr : m_list->currentItem())
            item->setCheckState(on ? Qt::Checked : Qt::Unchecked);
    });
    connect(m_list, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (m_filling) return;
        auto to = effects();
        to[static_cast<std::size_t>(m_list->row(item))].on = item->checkState() == Qt::Checked;
        change(tr("Switch an effect"), to);
    });
    connect(m_controls, &PluginControls::filled, this, &Form::fit,
            Qt::QueuedConnection); // once it is laid out
    connect(m_controls, &PluginControls::changed, this,
            [this](const PluginSettings& settings, const QString& gesture) {
                const PluginPlace place{part(), -1, m_list->currentRow()};
                if (place.effect < 0) return;
                m_session.current.edit(
                    tr("Set an effect"),
                    [&](const Song& s) { return edits::setSettingsAt(s, place, settings); },
                    QStringLiteral("effect %1 %2").arg(place.effect).arg(gesture));
            });
    follow(session.current, Side::Sounds | Side::Names, this, &EffectsDialog::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &EffectsDialog::refresh);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &EffectsDialog::refresh);
    refresh();
}

/// It comes last, and is the one that is set next.
void EffectsDialog::addOne() {
    auto* chooser = new PluginChooser(m_session, PluginChooser::Of::Effects, part(), this);
    connect(chooser, &QDialog::accepted, this, [this] { m_list->setCurrentRow(m_list->count() - 1); });
    chooser->open();
}

const std::vector<Effect>& EffectsDialog::effects() const {
    static const std::vector<Effect> none;
    if (!m_session.current.hasSong()) return none;
    if (m_of == TheMix) return m_session.current.song().effects;
    return m_session.current.part() ? m_session.current.part()->mix.effects : none;
}

void EffectsDialog::change(const QString& name, const std::vector<Effect>& to, const QString& gesture) {
    m_session.current.edit(
        name, [&](const Song& s) { return edits::setEffects(s, part(), to); }, gesture);
}

PartId EffectsDialog::part() const { return m_of == TheMix ? 0 : m_session.current.selectedPart(); }

void EffectsDialog::move(int by) {
    auto to = effects();
    const int from = m_list->currentRow(), at = from + by;
    if (from < 0 || at < 0 || at >= static_cast<int>(to.size())) return;
    std::swap(to[static_cast<std::size_t>(from)], to[static_cast<std::size_t>(at)]);
    m_filling = true;
    m_list->setCurrentRow(at);
    m_filling = false;
    change(tr("Move an effect"), to);
}

void EffectsDialog::refresh() {
    m_filling = true;
    const Part* part = m_session.current.part();
    setHeading(m_of == TheMix ? tr("Effects of the whole mix")
               : part         ? tr("Effects of %1").arg(QString::fromStdString(part->name))
                              : windowTitle());
    m_add->setEnabled(m_session.current.hasSong());
    const int before = m_list->currentRow();
    m_list->clear();
    for (const Effect& effect : effects()) {
        const bool there = m_session.sounds.catalogue().plugin(effect.uri);
        auto* item =
            new QListWidgetItem(there ? QString::fromStdString(effect.name)
                                      : tr("%1 — not there now").arg(QString::fromStdString(effect.name)),
                                m_list);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(effect.on ? Qt::Checked : Qt::Unchecked);
        item->setData(Qt::AccessibleTextRole,
                      (effect.on ? tr("ticked, %1") : tr("not ticked, %1")).arg(item->text()));
    }
    m_list->setCurrentRow(std::clamp(before, m_list->count() ? 0 : -1, m_list->count() - 1));
    m_filling = false;
    refreshChoice();
}

void EffectsDialog::refreshChoice() {
    if (m_filling) return;
    const int at = m_list->currentRow();
    const bool any = at >= 0 && static_cast<std::size_t>(at) < effects().size();
    for (QPushButton* b : {m_remove, m_up, m_down}) b->setEnabled(any);
    m_on->setEnabled(any);
    m_filling = true;
    m_on->setChecked(any && effects()[static_cast<std::size_t>(at)].on);
    m_filling = false;
    m_controls->setVisible(any);
    if (!any) return m_controls->show({}, {});
    const Effect& effect = effects()[static_cast<std::size_t>(at)];
    const Part* of = m_session.current.song().part(part());
    m_controls->show(QString::fromStdString(effect.uri), effect.settings, {part(), -1, at},
                     tr("%1 – %2").arg(of ? QString::fromStdString(of->name) : tr("The whole mix"),
                                       QString::fromStdString(effect.name)));
}

} // namespace cobbleway
