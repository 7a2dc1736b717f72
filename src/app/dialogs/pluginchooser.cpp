#include "app/dialogs/pluginchooser.h"

#include "app/dialogs/plugincontrols.h"
#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/rowlist.h"
#include "song/shape/edits.h"

#include <QCheckBox>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>

namespace cobbleway {
namespace {

constexpr int countRole = Qt::UserRole + 1;

/// A row with a number at its end.
class CountedRow final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        QStyledItemDelegate::paint(painter, option, index);
        const Mirrored mirrored(*painter, option.rect, option.direction);
        paintText(*painter, QRectF(option.rect).adjusted(0, 0, -10, 0), index.data(countRole).toString(),
                  textFont(9), theme().muted, Qt::AlignRight | Qt::AlignVCenter);
    }
};

} // namespace

PluginChooser::PluginChooser(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> session, Of of,
                             PartId part, QWidget* parent)
    : Form(of == Of::Effects ? tr("Add an effect") : tr("Choose an instrument"), parent), m_session(session),
      m_of(of), m_part(part), m_model(new PluginList(session, of, this)), m_search(new QLineEdit),
      m_groups(new QuietView<QListWidget>), m_list(new RowList), m_state(mutedLabel()) {
    const Part* its = session.current.song().part(part);
    m_where = its ? QString::fromStdString(its->name) : tr("the whole mix");
    setHeading(
        (of == Of::Effects ? tr("Add an effect to %1") : tr("Choose an instrument for %1")).arg(m_where));
    constexpr int wide = 960;
    setPreferredWidth(wide);
    m_search->setPlaceholderText(tr("name, maker, kind"));
    m_search->setAccessibleName(tr("Search"));
    m_search->setObjectName(QStringLiteral("pluginSearch"));
    m_search->addAction(icon(QStringLiteral("search"), theme().muted), QLineEdit::LeadingPosition);
    m_search->setClearButtonEnabled(true);
    m_search->installEventFilter(this);
    auto* top = new QHBoxLayout;
    top->addWidget(m_search, 1);
    top->addWidget(m_state, 1);
    column()->addLayout(top);
    m_list->setModel(m_model);
    m_list->setItemDelegate(PluginList::makeRows(m_list));
    m_list->setAccessibleName(of == Of::Effects ? tr("Effects") : tr("Instruments"));
    m_list->setObjectName(QStringLiteral("pluginList"));
    m_list->setMinimumSize(180, 210);
    m_empty = mutedLabel(tr("Nothing fits. Use fewer words, or look under All."));
    m_empty->setWordWrap(true);
    auto* middle = new Card;
    middle->column()->setContentsMargins(6, 6, 6, 6);
    middle->column()->addWidget(m_empty);
    middle->column()->addWidget(m_list, 1);
    auto* across = new QHBoxLayout;
    across->setSpacing(12);
    across->addWidget(makeGroups());
    across->addWidget(middle, 3);
    across->addWidget(makeCard(), 3);
    column()->addLayout(across, 1);
    m_take = addButtons(of == Of::Effects ? tr("&Add it") : tr("&Use it"), tr("Close"));
    connect(m_search, &QLineEdit::textChanged, this, [this](const QString& text) {
        const QSignalBlocker quiet(m_groups); // words are looked for among all
        if (!text.trimmed().isEmpty()) m_groups->setCurrentRow(m_groups->count() - 2);
        filter();
    });
    connect(m_groups, &QListWidget::currentRowChanged, this, &PluginChooser::filter);
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this,
            &PluginChooser::showCurrent);
    connect(m_list, &QListView::doubleClicked, this, [this] {
        if (m_take->isEnabled()) accept();
    });
    connect(m_model, &QAbstractItemModel::modelReset, this, [this] {
        fillGroups();
        const int row = m_model->rowOf(m_shown);
        m_list->setCurrentIndex(m_model->index(std::max(0, row)));
        showCurrent();
    });
    connect(&session.sounds, &Sounds::pluginsChanged, this, &PluginChooser::showState);
    connect(this, &QDialog::accepted, this, &PluginChooser::take);
    follow(session.current, Side::File, this, &QDialog::reject); // another song is shown
    filter();
    showState();
}

PluginChooser::~PluginChooser() { hear(false); }

/// The kinds, and those that are kept; a row tells how many are in it.
QWidget* PluginChooser::makeGroups() {
    m_groups->setAccessibleName(tr("Kinds"));
    m_groups->setObjectName(QStringLiteral("pluginGroups"));
    m_groups->setItemDelegate(new CountedRow(m_groups));
    m_groups->setFixedWidth(168);
    m_groups->setMinimumHeight(120);
    const auto add = [this](int group) {
        auto* item = new QListWidgetItem(m_groups);
        item->setData(Qt::UserRole, group);
    };
    if (m_of == Of::Effects) add(suggestedPlugins);
    add(favouritePlugins);
    add(lastUsedPlugins);
    for (int kind = 0; kind < pluginKindCount && m_of == Of::Effects; ++kind) add(kind);
    add(allPlugins);
    add(unusablePlugins);
    fillGroups();
    m_groups->setCurrentRow(m_of == Of::Effects ? 0 : m_groups->count() - 2);
    return m_groups;
}

void PluginChooser::fillGroups() {
    for (int row = 0; row < m_groups->count(); ++row) {
        QListWidgetItem* item = m_groups->item(row);
        const int group = item->data(Qt::UserRole).toInt();
        const int count = m_model->countIn(group, m_search->text());
        item->setText(QString::fromStdString(pluginGroupName(group)));
        item->setData(countRole, count);
        item->setData(Qt::AccessibleTextRole, tr("%1, %2").arg(item->text()).arg(count));
    }
}

QWidget* PluginChooser::makeCard() {
    auto* card = new Card;
    m_name = titleLabel();
    m_name->setWordWrap(true);
    m_facts = mutedLabel();
    m_facts->setWordWrap(true);
    m_hear = button(m_of == Of::Effects ? tr("&Hear it here") : tr("&Hear it"));
    m_hear->setCheckable(true);
    m_hear->setAutoDefault(false);
    m_hear->setObjectName(QStringLiteral("hearPlugin"));
    m_hear->setToolTip(tr("Play the song with it, without keeping it; press again to hear the song without"));
    m_favourite = new QCheckBox(tr("&Favourite"));
    m_favourite->setObjectName(QStringLiteral("favouritePlugin"));
    m_controls = new PluginControls(m_session);
    card->column()->addWidget(m_name);
    card->column()->addWidget(m_facts);
    card->column()->addLayout(row({m_hear, m_favourite}));
    card->column()->addWidget(m_controls, 1);
    card->setMinimumWidth(220);
    connect(m_hear, &QPushButton::toggled, this, &PluginChooser::hear);
    connect(m_favourite, &QCheckBox::toggled, this, [this](bool on) {
        const PluginChoice* choice = current();
        if (!choice || on == m_model->isFavourite(choice->plugin.uri)) return;
        m_model->setFavourite(choice->plugin.uri, on);
        fillGroups();
    });
    connect(m_controls, &PluginControls::changed, this, [this](const PluginSettings& settings) {
        m_settings = settings;
        if (m_hear->isChecked()) m_session.sounds.hearEdited(edit());
    });
    return card;
}

bool PluginChooser::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_search && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int step = key == Qt::Key_Down ? 1 : key == Qt::Key_Up ? -1 : 0;
        if (step != 0 && m_model->rowCount() > 0) {
            const int row = m_list->currentIndex().row() + step;
            m_list->setCurrentIndex(m_model->index(std::clamp(row, 0, m_model->rowCount() - 1)));
            return true;
        }
    }
    return Form::eventFilter(watched, event);
}

const PluginChoice* PluginChooser::current() const { return m_model->at(m_list->currentIndex().row()); }

void PluginChooser::filter() {
    const QListWidgetItem* group = m_groups->currentItem();
    m_shown.clear(); // the best hit is taken
    m_model->show(group ? group->data(Qt::UserRole).toInt() : allPlugins, m_search->text());
    m_list->scrollToTop();
}

void PluginChooser::showState() {
    const QString tried = m_session.sounds.pluginBeingTried();
    m_state->setText(tried.isEmpty() ? QString() : tr("Looking at %1; this goes on quietly").arg(tried));
}

void PluginChooser::showCurrent() {
    const PluginChoice* choice = current();
    m_empty->setVisible(m_model->rowCount() == 0);
    const QString uri = choice ? QString::fromStdString(choice->plugin.uri) : QString();
    const bool another = uri != m_shown;
    m_shown = uri;
    m_name->setText(choice ? QString::fromStdString(choice->plugin.name) : QString());
    QStringList facts;
    if (choice && choice->why) {
        facts << sentence(*choice->why);
    } else if (choice) {
        if (m_of == Of::Effects)
            facts << QString::fromStdString(pluginGroupName(static_cast<int>(choice->plugin.kind)));
        facts << factsOf(choice->plugin)
              << (choice->plugin.controls == 1 ? tr("1 control")
                                               : tr("%1 controls").arg(choice->plugin.controls));
    }
    m_facts->setText(facts.join(QStringLiteral(" · ")));
    const bool usable = choice && !choice->why;
    m_take->setEnabled(usable);
    m_hear->setEnabled(usable);
    m_favourite->setEnabled(usable);
    m_favourite->setChecked(choice && m_model->isFavourite(choice->plugin.uri));
    if (!another) return;
    m_settings = {};
    m_controls->show(usable ? uri : QString(), {});
    if (!m_hear->isChecked()) return;
    if (usable)
        m_session.sounds.hearEdited(edit());
    else
        m_hear->setChecked(false);
}

std::function<Song(const Song&)> PluginChooser::edit() const {
    const PluginInfo& plugin = current()->plugin;
    if (m_of == Of::Effects)
        return [part = m_part, effect = Effect{plugin.uri, plugin.name, m_settings, true}](const Song& song) {
            const Part* its = song.part(part);
            auto effects = its ? its->mix.effects : song.effects;
            effects.push_back(effect);
            return edits::setEffects(song, part, effects);
        };
    const SoundRef sound{plugin.uri, 0, 0, plugin.name, SoundKind::Plugin, 0};
    return [part = m_part, sound, settings = m_settings](const Song& song) {
        return edits::setSettings(edits::chooseSound(song, part, sound), part, settings);
    };
}

/// The song plays on, or begins to; it stops with what began it.
void PluginChooser::hear(bool on) {
    if (on && current()) {
        m_session.sounds.hearEdited(edit());
        m_beganPlaying = !m_session.transport.isPlaying();
        if (m_beganPlaying) m_session.transport.togglePlay();
        return;
    }
    m_session.sounds.hearEdited(nullptr);
    if (std::exchange(m_beganPlaying, false) && m_session.transport.isPlaying())
        m_session.transport.togglePlay();
}

void PluginChooser::take() {
    const PluginChoice* choice = current();
    if (!choice || choice->why) return;
    const QString name = QString::fromStdString(choice->plugin.name);
    m_model->noteUsed(choice->plugin.uri);
    const QString step =
        m_of == Of::Effects ? tr("Add %1 to %2").arg(name, m_where) : tr("Use %1 for %2").arg(name, m_where);
    m_session.current.edit(step, edit());
}

} // namespace cobbleway
