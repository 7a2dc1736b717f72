#include "app/pages/shelf.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "midi/gm.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListView>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace cobbleway {
namespace {

constexpr int kits = 16, families = 17;

QString familyText(int family) {
    if (family == kits) return QObject::tr("Kits");
    const auto name = familyName(family);
    return QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size()));
}

int familyOf(const SoundRef& sound) { return sound.bank == kitBank ? kits : sound.program / 8; }
QString numberText(const SoundRef& sound) {
    return QStringLiteral("%1:%2").arg(sound.bank).arg(sound.program);
}

/// A sound on the shelf: name, font, number.
class ShelfRow final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {120, 29};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        painter->setRenderHint(QPainter::Antialiasing);
        const bool current = option.state & QStyle::State_Selected;
        if (current) {
            painter->setPen(Qt::NoPen);
            painter->setBrush(theme().selected);
            painter->drawRoundedRect(QRectF(option.rect).adjusted(0, 1, -3, -1), 6, 6);
        }
        const QRectF row = QRectF(option.rect).adjusted(9, 0, -12, 0);
        const QFont font = textFont(9.5, current ? QFont::DemiBold : QFont::Normal);
        const QString number = index.data(ShelfModel::NumberRole).toString();
        const double width = QFontMetricsF(font).horizontalAdvance(number) + 8;
        paintText(*painter, row.adjusted(0, 0, -width, 0), index.data().toString(), font, theme().ink);
        paintText(*painter, row, number, textFont(9), theme().muted, Qt::AlignRight | Qt::AlignVCenter);
    }
};

} // namespace

ShelfModel::ShelfModel(Session& session, QObject* parent) : QAbstractListModel(parent), m_session(session) {
    connect(&session, &Session::catalogueChanged, this, &ShelfModel::refresh);
    refresh();
}

void ShelfModel::setFilter(const QString& words, int family) {
    m_words = words;
    m_family = family;
    refresh();
}

void ShelfModel::refresh() {
    beginResetModel();
    m_sounds.clear();
    const QStringList words = m_words.toLower().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    for (const SoundFont* font : [this] {
             // The default font's sounds come first.
             std::vector<const SoundFont*> fonts = m_session.catalogue().order();
             for (const FontPtr& f : m_session.catalogue().fonts())
                 if (std::find(fonts.begin(), fonts.end(), f.get()) == fonts.end()) fonts.push_back(f.get());
             return fonts;
         }())
        for (const Preset& preset : font->presets) {
            const SoundRef sound{font->id, preset.bank, preset.program, preset.name};
            if (m_family >= 0 && familyOf(sound) != m_family) continue;
            const auto gm = programName(Program{static_cast<std::uint8_t>(preset.program)});
            const QString all =
                QStringLiteral("%1 %2 %3 %4 %5")
                    .arg(QString::fromStdString(preset.name), familyText(familyOf(sound)),
                         QString::fromStdString(font->name), numberText(sound),
                         preset.isKit() ? QString()
                                        : QString::fromUtf8(gm.data(), static_cast<qsizetype>(gm.size())))
                    .toLower();
            if (std::all_of(words.begin(), words.end(),
                            [&](const QString& word) { return all.contains(word); }))
                m_sounds.push_back(sound);
        }
    endResetModel();
}

int ShelfModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_sounds.size());
}

QVariant ShelfModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const SoundRef& sound = soundAt(index.row());
    const SoundFont* font = m_session.catalogue().font(sound.font);
    const QString fontName = font ? QString::fromStdString(font->name) : QString();
    switch (role) {
    case Qt::DisplayRole: return QString::fromStdString(sound.name);
    case NumberRole: return numberText(sound);
    case FontRole: return fontName;
    case Qt::ToolTipRole: return QStringLiteral("%1 · %2").arg(fontName, numberText(sound));
    case Qt::AccessibleTextRole:
        return tr("%1, %2, %3").arg(QString::fromStdString(sound.name), fontName, numberText(sound));
    default: return {};
    }
}

QModelIndex ShelfModel::indexOf(const SoundRef& sound) const {
    const auto at = std::find(m_sounds.begin(), m_sounds.end(), sound);
    return at == m_sounds.end() ? QModelIndex() : index(static_cast<int>(at - m_sounds.begin()));
}

Shelf::Shelf(Session& session, QWidget* parent)
    : QFrame(parent), m_session(session), m_model(new ShelfModel(session, this)), m_list(new QListView),
      m_search(new QLineEdit), m_families(new QButtonGroup(this)) {
    setProperty("card", true);
    setFixedWidth(292);
    m_count = mutedLabel();
    m_count->setAlignment(Qt::AlignRight);
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Sound shelf")));
    top->addWidget(m_count, 1);
    m_search->setPlaceholderText(tr("name, family, bank:program"));
    m_search->setAccessibleName(tr("Search the shelf"));
    m_search->addAction(icon(QStringLiteral("search"), theme().muted), QLineEdit::LeadingPosition);
    m_search->setClearButtonEnabled(true);
    m_search->setObjectName(QStringLiteral("shelfSearch"));
    auto* chips = new QWidget;
    auto* flow = new FlowLayout(4, chips);
    m_families->setExclusive(false);
    for (int i = 0; i < families; ++i) {
        auto* chip = new QPushButton(familyText(i));
        chip->setCheckable(true);
        chip->setProperty("look", "chip");
        chip->setFont(textFont(8.5));
        m_families->addButton(chip, i);
        flow->addWidget(chip);
    }
    m_list->setModel(m_model);
    m_list->setItemDelegate(new ShelfRow(m_list));
    m_list->setUniformItemSizes(true);
    m_list->setAccessibleName(tr("Sounds"));
    m_list->setObjectName(QStringLiteral("shelfList"));
    m_list->setMinimumHeight(60);
    m_list->installEventFilter(this);
    m_search->installEventFilter(this);
    m_empty = mutedLabel(tr("No sound fits. Search for less, or add a font under Fonts and instruments."));

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
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_hear);
    buttons->addWidget(m_use, 1);
    preview->column()->addLayout(nameLine);
    preview->column()->addWidget(m_keyboard);
    preview->column()->addLayout(buttons);

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 10, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addWidget(m_search);
    layout->addWidget(chips);
    layout->addWidget(m_empty);
    layout->addWidget(m_list, 1);
    layout->addWidget(preview);

    connect(m_search, &QLineEdit::textChanged, this, &Shelf::filter);
    connect(m_families, &QButtonGroup::idToggled, this, [this](int id, bool on) {
        if (on)
            for (QAbstractButton* other : m_families->buttons())
                if (m_families->id(other) != id) other->setChecked(false);
        filter();
    });
    connect(m_list, &QListView::clicked, this, [this](const QModelIndex& index) { tryRow(index.row()); });
    connect(m_list, &QListView::doubleClicked, &session, &Session::keepTried);
    connect(m_hear, &QPushButton::clicked, this,
            [this](bool on) { on ? tryRow(m_list->currentIndex().row()) : m_session.dropTried(); });
    connect(m_use, &QPushButton::clicked, this, [this] {
        tryRow(m_list->currentIndex().row());
        m_session.keepTried();
    });
    connect(m_keyboard, &KeyboardPicture::pressed, this, [this](int key) {
        m_session.player().audition(m_session.selectedPart(), Key{static_cast<std::uint8_t>(key)},
                                    Velocity{96});
    });
    connect(m_keyboard, &KeyboardPicture::released, this, [this](int key) {
        m_session.player().audition(m_session.selectedPart(), Key{static_cast<std::uint8_t>(key)},
                                    Velocity{0});
    });
    connect(&session, &Session::selectionChanged, this, &Shelf::refresh);
    connect(&session, &Session::triedChanged, this, &Shelf::showCurrent);
    connect(&session, &Session::catalogueChanged, this, &Shelf::refresh);
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this, &Shelf::showCurrent);
    refresh();
}

void Shelf::filter() {
    m_model->setFilter(m_search->text(), m_families->checkedId());
    m_empty->setVisible(m_model->rowCount() == 0);
    refresh();
}

void Shelf::tryRow(int row) {
    if (row < 0 || row >= m_model->rowCount()) return;
    m_session.trySound(m_model->soundAt(row));
}

void Shelf::refresh() {
    const auto fonts = m_session.catalogue().fonts().size();
    m_count->setText(tr("%1 sounds · %2")
                         .arg(m_session.catalogue().soundCount())
                         .arg(fonts == 1 ? tr("1 font") : tr("%1 fonts").arg(fonts)));
    m_empty->setVisible(m_model->rowCount() == 0);
    if (!m_session.isTrying()) {
        const PartMatch* match = m_session.matchOf(m_session.selectedPart());
        const QModelIndex wanted =
            match && match->first().sound ? m_model->indexOf(*match->first().sound) : QModelIndex();
        m_list->setCurrentIndex(wanted);
        if (wanted.isValid()) m_list->scrollTo(wanted, QAbstractItemView::PositionAtCenter);
    }
    showCurrent();
}

void Shelf::showCurrent() {
    const Part* part = m_session.part();
    const QModelIndex current = m_list->currentIndex();
    const bool any = current.isValid() && part;
    const Preset* preset = any ? m_session.catalogue().find(m_model->soundAt(current.row())) : nullptr;
    m_name->setText(preset ? QString::fromStdString(preset->name) : tr("Choose a sound"));
    const KeyRange span = preset ? preset->span() : KeyRange{};
    m_range->setText(preset
                         ? QStringLiteral("%1–%2").arg(
                               QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(span.lowest)})),
                               QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(span.highest)})))
                         : QString());
    m_keyboard->setPreset(preset);
    m_use->setEnabled(any);
    m_hear->setEnabled(any);
    m_hear->setChecked(m_session.isTrying());
    m_use->setText(
        part ? tr("Use for %1")
                   .arg(fontMetrics().elidedText(QString::fromStdString(part->name), Qt::ElideRight, 110))
             : tr("Use it"));
}

bool Shelf::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (watched == m_search && key == Qt::Key_Down) {
            m_list->setFocus();
            if (!m_list->currentIndex().isValid() && m_model->rowCount())
                m_list->setCurrentIndex(m_model->index(0));
            tryRow(m_list->currentIndex().row());
            return true;
        }
        if (watched == m_list && (key == Qt::Key_Return || key == Qt::Key_Enter)) {
            tryRow(m_list->currentIndex().row());
            m_session.keepTried();
            return true;
        }
        if (watched == m_list && key == Qt::Key_Escape && m_session.isTrying()) {
            m_session.dropTried();
            refresh();
            return true;
        }
        if (watched == m_list && (key == Qt::Key_Up || key == Qt::Key_Down)) {
            const int row = std::clamp(m_list->currentIndex().row() + (key == Qt::Key_Up ? -1 : 1), 0,
                                       std::max(0, m_model->rowCount() - 1));
            m_list->setCurrentIndex(m_model->index(row));
            tryRow(row);
            return true;
        }
    }
    return QFrame::eventFilter(watched, event);
}

} // namespace cobbleway
