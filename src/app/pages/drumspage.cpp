#include "app/pages/drumspage.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/pages/drumrow.h"
#include "app/session/session.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/kitpicture.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/painting.h"
#include "app/widgets/plots.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "song/match/drumlikeness.h"
#include "song/shape/edits.h"

#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>
#include <QSpinBox>
#include <QTimer>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr int hitMilliseconds = 250; // of a note that is heard

QLabel* oneLine(QLabel* label) {
    label->setWordWrap(false);
    return label;
}

} // namespace

DrumsPage::DrumsPage(Session session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new DrumsModel(session, this)), m_rows(new RowList),
      m_heading(new DrumHeading), m_stack(new PageStack) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new DrumRow(m_model, m_rows));
    m_rows->setAccessibleName(tr("Drum notes"));
    m_rows->setObjectName(QStringLiteral("drumRows"));
    m_rows->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_rows->setEditTriggers(QAbstractItemView::DoubleClicked);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setDragEnabled(true);
    m_rows->setAcceptDrops(true);
    m_rows->setDropIndicatorShown(true);
    m_rows->setDragDropMode(QAbstractItemView::DragDrop);
    m_rows->installEventFilter(this);
    m_rows->viewport()->installEventFilter(this);

    auto* left = new QVBoxLayout;
    left->setSpacing(2);
    left->addWidget(m_heading);
    left->addWidget(m_rows, 1);
    auto* notes = new QWidget;
    auto* columns = new QHBoxLayout(notes);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(12);
    columns->addLayout(left, 1);
    columns->addWidget(makeNoteCard());
    m_stack->addWidget(notes);
    m_stack->addWidget(makeNothing());
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addWidget(makeTop());
    layout->addWidget(m_hint);
    layout->addWidget(m_stack, 1);

    connect(m_rows->selectionModel(), &QItemSelectionModel::currentChanged, this, &DrumsPage::refreshNote);
    connect(m_rows->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        refreshNote();
        if (!m_session.sounds.heardOnly().empty()) hearOnly(true);
    });
    connect(m_model, &QAbstractItemModel::modelReset, this, [this] {
        if (m_model->rowCount() > 0 && !m_rows->currentIndex().isValid())
            m_rows->setCurrentIndex(m_model->index(0));
        refreshNote();
    });
    follow(session.current, Side::Names | Side::Notes | Side::Time | Side::Sounds, this, &DrumsPage::refresh);
    connect(&session.findings, &Findings::matchesChanged, this, &DrumsPage::refresh);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &DrumsPage::refresh);
    connect(&session.transport, &Transport::loopChanged, this, &DrumsPage::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, [this] {
        m_session.sounds.hearOnly({});
        refresh();
    });
    connect(themeSignal(), &ThemeSignal::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

QWidget* DrumsPage::makeTop() {
    m_facts = mutedLabel();
    m_hint = mutedLabel();
    m_hint->setObjectName(QStringLiteral("kitHint"));
    m_parts = new QComboBox;
    m_parts->setAccessibleName(tr("Drum part"));
    m_parts->setObjectName(QStringLiteral("drumParts"));
    m_kits = new QComboBox;
    m_kits->setAccessibleName(tr("Kit"));
    m_kits->setObjectName(QStringLiteral("kits"));
    m_kits->setMinimumWidth(170);
    m_kits->setMaximumWidth(230);
    m_kits->view()->setMinimumWidth(330);
    m_order = new Segments({tr("Key"), tr("Piece"), tr("Hits")}, tr("Order of the notes"));
    m_all = new QCheckBox(tr("All keys"));
    m_all->setObjectName(QStringLiteral("allKeys"));
    m_topLine = new QWidget;
    auto* line = new QHBoxLayout(m_topLine);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    line->addWidget(titleLabel(tr("Drums")));
    line->addWidget(m_parts);
    line->addWidget(m_facts, 1);
    line->addWidget(m_order);
    line->addWidget(m_all);
    auto* kitLabel = oneLine(mutedLabel(tr("Kit")));
    kitLabel->setBuddy(m_kits);
    line->addWidget(kitLabel);
    line->addWidget(m_kits);
    connect(m_parts, &QComboBox::activated, this,
            [this](int index) { m_session.current.selectPart(m_parts->itemData(index).toInt()); });
    connect(m_kits, &QComboBox::activated, this, [this](int index) {
        const PartId id = part();
        const QString gesture = QStringLiteral("kit %1").arg(id); // arrows go through kits in one edit
        if (index <= 0)
            return m_session.current.edit(
                tr("Kit as the file asks"), [id](const Song& song) { return edits::followFile(song, id); },
                gesture);
        const auto at = static_cast<std::size_t>(m_kits->itemData(index).toInt());
        if (at >= m_fits.size()) return;
        m_session.current.edit(
            tr("Use %1").arg(QString::fromStdString(m_fits[at].sound.name)),
            [id, kit = m_fits[at].sound](const Song& song) { return edits::chooseSound(song, id, kit); },
            gesture);
    });
    connect(m_order, &Segments::chosen, this, [this](int order) {
        const DrumNote* note = current();
        const Key key = note ? note->key : Key{};
        m_order->setCurrent(order);
        m_model->setOrder(static_cast<DrumsModel::Order>(order));
        if (const QModelIndex row = m_model->indexOf(key); row.isValid()) m_rows->setCurrentIndex(row);
    });
    connect(m_all, &QCheckBox::toggled, this, [this](bool all) {
        const DrumNote* note = current();
        const Key key = note ? note->key : Key{};
        m_model->setAll(all);
        if (const QModelIndex row = m_model->indexOf(key); row.isValid()) m_rows->setCurrentIndex(row);
    });
    m_order->setCurrent(0);
    return m_topLine;
}

QWidget* DrumsPage::makeNoteCard() {
    auto* card = new Card;
    QVBoxLayout* column = card->column();
    column->setSpacing(6);
    m_note = titleLabel();
    m_noteFacts = mutedLabel();
    m_name = new QLineEdit;
    m_name->setObjectName(QStringLiteral("drumName"));
    m_name->setAccessibleName(tr("Name of the note"));
    m_name->setMaxLength(64);
    m_plays = new QComboBox;
    m_plays->setObjectName(QStringLiteral("plays"));
    m_plays->setAccessibleName(tr("Plays key"));
    m_plays->setMaxVisibleItems(14);
    m_histogram = new VelocityHistogram;
    m_louder = new QSpinBox;
    m_louder->setRange(-126, 126);
    m_louder->setObjectName(QStringLiteral("louder"));
    m_louder->setAccessibleName(tr("Softer or harder by, in velocity"));
    m_spread = new QSpinBox;
    m_spread->setRange(0, 100);
    m_spread->setSuffix(tr(" %"));
    m_spread->setObjectName(QStringLiteral("spread"));
    m_spread->setAccessibleName(tr("Spread of velocities"));
    for (QSpinBox* box : {m_louder, m_spread}) box->setFixedWidth(74);
    const auto labelled = [](const QString& text, QWidget* control) {
        auto* label = oneLine(mutedLabel(text));
        label->setBuddy(control);
        return label;
    };
    auto* plays = new QHBoxLayout;
    plays->addWidget(labelled(tr("Plays"), m_plays));
    plays->addWidget(m_plays, 1);
    auto* trim = new QHBoxLayout;
    trim->addWidget(labelled(tr("Velocity"), m_louder));
    trim->addWidget(m_louder);
    trim->addStretch();
    trim->addWidget(labelled(tr("Spread"), m_spread));
    trim->addWidget(m_spread);
    m_noteLine = new QWidget;
    new FlowLayout(6, m_noteLine);
    m_silent = mutedLabel();
    m_silent->setObjectName(QStringLiteral("silentNote"));
    m_instead = button(QString(), true);
    m_instead->setObjectName(QStringLiteral("instead"));
    m_pieceButtons = new QWidget;
    m_pieceKeys = new GridKeys(this, GridKeys::Rows::Wrapped);
    auto* pieces = new FlowLayout(5, m_pieceButtons);
    for (int piece = 0; piece < pieceCount; ++piece) {
        auto* choose = button(pieceText(static_cast<DrumPiece>(piece)));
        choose->setCheckable(true);
        choose->setFont(textFont(9));
        choose->setAccessibleName(tr("Select the notes: %1").arg(choose->text()));
        pieces->addWidget(choose);
        m_pieces.push_back(choose);
        connect(choose, &QPushButton::toggled, this, [this, piece] { // so that a screen reader can
            std::vector<std::uint8_t> keys;
            for (const DrumNote& note : m_model->notes())
                if (static_cast<int>(note.piece) == piece) keys.push_back(note.key.value);
            selectKeys(keys);
            refreshPieces();
        });
    }
    m_pieceLine = new QWidget;
    new FlowLayout(6, m_pieceLine);
    m_kit = new KitPicture;
    column->addWidget(m_note);
    column->addWidget(m_name);
    column->addWidget(m_noteFacts);
    column->addLayout(plays);
    column->addWidget(m_silent);
    column->addWidget(m_instead);
    column->addWidget(m_histogram);
    column->addLayout(trim);
    column->addWidget(m_noteLine);
    column->addWidget(m_pieceButtons);
    column->addWidget(m_pieceLine);
    column->addWidget(m_kit, 1);

    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        const DrumNote* note = current();
        const std::string name = m_name->text().toStdString();
        if (m_filling || !note || name == note->name) return;
        m_model->setData(m_rows->currentIndex(), m_name->text(), Qt::EditRole);
    });
    connect(m_plays, &QComboBox::highlighted, this, [this](int index) {
        if (!m_filling && m_plays->view()->isVisible())
            play(Key{static_cast<std::uint8_t>(m_plays->itemData(index).toInt())});
    });
    connect(m_plays, &QComboBox::activated, this, [this](int index) {
        const Key target{static_cast<std::uint8_t>(m_plays->itemData(index).toInt())};
        edit(
            tr("Play %1").arg(m_plays->itemText(index)),
            [target](const Song& song, PartId id, const std::vector<Key>& keys) {
                return edits::setDrumTarget(song, id, keys, target);
            },
            "plays");
        play(target);
    });
    const auto trimTo = [this](auto change) {
        return [this, change](int value) {
            const DrumNote* note = current();
            if (m_filling || !note) return;
            VelocityShape shape = note->trim;
            change(shape, value);
            edit(
                tr("Trim drums"),
                [shape](const Song& song, PartId id, const std::vector<Key>& keys) {
                    return edits::setDrumTrim(song, id, keys, shape);
                },
                "trim");
        };
    };
    connect(m_louder, &QSpinBox::valueChanged, this,
            trimTo([](VelocityShape& shape, int value) { shape.offset = value; }));
    connect(m_spread, &QSpinBox::valueChanged, this,
            trimTo([](VelocityShape& shape, int value) { shape.compress = 1 - value / 100.0; }));
    connect(m_instead, &QPushButton::clicked, this, [this] {
        const DrumNote* note = current();
        if (!note || !note->instead) return;
        m_session.current.edit(tr("Play %1 instead").arg(note->instead->key.value),
                               [id = part(), key = note->key, target = note->instead->key](const Song& song) {
                                   return edits::setDrumTarget(song, id, {key}, target);
                               });
    });
    connect(m_kit, &KitPicture::struck, this, [this](int key) {
        const Key struck{static_cast<std::uint8_t>(key)};
        if (const QModelIndex row = m_model->indexOf(struck); row.isValid()) m_rows->setCurrentIndex(row);
        const Part* shown = m_session.current.hasSong() ? m_session.current.song().part(part()) : nullptr;
        if (shown) play(shown->recipe.drumPlan(struck).target.value_or(struck));
    });
    auto* scroll = new FocusScroll(card); // of a window that is low
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFixedWidth(286);
    return scroll;
}

QWidget* DrumsPage::makeNothing() {
    auto* card = new Card;
    m_nothing = mutedLabel();
    m_nothing->setObjectName(QStringLiteral("noDrums"));
    m_noneLine = new QWidget;
    new FlowLayout(8, m_noneLine);
    card->column()->addWidget(titleLabel(tr("No drum part")));
    card->column()->addWidget(m_nothing);
    card->column()->addWidget(m_noneLine);
    card->column()->addStretch();
    return card;
}

void DrumsPage::addActions(const QList<QAction*>& above, const QList<QAction*>& note,
                           const QList<QAction*>& piece, const QList<QAction*>& none) {
    for (QAction* action : above) m_topLine->layout()->addWidget(actionButton(action, 9));
    for (QAction* action : note) m_noteLine->layout()->addWidget(actionButton(action, 9));
    for (QAction* action : piece) m_pieceLine->layout()->addWidget(actionButton(action, 9));
    for (QAction* action : none) m_noneLine->layout()->addWidget(actionButton(action));
}

void DrumsPage::takeSelection() {
    const Part* selected = m_session.current.part();
    if (!m_session.current.hasSong() || (selected && selected->source.drums)) return;
    for (const Part& each : m_session.current.song().parts)
        if (each.source.drums && !each.aside) return m_session.current.selectPart(each.id);
}

const DrumNote* DrumsPage::current() const { return m_model->note(m_rows->currentIndex()); }

std::vector<Key> DrumsPage::selectedKeys() const {
    std::vector<Key> keys;
    for (const QModelIndex& index : m_rows->selectionModel()->selectedRows())
        if (const DrumNote* note = m_model->note(index)) keys.push_back(note->key);
    if (const DrumNote* note = current();
        note && std::find(keys.begin(), keys.end(), note->key) == keys.end())
        keys.assign(1, note->key);
    std::sort(keys.begin(), keys.end());
    return keys;
}

void DrumsPage::selectKeys(const std::vector<std::uint8_t>& keys) {
    QItemSelection rows;
    QModelIndex first;
    for (const std::uint8_t key : keys) {
        const QModelIndex index = m_model->indexOf(Key{key});
        if (!index.isValid()) continue;
        rows.select(index, index);
        if (!first.isValid()) first = index;
    }
    if (!first.isValid()) return;
    m_rows->selectionModel()->setCurrentIndex(first, QItemSelectionModel::NoUpdate);
    m_rows->selectionModel()->select(rows, QItemSelectionModel::ClearAndSelect);
}

DrumPiece DrumsPage::selectedPiece() const { return current() ? current()->piece : DrumPiece::Other; }

DrumNames DrumsPage::namesShown() const {
    DrumNames names;
    for (const DrumNote& note : m_model->notes()) names[note.key.value] = note.name;
    return names;
}

void DrumsPage::edit(const QString& name,
                     const std::function<Song(const Song&, PartId, const std::vector<Key>&)>& change,
                     const char* gesture) {
    const auto keys = selectedKeys();
    if (keys.empty()) return;
    m_session.current.edit(
        name, [&, id = part()](const Song& song) { return change(song, id, keys); },
        *gesture ? QStringLiteral("%1 %2 %3").arg(QLatin1String(gesture)).arg(part()).arg(keys.front().value)
                 : QString());
}

void DrumsPage::trimBy(const std::vector<Key>& keys, int by) {
    m_session.current.edit(
        tr("Trim drums"),
        [&, id = part()](const Song& song) {
            Song trimmed = song;
            for (const Key key : keys) {
                VelocityShape shape = song.part(id)->recipe.drumPlan(key).trim;
                shape.offset += by;
                trimmed = edits::setDrumTrim(std::move(trimmed), id, {key}, shape);
            }
            return trimmed;
        },
        QStringLiteral("trim %1 %2").arg(part()).arg(keys.empty() ? 0 : keys.front().value));
    if (const DrumNote* note = current())
        Q_EMIT m_session.messages.announced(note->trim.offset ? trimText(note->trim) : tr("as struck"));
}

void DrumsPage::play(Key key) {
    Player& player = m_session.transport.player();
    player.audition(part(), key, Velocity{100});
    QTimer::singleShot(hitMilliseconds, this, [this, id = part(), key] {
        m_session.transport.player().audition(id, key, Velocity{0});
    });
}

void DrumsPage::hear() {
    if (const DrumNote* note = current()) play(note->plays);
}

void DrumsPage::hearOnly(bool only) { m_session.sounds.hearOnly(only ? selectedKeys() : std::vector<Key>{}); }

void DrumsPage::nameSelected() {
    if (m_rows->currentIndex().isValid()) m_rows->edit(m_rows->currentIndex());
}

void DrumsPage::loopBars() {
    const DrumNote* note = current();
    if (!note) return;
    const Song& song = m_session.current.song();
    const Part* shown = song.part(part());
    const auto runs = shown ? barRunsOf(song, shown->source, note->key) : std::vector<std::pair<int, int>>{};
    if (runs.empty()) return;
    const Loop& now = m_session.transport.loop();
    const int after = song.tempo->position(now.on ? now.end : m_session.transport.place()).bar;
    const auto next = std::find_if(runs.begin(), runs.end(), [&](const auto& run) {
        return now.on ? run.first >= after : run.second >= after;
    });
    const auto [first, last] = next == runs.end() ? runs.front() : *next;
    const Tick start = song.tempo->barStart(first);
    m_session.transport.setLoop({start, std::min(song.tempo->barStart(last + 1), song.end), true});
    m_session.transport.seek(start);
}

void DrumsPage::refresh() {
    const Part* selected = m_session.current.part();
    PartId shown = 0;
    if (m_session.current.hasSong()) {
        for (const Part& each : m_session.current.song().parts)
            if (each.source.drums && !each.aside && (shown == 0 || (selected && selected->id == each.id)))
                shown = each.id;
    }
    m_model->setPart(shown);
    const bool any = shown != 0;
    m_stack->setCurrentIndex(any ? 0 : 1);
    for (QWidget* control : std::initializer_list<QWidget*>{m_kits, m_order, m_all}) control->setEnabled(any);
    if (!m_session.current.hasSong()) {
        m_facts->clear();
        m_nothing->setText(tr("Add a song, and its drums appear here."));
    } else if (!any) {
        QStringList alike;
        for (const Part& each : m_session.current.song().parts)
            if (whyDrums(m_session.current.song(), each)) alike << QString::fromStdString(each.name);
        m_facts->clear();
        m_nothing->setText(
            alike.isEmpty()
                ? tr("This song has no drums. A plain beat keeps time while you practise.")
                : tr("This song has no drum part, but %1 seems to be drums.").arg(alike.join(tr(", "))));
    } else {
        int hits = 0;
        for (const DrumNote& note : m_model->view()->notes) hits += note.hits;
        const BarPrints& prints = *m_model->prints();
        const Loop& loop = m_session.transport.loop();
        const TempoMap& tempo = *m_session.current.song().tempo;
        QString where = loop.on ? tr("bars %1 to %2 of %3/%4")
                                      .arg(tempo.position(loop.start).bar)
                                      .arg(tempo.position(std::max(loop.start, loop.end - 1)).bar)
                                : tr("%1 bars of %2/%3").arg(m_session.current.song().bars());
        where = where.arg(prints.numerator).arg(prints.denominator);
        if (prints.swing)
            where += tr(", swing");
        else if (prints.triplets)
            where += tr(", triplets");
        m_facts->setText(
            tr("%1 hits on %2 notes · %3").arg(hits).arg(m_model->view()->notes.size()).arg(where));
    }
    refreshParts();
    refreshKits();
    refreshNote();
}

void DrumsPage::refreshParts() {
    const QSignalBlocker quiet(m_parts);
    m_parts->clear();
    if (m_session.current.hasSong())
        for (const Part& each : m_session.current.song().parts)
            if (each.source.drums && !each.aside)
                m_parts->addItem(QString::fromStdString(each.name), each.id);
    m_parts->setCurrentIndex(m_parts->findData(part()));
    m_parts->setVisible(m_parts->count() > 1);
}

void DrumsPage::refreshKits() {
    const QSignalBlocker quiet(m_kits);
    const Part* shown = m_session.current.hasSong() ? m_session.current.song().part(part()) : nullptr;
    const PartMatch* match = shown ? m_session.findings.matchOf(shown->id) : nullptr;
    if (!shown || !match || !m_model->view()) {
        m_kits->clear();
        m_fits.clear();
        m_hint->hide();
        return;
    }
    const Catalogue catalogue = catalogueFor(m_session.current.song(), m_session.sounds.catalogue());
    auto fits = kitsFor(*shown, *m_model->view()->hits, catalogue);
    const auto& plays = match->first().sound;
    int all = 0;
    for (const DrumNote& note : m_model->view()->notes) all += note.off ? 0 : note.hits;
    m_kits->clear();
    m_fits = std::move(fits);
    m_kits->addItem(
        shown->sound.chosen
            ? tr("As the file asks")
            : tr("%1, as the file asks").arg(plays ? QString::fromStdString(plays->name) : tr("No kit")));
    int chosen = 0;
    for (std::size_t i = 0; i < m_fits.size(); ++i) {
        const KitFit& fit = m_fits[i];
        const QString name = QString::fromStdString(fit.sound.name);
        m_kits->addItem(fit.sounding == all ? tr("%1 · all hits").arg(name)
                                            : tr("%1 · %2 of %3 hits").arg(name).arg(fit.sounding).arg(all),
                        static_cast<int>(i));
        m_kits->setItemData(m_kits->count() - 1, QString::fromStdString(fit.font), Qt::ToolTipRole);
        if (shown->sound.chosen && *shown->sound.chosen == fit.sound) chosen = m_kits->count() - 1;
    }
    if (shown->sound.chosen && chosen == 0) {
        m_kits->addItem(QString::fromStdString(shown->sound.chosen->name), static_cast<int>(m_fits.size()));
        chosen = m_kits->count() - 1;
    }
    m_kits->setCurrentIndex(chosen);
    const auto hint = kitHintFor(m_session.current.song(), *shown, *m_model->view()->hits);
    const bool other = hint && (!plays || plays->program != hint->program.value);
    m_hint->setVisible(other);
    m_hint->setText(other ? sentence(hint->why) : QString());
}

void DrumsPage::refreshNote() {
    const DrumNote* note = current();
    m_filling = true;
    for (QWidget* control : std::initializer_list<QWidget*>{m_name, m_plays, m_louder, m_spread, m_kit})
        control->setEnabled(note != nullptr);
    const auto keys = selectedKeys();
    m_note->setText(
        !note ? QString()
        : keys.size() > 1
            ? tr("%1 notes").arg(keys.size())
            : QStringLiteral("%1 %2").arg(note->key.value).arg(QString::fromStdString(note->name)));
    m_noteFacts->setText(!note ? QString()
                         : note->hits == 0
                             ? tr("not used in this part")
                             : tr("%1, velocities range from %2 to %3")
                                   .arg(note->hits == 1 ? tr("1 hit") : tr("%1 hits").arg(note->hits))
                                   .arg(note->lowestVelocity)
                                   .arg(note->highestVelocity));
    if (!m_name->hasFocus()) m_name->setText(note ? QString::fromStdString(note->name) : QString());
    m_plays->clear();
    if (note && m_model->view()) {
        const KitKeys& kit = m_model->view()->kit.keys;
        for (int k = 0; k < 128; ++k) {
            const Key key{static_cast<std::uint8_t>(k)};
            if (!kit.soundsAtAll(key) && key != note->plays) continue;
            const auto gm = drumName(key);
            const std::string name = !kit.name(key).empty() ? kit.name(key)
                                     : gm.empty()           ? keyName(key)
                                                            : std::string(gm);
            m_plays->addItem(QStringLiteral("%1 %2").arg(k).arg(QString::fromStdString(name)), k);
        }
        m_plays->setCurrentIndex(m_plays->findData(note->plays.value));
        const auto& hits = *m_model->view()->hits;
        m_histogram->setHits(hits.before[note->key.value & 0x7FU], hits.after[note->key.value & 0x7FU]);
        m_louder->setValue(note->trim.offset);
        m_spread->setValue(static_cast<int>(std::lround((1 - note->trim.compress) * 100)));
    } else {
        m_histogram->setHits({}, {});
    }
    const bool silent = note && note->silent > 0;
    m_silent->setVisible(silent);
    m_instead->setVisible(silent && note->instead);
    if (silent) {
        m_silent->setText(note->instead
                              ? tr("The kit has no sound here. %1").arg(sentence(note->instead->why))
                              : tr("The kit has no sound here, and no other key that fits."));
        if (note->instead) m_instead->setText(tr("Play %1 instead").arg(note->instead->key.value));
    }
    m_kit->setNotes(m_model->notes(), note ? note->key : Key{255});
    m_filling = false;
    refreshPieces();
}

void DrumsPage::refreshPieces() {
    std::array<bool, pieceCount> there{}, all{};
    all.fill(true);
    const auto keys = selectedKeys();
    for (const DrumNote& note : m_model->notes()) {
        const auto piece = static_cast<std::size_t>(note.piece);
        there[piece] = there[piece] || note.hits > 0;
        if (note.hits > 0 && std::find(keys.begin(), keys.end(), note.key) == keys.end()) all[piece] = false;
    }
    m_pieceKeys->clear();
    for (std::size_t i = 0; i < m_pieces.size(); ++i) {
        m_pieces[i]->setVisible(there[i]);
        const QSignalBlocker shown(m_pieces[i]); // not chosen
        m_pieces[i]->setChecked(there[i] && all[i]);
        if (there[i]) m_pieceKeys->addRow({m_pieces[i]});
    }
}

/// Left and right trim the selected notes, with Shift in large steps; Enter hears the note. The wheel trims
/// over the loudness.
bool DrumsPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_rows && event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        const int step = key->modifiers() & Qt::ShiftModifier ? 10 : 1;
        const auto plain = key->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier);
        if (plain == Qt::NoModifier && current()) {
            switch (key->key()) {
            case Qt::Key_Left: trimBy(selectedKeys(), -step); return true;
            case Qt::Key_Right: trimBy(selectedKeys(), step); return true;
            case Qt::Key_Return:
            case Qt::Key_Enter: hear(); return true;
            default: break;
            }
        }
    }
    if (watched == m_rows->viewport() && event->type() == QEvent::Wheel) {
        auto* wheel = static_cast<QWheelEvent*>(event);
        const QModelIndex row = m_rows->indexAt(wheel->position().toPoint());
        const QRect shown = m_rows->visualRect(row);
        const QRectF loudness =
            QStyle::visualRect(layoutDirection(), shown, DrumColumns(QRectF(shown)).loudness.toRect());
        if (const DrumNote* note = m_model->note(row); note && loudness.contains(wheel->position())) {
            const int by = wheel->angleDelta().y() > 0 ? 2 : -2;
            const auto keys = selectedKeys();
            const bool among = std::find(keys.begin(), keys.end(), note->key) != keys.end();
            trimBy(among ? keys : std::vector<Key>{note->key}, by);
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace cobbleway
