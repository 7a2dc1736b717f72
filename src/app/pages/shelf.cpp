#include "app/pages/shelf.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/painting.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "app/widgets/surface.h"
#include "midi/gm.h"
#include "song/shape/edits.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QVBoxLayout>

namespace cobbleway {
namespace {

/// A sound on the shelf: name, font, number.
class ShelfRow final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {120, 26};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Mirrored mirrored(*painter, option.rect, option.direction);
        painter->setRenderHint(QPainter::Antialiasing);
        const bool current = option.state & QStyle::State_Selected;
        if (current) {
            painter->setPen(Qt::NoPen);
            painter->setBrush(theme().selected);
            painter->drawRoundedRect(QRectF(option.rect).adjusted(0, 1, -3, -1), 6, 6);
        }
        QRectF row = QRectF(option.rect).adjusted(9, 0, -12, 0);
        if (index.data(ShelfModel::FavouriteRole).toBool()) { // a stone before the name
            painter->setPen(Qt::NoPen);
            painter->setBrush(theme().ochre);
            painter->drawRoundedRect(QRectF(row.left(), row.center().y() - 3, 10, 6), 3, 3);
            row.setLeft(row.left() + 15);
        }
        const QFont font = textFont(9.5, current ? QFont::DemiBold : QFont::Normal);
        const QString number = index.data(ShelfModel::NumberRole).toString();
        const double width = QFontMetricsF(font).horizontalAdvance(number) + 8;
        row.setRight(row.right() - width);
        const QString name = index.data().toString();
        paintText(*painter, row, name, font, theme().ink);
        constexpr double gap = 8, leastPlace = 24;
        const QRectF place = row.adjusted(QFontMetricsF(font).horizontalAdvance(name) + gap, 0, 0, 0);
        if (place.width() >= leastPlace)
            paintText(*painter, place, index.data(ShelfModel::PlaceRole).toString(), textFont(8.5),
                      theme().muted);
        row.setRight(row.right() + width);
        paintText(*painter, row, number, textFont(9), theme().muted, Qt::AlignRight | Qt::AlignVCenter);
    }
};

} // namespace

Shelf::Shelf(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> session, QWidget* parent)
    : QFrame(parent), m_session(session), m_model(new ShelfModel(session, this)), m_list(new RowList),
      m_search(new QLineEdit), m_families(new QButtonGroup(this)), m_chips(new QWidget),
      m_familyBox(new QComboBox) {
    setProperty("card", true);
    setFixedWidth(292);
    m_count = mutedLabel();
    m_count->setAlignment(Qt::AlignRight);
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Sound shelf")));
    top->addWidget(m_count, 1);
    m_search->setPlaceholderText(tr("name, bank:program"));
    m_search->setAccessibleName(tr("Search the shelf"));
    m_search->addAction(icon(QStringLiteral("search"), theme().muted), QLineEdit::LeadingPosition);
    m_search->setClearButtonEnabled(true);
    m_search->setObjectName(QStringLiteral("shelfSearch"));
    auto* flow = new FlowLayout(4, m_chips);
    m_familyBox->setAccessibleName(tr("Family"));
    m_familyBox->addItem(tr("All sounds"), -1);
    m_families->setExclusive(false);
    auto* chipKeys = new GridKeys(this, GridKeys::Rows::Wrapped);
    const auto addChip = [&](const QString& text, int family) {
        auto* chip = new QPushButton(text);
        chip->setCheckable(true);
        chip->setProperty("look", "chip");
        chip->setFont(textFont(8.5));
        m_families->addButton(chip, family);
        flow->addWidget(chip);
        chipKeys->addRow({chip});
    };
    addChip(tr("Suggested"), ShelfModel::Suggested);
    addChip(tr("Favourites"), ShelfModel::Favourites);
    addChip(tr("Recent"), ShelfModel::Recent);
    for (int i = 0; i < familyCount; ++i) m_familyBox->addItem(QString::fromStdString(shelfFamilyName(i)), i);
    m_familyBox->setObjectName(QStringLiteral("shelfFamily"));
    m_familyBox->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_familyBox->setMinimumContentsLength(7);
    auto* search = new QHBoxLayout;
    search->setSpacing(6);
    search->addWidget(m_search, 1);
    search->addWidget(m_familyBox);
    m_list->setModel(m_model);
    m_list->setItemDelegate(new ShelfRow(m_list));
    m_list->setDragEnabled(true);
    m_list->setDragDropMode(QAbstractItemView::DragOnly);
    m_list->setAccessibleName(tr("Sounds"));
    m_list->setObjectName(QStringLiteral("shelfList"));
    m_list->setMinimumHeight(60);
    m_list->installEventFilter(this);
    m_search->installEventFilter(this);
    m_empty =
        mutedLabel(tr("No sound fits. Use fewer words, or add a soundfont under Fonts and instruments."));

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 10, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(search);
    layout->addWidget(m_chips);
    layout->addWidget(m_empty);
    layout->addWidget(m_list, 1);
    layout->addWidget(makePreview());

    connect(m_search, &QLineEdit::textChanged, this, &Shelf::filter);
    connect(m_families, &QButtonGroup::idToggled, this, [this](int id, bool on) {
        if (on) {
            m_familyBox->setCurrentIndex(0);
            for (QAbstractButton* other : m_families->buttons())
                if (m_families->id(other) != id) other->setChecked(false);
        }
        filter();
    });
    connect(m_familyBox, &QComboBox::activated, this, [this] {
        for (QAbstractButton* chip : m_families->buttons()) chip->setChecked(false);
        filter();
    });
    connect(m_list, &QListView::clicked, this, [this](const QModelIndex& index) { tryRow(index.row()); });
    connect(m_list, &QListView::doubleClicked, this, &Shelf::useCurrent);
    connect(&session.current, &CurrentSet::selectionChanged, this, &Shelf::refresh);
    follow(session.current, Side::Sounds, this, &Shelf::refresh);
    follow(session.current, Side::File, this, &Shelf::showAll);
    connect(&session.findings, &Findings::matchesChanged, this, &Shelf::refresh);
    connect(&session.sounds, &Sounds::triedChanged, this, &Shelf::showCurrent);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &Shelf::refresh);
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this, &Shelf::showCurrent);
    refresh();
}

QWidget* Shelf::makePreview() {
    auto* preview = new Card;
    preview->column()->setContentsMargins(10, 8, 10, 10);
    m_name = titleLabel();
    m_range = mutedLabel();
    m_range->setAlignment(Qt::AlignRight);
    auto* nameLine = new QHBoxLayout;
    nameLine->addWidget(m_name, 1);
    nameLine->addWidget(m_range);
    m_keyboard = new KeyboardPicture;
    m_hear = button(tr("Hear it"));
    m_hear->setCheckable(true);
    m_hear->setToolTip(tr("Play the selected part with this sound, without keeping it"));
    m_use = button(tr("Use it"), true);
    m_use->setObjectName(QStringLiteral("useSound"));
    m_alone = new QCheckBox(tr("Alone"));
    m_alone->setToolTip(tr("Only this part is heard while a sound is tried"));
    m_alone->setObjectName(QStringLiteral("tryAlone"));
    m_more = new QToolButton;
    m_more->setText(tr("More"));
    m_more->setAccessibleName(tr("More to do with this sound"));
    m_more->setPopupMode(QToolButton::InstantPopup);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_hear);
    buttons->addWidget(m_alone);
    buttons->addStretch();
    buttons->addWidget(m_more);
    preview->column()->addLayout(nameLine);
    preview->column()->addWidget(m_keyboard);
    preview->column()->addLayout(buttons);
    preview->column()->addWidget(m_use);
    connect(m_hear, &QPushButton::toggled, this, [this](bool on) {
        if (on == m_session.sounds.isTrying()) return;
        if (!on) return m_session.sounds.dropTried();
        tryRow(m_list->currentIndex().row());
        if (const auto sound = current())
            announce(this, tr("Trying %1").arg(QString::fromStdString(sound->name)));
    });
    connect(m_use, &QPushButton::clicked, this, &Shelf::useCurrent);
    connect(m_alone, &QCheckBox::toggled, &m_session.sounds, &Sounds::setTriesAlone);
    const auto note = [this](int velocity) {
        return [this, velocity](int key) {
            m_session.transport.player().audition(m_session.current.selectedPart(),
                                                  Key{static_cast<std::uint8_t>(key)},
                                                  Velocity{static_cast<std::uint8_t>(velocity)});
        };
    };
    connect(m_keyboard, &KeyboardPicture::pressed, this, note(96));
    connect(m_keyboard, &KeyboardPicture::released, this, note(0));
    return preview;
}

std::optional<SoundRef> Shelf::current() const {
    const QModelIndex index = m_list->currentIndex();
    return index.isValid() ? std::optional(m_model->soundAt(index.row())) : std::nullopt;
}

SoundRef Shelf::forPart(SoundRef sound) const {
    const PartMatch* match = m_session.findings.matchOf(m_session.current.selectedPart());
    if (sound.kind != SoundKind::Port || !match) return sound;
    const Ask& ask = match->asks.front();
    sound.program = ask.program.value_or(Program{0}).value;
    sound.bank = ask.bankMsb.value_or(0);
    return sound;
}

std::vector<PartId> Shelf::targets() const {
    std::vector<PartId> parts = m_targets ? m_targets() : std::vector<PartId>{};
    if (parts.empty()) parts = {m_session.current.selectedPart()};
    return parts;
}

void Shelf::useCurrent() {
    const auto sound = current();
    if (!sound || !m_session.current.part()) return;
    const auto parts = targets();
    m_session.sounds.trySound(forPart(*sound));
    m_session.sounds.keepTriedFor(parts);
    m_model->noteUsed(*sound);
}

void Shelf::useDropped(const QString& key) {
    for (const ShelfSound& entry : shelfOf(m_session.sounds.catalogue())) {
        if (soundKey(entry.sound) != key) continue;
        m_session.sounds.trySound(forPart(entry.sound));
        m_session.sounds.keepTried();
        m_model->noteUsed(entry.sound);
        return;
    }
}

void Shelf::useInSection() {
    const auto sound = current();
    if (!sound || !m_session.current.part()) return;
    const Song& song = m_session.current.song();
    const Tick place = m_session.transport.place();
    Tick start = 0, end = song.end;
    QString name = tr("the whole song");
    for (const Section& section : song.sections)
        if (section.start <= place && place < section.end) {
            start = section.start;
            end = section.end;
            name = QString::fromStdString(section.name);
        }
    m_session.sounds.dropTried();
    m_session.current.edit(tr("Use %1 in %2").arg(QString::fromStdString(sound->name), name),
                           [&, id = m_session.current.selectedPart()](const Song& s) {
                               return edits::chooseForStretch(s, id, start, end, forPart(*sound));
                           });
    m_model->noteUsed(*sound);
}

void Shelf::addAsLayer() {
    const auto sound = current();
    if (!sound || !m_session.current.part()) return;
    m_session.sounds.dropTried();
    m_session.current.edit(tr("Add %1 as a layer").arg(QString::fromStdString(sound->name)),
                           [&, id = m_session.current.selectedPart()](const Song& s) {
                               return edits::addLayer(s, id, forPart(*sound));
                           });
    m_model->noteUsed(*sound);
}

void Shelf::toggleFavourite() {
    if (const auto sound = current()) m_model->toggleFavourite(*sound);
}

/// The chip that is on, else the family that is chosen; −1 for all sounds.
int Shelf::wanted() const {
    const int chip = m_families->checkedId();
    return chip >= 0 ? chip : m_familyBox->currentData().toInt();
}

void Shelf::filter() {
    m_model->setFilter(m_search->text(), wanted());
    m_list->scrollToTop(); // where the best is
    refresh();
}

/// What was looked for was for the song that was shown.
void Shelf::showAll() {
    const QSignalBlocker quietSearch(m_search), quietFamilies(m_families);
    m_search->clear();
    m_familyBox->setCurrentIndex(0);
    for (QAbstractButton* chip : m_families->buttons()) chip->setChecked(false);
    filter();
}

bool Shelf::isSearched() const { return !m_search->text().trimmed().isEmpty(); }

void Shelf::tryRow(int row) {
    if (row < 0 || row >= m_model->rowCount()) return;
    m_session.sounds.trySound(forPart(m_model->soundAt(row)));
}

void Shelf::refresh() {
    const auto fonts = m_session.sounds.catalogue().fonts().size();
    const bool filtered = wanted() >= 0 || isSearched();
    m_count->setText(filtered ? tr("%1 found").arg(m_model->rowCount())
                              : tr("%1 sounds · %2")
                                    .arg(m_session.sounds.catalogue().soundCount())
                                    .arg(fonts == 1 ? tr("1 font") : tr("%1 fonts").arg(fonts)));
    m_empty->setVisible(m_model->rowCount() == 0);
    if (!m_session.sounds.isTrying() && isSearched()) { // what was searched for, not what the part has
        if (!m_list->currentIndex().isValid()) m_list->setCurrentIndex(m_model->index(0));
    } else if (!m_session.sounds.isTrying()) {
        const PartMatch* match = m_session.findings.matchOf(m_session.current.selectedPart());
        const QModelIndex wanted =
            match && match->first().sound ? m_model->indexOf(*match->first().sound) : QModelIndex();
        m_list->setCurrentIndex(wanted);
        if (wanted.isValid()) m_list->scrollTo(wanted, QAbstractItemView::PositionAtCenter);
    }
    showCurrent();
}

void Shelf::showCurrent() {
    const Part* part = m_session.current.part();
    const auto sound = current();
    const bool any = sound && part;
    const Preset* preset = sound ? m_session.sounds.catalogue().find(*sound) : nullptr;
    m_name->setText(sound ? QString::fromStdString(sound->name) : tr("Choose a sound"));
    const KeyRange span = preset ? preset->span() : KeyRange{};
    m_range->setText(preset
                         ? QStringLiteral("%1–%2").arg(
                               QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(span.lowest)})),
                               QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(span.highest)})))
                         : QString());
    static const Preset everyKey{0, 0, {}, {}, {{0, 127}}};
    m_keyboard->setPreset(preset || !sound ? preset : &everyKey);
    m_use->setEnabled(any);
    m_hear->setEnabled(any);
    m_hear->setChecked(m_session.sounds.isTrying());
    m_more->setEnabled(any);
    const auto parts = part ? targets().size() : 0;
    m_use->setText(parts > 1 ? tr("Use for %1 parts").arg(parts)
                             : (part ? tr("Use for %1")
                                           .arg(fontMetrics().elidedText(QString::fromStdString(part->name),
                                                                         Qt::ElideRight, 170))
                                     : tr("Use it")));
}

bool Shelf::takeKey(QObject* watched, int key) {
    if (watched == m_search && (key == Qt::Key_Return || key == Qt::Key_Enter)) {
        if (isSearched()) useCurrent();
        return true;
    }
    if (watched == m_search && key == Qt::Key_Down) {
        m_list->setFocus();
        if (!m_list->currentIndex().isValid()) m_list->setCurrentIndex(m_model->index(0));
        tryRow(m_list->currentIndex().row());
        return true;
    }
    if (watched != m_list) return false;
    switch (key) {
    case Qt::Key_Return:
    case Qt::Key_Enter: useCurrent(); return true;
    case Qt::Key_Escape:
        if (!m_session.sounds.isTrying()) return false;
        m_session.sounds.dropTried();
        refresh();
        return true;
    case Qt::Key_Up:
    case Qt::Key_Down: {
        const int row = std::clamp(m_list->currentIndex().row() + (key == Qt::Key_Up ? -1 : 1), 0,
                                   std::max(0, m_model->rowCount() - 1));
        m_list->setCurrentIndex(m_model->index(row));
        tryRow(row);
        return true;
    }
    default: return false;
    }
}

bool Shelf::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress && takeKey(watched, static_cast<QKeyEvent*>(event)->key()))
        return true;
    return QFrame::eventFilter(watched, event);
}

void Shelf::offer(const QList<QAction*>& actions) {
    auto* menu = new QMenu(m_more);
    menu->addActions(actions);
    m_more->setMenu(menu);
    for (QAction* action : actions) m_list->addAction(action);
    m_list->setContextMenuPolicy(Qt::ActionsContextMenu);
}

} // namespace cobbleway
