#include "app/pages/soundspage.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/pages/levelstrips.h"
#include "app/session/session.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/painting.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "midi/gm.h"
#include "song/match/rangefit.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <QAction>
#include <QDoubleSpinBox>
#include <QDropEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QSlider>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr int rowHeight = 44;

/// A part's row: what it asks for, the link, the sound, its notes against the sound's range.
class SoundRow final : public QStyledItemDelegate {
  public:
    SoundRow(Uses<uses::Set, uses::Sounds, uses::Findings> session, QObject* parent)
        : QStyledItemDelegate(parent), m_session(session) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {400, rowHeight};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Part* part = m_session.current.song().part(index.data(PartsModel::IdRole).toInt());
        const PartMatch* match = part ? m_session.findings.matchOf(part->id) : nullptr;
        if (!match) return;
        const Mirrored mirrored(*painter, option.rect, option.direction);
        painter->setRenderHint(QPainter::Antialiasing);
        const bool selected = part->id == m_session.current.selectedPart();
        const QRectF row = QRectF(option.rect).adjusted(0, 1, -2, -4);
        const double asksWidth = std::clamp(row.width() * 0.27, 150.0, 240.0), linkWidth = 84;
        if (!selected && option.state & QStyle::State_Selected) { // one of several
            painter->setPen(QPen(theme().action, 1, Qt::DotLine));
            painter->setBrush(Qt::NoBrush);
            painter->drawRoundedRect(row.adjusted(-1, -1, 1, 1), 9, 9);
        }
        paintAsks(*painter, *part, QRectF(row.left(), row.top(), asksWidth, row.height()), selected);
        paintLink(*painter, match->first().how,
                  QRectF(row.left() + asksWidth, row.top(), linkWidth, row.height()));
        paintSound(*painter, *part, *match,
                   QRectF(row.left() + asksWidth + linkWidth, row.top(), row.width() - asksWidth - linkWidth,
                          row.height()),
                   selected);
    }

  private:
    void paintAsks(QPainter& painter, const Part& part, const QRectF& card, bool selected) const {
        paintCard(painter, card, selected);
        painter.setPen(Qt::NoPen);
        painter.setBrush(partColour(part.colour));
        painter.drawRoundedRect(QRectF(card.left(), card.top() + 1, 6, card.height() - 2), 2.5, 2.5);
        paintText(painter, QRectF(card.left() + 15, card.top() + 5, card.width() - 22, 17),
                  QString::fromStdString(part.name), textFont(10, QFont::DemiBold), theme().ink);
        paintText(painter, QRectF(card.left() + 15, card.top() + 22, card.width() - 22, 16),
                  asksText(m_session, part.id), textFont(9), theme().muted);
    }

    /// Full line for a match, dashed for a stand-in, broken for none: the shape says it, not the colour
    /// alone.
    static void paintLink(QPainter& painter, How how, const QRectF& rect) {
        const Theme& t = theme();
        const bool look = how == How::StandIn, none = how == How::None;
        const QColor colour = none ? t.brick : (look ? t.ochre : (how == How::ByHand ? t.action : t.moss));
        QPen pen(colour, 2.6, look ? Qt::DashLine : Qt::SolidLine, Qt::FlatCap);
        painter.setPen(pen);
        const double y = rect.center().y();
        if (none) {
            painter.drawLine(QPointF(rect.left(), y), QPointF(rect.left() + 9, y));
            painter.drawLine(QPointF(rect.right() - 9, y), QPointF(rect.right(), y));
        } else {
            painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y));
        }
        const QString text = QString::fromUtf8(howName(how).data());
        const QFont font = textFont(8.5, QFont::Medium);
        const double width = QFontMetricsF(font).horizontalAdvance(text) + 16;
        const QRectF pill(rect.center().x() - width / 2, y - 9.5, width, 19);
        painter.setPen(QPen(colour, 1.3));
        painter.setBrush(t.panel);
        painter.drawRoundedRect(pill, 9.5, 9.5);
        paintText(painter, pill, text, font, t.ink, Qt::AlignCenter);
    }

    void paintSound(QPainter& painter, const Part& part, const PartMatch& match, const QRectF& card,
                    bool selected) const {
        paintCard(painter, card, selected);
        const auto& sound = match.first().sound;
        const bool preset = sound && sound->kind == SoundKind::Preset;
        const SoundFont* font = preset ? m_session.sounds.catalogue().font(sound->font) : nullptr;
        const QString place = font ? QStringLiteral("%1 · %2:%3")
                                         .arg(QString::fromStdString(font->name))
                                         .arg(sound->bank)
                                         .arg(sound->program)
                              : !sound ? QString()
                              : sound->kind == SoundKind::Plugin
                                  ? tr("LV2 instrument")
                                  : tr("MIDI port · channel %1").arg(sound->channel + 1);
        const double nameWidth = std::min(170.0, card.width() * 0.42);
        QString name = sound ? QString::fromStdString(sound->name) : tr("nothing plays it");
        const auto more = match.matches.size() - 1 + match.layers.size() + match.stretches.size();
        if (more > 0) name += tr(" +%1").arg(more);
        paintText(painter, QRectF(card.left() + 12, card.top() + 5, nameWidth, 17), name,
                  textFont(10, QFont::DemiBold), sound ? theme().ink : theme().brick);
        paintText(painter, QRectF(card.left() + 12, card.top() + 22, nameWidth, 16), place, textFont(9),
                  theme().muted);
        const QRectF numbers(card.right() - 66, card.top(), 54, card.height());
        const QString octaves = part.recipe.octaves == 0
                                    ? QString()
                                    : (part.recipe.octaves > 0 ? tr("+%1 oct").arg(part.recipe.octaves)
                                                               : tr("−%1 oct").arg(-part.recipe.octaves));
        paintText(painter, QRectF(numbers.left(), card.top() + 5, numbers.width(), 17), octaves,
                  textFont(9, QFont::DemiBold), theme().ink, Qt::AlignRight | Qt::AlignVCenter);
        paintText(painter, QRectF(numbers.left(), card.top() + 22, numbers.width(), 16),
                  dbText(part.mix.levelDb), textFont(9), theme().muted, Qt::AlignRight | Qt::AlignVCenter);
        paintRange(painter, part, sound ? m_session.sounds.catalogue().find(*sound) : nullptr,
                   QRectF(card.left() + nameWidth + 20, card.top() + 5,
                          numbers.left() - card.left() - nameWidth - 30, card.height() - 10));
    }

    /// Notes on each key as a histogram over the keys that the sound plays; notes outside in the error
    /// colour.
    void paintRange(QPainter& painter, const Part& part, const Preset* preset, const QRectF& room) const {
        if (room.width() < 40) return;
        const Upright upright(painter, room);
        const QRectF& rect = upright.rect();
        const auto kept = m_session.findings.derived()->histogram(m_session.current.song(), part);
        const auto& histogram = *kept;
        const int most = std::max(1, *std::max_element(histogram.begin(), histogram.end()));
        constexpr int first = 12, last = 115;
        const double step = rect.width() / (last - first + 1);
        const double floor = rect.bottom() - 7;
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().stone);
        painter.drawRoundedRect(QRectF(rect.left(), floor + 3, rect.width(), 4), 2, 2);
        painter.setBrush(theme().dark ? QColor("#5E8A62") : QColor("#9DB99A"));
        if (preset)
            for (const KeyRange& range : preset->ranges) {
                const double a = std::clamp(range.lowest, first, last),
                             b = std::clamp(range.highest, first, last);
                painter.drawRoundedRect(
                    QRectF(rect.left() + (a - first) * step, floor + 3, (b - a + 1) * step, 4), 2, 2);
            }
        const auto compass = preset && !preset->isKit()
                                 ? compassOf(Program{static_cast<std::uint8_t>(preset->program & 0x7F)})
                                 : std::nullopt;
        for (int key = 0; key < 128; ++key) {
            const int count = histogram[static_cast<std::size_t>(key)];
            if (count == 0) continue;
            const bool outside = preset && !preset->plays(Key{static_cast<std::uint8_t>(key)});
            const double h =
                std::max(2.5, (floor - rect.top()) * std::sqrt(count / static_cast<double>(most)));
            const double x = rect.left() + (std::clamp(key, first, last) - first) * step;
            const bool beyond = compass && (key < compass->lowest || key > compass->highest);
            painter.setBrush(outside ? theme().brick : partColour(part.colour));
            painter.drawRect(QRectF(x + 0.3, floor - h, std::max(1.3, step - 0.7), h));
            if (outside)
                painter.drawRect(QRectF(x - 1, rect.top() - 2, step + 2, 2)); // a cap: not colour alone
            else if (beyond) { // advice: it sounds, but not on the instrument itself
                painter.setBrush(theme().ochre);
                painter.drawRect(QRectF(x, floor + 1, step, 2));
            }
        }
    }
    Uses<uses::Set, uses::Sounds, uses::Findings> m_session;
};

QLabel* smallLabel(const QString& text, QWidget* buddy) {
    QLabel* label = mutedLabel(text);
    label->setWordWrap(false);
    label->setBuddy(buddy);
    return label;
}

/// What a part has besides its one sound, for people; empty when there is nothing.
QString extrasText(const Uses<uses::Set>& session, const Part& part) {
    QStringList said;
    for (const Layer& layer : part.sound.layers)
        said << QObject::tr("with %1, %2")
                    .arg(QString::fromStdString(layer.sound.name), dbText(layer.levelDb));
    const TempoMap& tempo = *session.current.song().tempo;
    for (const SoundStretch& stretch : part.sound.stretches)
        said << QObject::tr("bars %1–%2: %3")
                    .arg(tempo.position(stretch.start).bar)
                    .arg(tempo.position(std::max<Tick>(stretch.start, stretch.end - 1)).bar)
                    .arg(QString::fromStdString(stretch.sound.name));
    if (part.recipe.folded)
        said << QObject::tr("single notes moved into %1–%2")
                    .arg(QString::fromStdString(
                             keyName(Key{static_cast<std::uint8_t>(part.recipe.folded->lowest)})),
                         QString::fromStdString(
                             keyName(Key{static_cast<std::uint8_t>(part.recipe.folded->highest)})));
    for (const Effect& effect : part.mix.effects)
        if (effect.on) said << QString::fromStdString(effect.name);
    return said.join(QStringLiteral(" · "));
}

} // namespace

SoundsPage::SoundsPage(
    Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport, uses::Meters, uses::Levelling> session,
    const QList<QAction*>& above, const QList<QAction*>& part, QAction* effects, QAction* mixEffects,
    QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new PartsModel(session, this)), m_rows(new RowList),
      m_shelf(new Shelf(session)), m_levels(new LevelStrips(session, effects, mixEffects)),
      m_sides(new Segments({tr("Sounds"), tr("Levels")}, {})), m_stack(new PageStack) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new SoundRow(session, m_rows));
    m_rows->setAccessibleName(tr("Parts and their sounds"));
    m_rows->setObjectName(QStringLiteral("soundRows"));
    m_rows->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_rows->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setAcceptDrops(true);
    m_rows->viewport()->installEventFilter(this);
    m_shelf->setTargets([this] { return selectedParts(); });
    connect(m_rows->selectionModel(), &QItemSelectionModel::selectionChanged, m_shelf,
            &Shelf::refreshTargets);

    m_font = mutedLabel();
    m_font->setWordWrap(false);
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Part asks → plays with")));
    top->addWidget(m_font, 1);
    top->addWidget(m_sides);
    for (QAction* action : above) top->addWidget(actionButton(action));

    auto* left = new QVBoxLayout;
    left->setSpacing(8);
    left->addWidget(m_rows, 1);
    left->addWidget(makeFacts(part));
    auto* sounds = new QWidget;
    auto* columns = new QHBoxLayout(sounds);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(12);
    columns->addLayout(left, 1);
    columns->addWidget(m_shelf);
    m_stack->addWidget(sounds);
    m_stack->addWidget(m_levels);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addWidget(m_stack, 1);
    followSelection(m_rows, m_model, session);
    connect(m_sides, &Segments::chosen, this, [this](int side) { showLevels(side == 1); });
    follow(session.current, Side::Names | Side::Notes | Side::Sounds | Side::Levels, this,
           &SoundsPage::refresh);
    connect(&session.findings, &Findings::matchesChanged, this, &SoundsPage::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &SoundsPage::refresh);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &SoundsPage::refresh);
    connect(&session.sounds, &Sounds::comparedChanged, this, &SoundsPage::refresh);
    m_sides->setCurrent(0);
    refresh();
}

QWidget* SoundsPage::makeFacts(const QList<QAction*>& part) {
    auto* card = new Card;
    m_name = titleLabel();
    m_why = mutedLabel();
    m_extras = mutedLabel();
    m_octaves = new QSpinBox;
    m_octaves->setRange(-5, 5);
    m_octaves->setAccessibleName(tr("Octave shift"));
    m_octaves->setObjectName(QStringLiteral("octaves"));
    m_level = new QDoubleSpinBox;
    m_level->setRange(lowestLevelDb, highestLevelDb);
    m_level->setDecimals(1);
    m_level->setSuffix(tr(" dB"));
    m_level->setAccessibleName(tr("Level in decibels"));
    m_level->setObjectName(QStringLiteral("level"));
    for (QAbstractSpinBox* box : std::initializer_list<QAbstractSpinBox*>{m_octaves, m_level})
        box->setFixedWidth(84);
    m_pan = new QSlider(Qt::Horizontal);
    m_pan->setObjectName(QStringLiteral("pan"));
    m_pan->setRange(-100, 100);
    m_pan->setFixedWidth(84);
    m_pan->setAccessibleName(tr("Pan, left to right"));
    auto* line = new QHBoxLayout;
    line->setSpacing(7);
    line->addWidget(m_name);
    line->addStretch();
    line->addWidget(smallLabel(tr("Octave"), m_octaves));
    line->addWidget(m_octaves);
    line->addWidget(smallLabel(tr("Level"), m_level));
    line->addWidget(m_level);
    line->addWidget(smallLabel(tr("Pan"), m_pan));
    line->addWidget(m_pan);
    auto* buttons = new QWidget;
    auto* flow = new FlowLayout(6, buttons);
    for (QAction* action : part) flow->addWidget(actionButton(action, 9));
    card->column()->addWidget(m_why);
    card->column()->addWidget(m_extras);
    card->column()->addLayout(line);
    card->column()->addWidget(buttons);
    const auto change = [this](const QString& name, const char* gesture, auto edit) {
        return [this, name, gesture, edit](auto value) {
            m_session.current.edit(
                name,
                [id = m_session.current.selectedPart(), edit, value](const Song& s) {
                    return edit(s, id, value);
                },
                QStringLiteral("%1 %2").arg(QLatin1String(gesture)).arg(m_session.current.selectedPart()));
        };
    };
    connect(m_octaves, &QSpinBox::valueChanged, this,
            change(tr("Shift octaves"), "setOctaves",
                   [](const Song& s, PartId id, int octaves) { return edits::setOctaves(s, id, octaves); }));
    connect(m_level, &QDoubleSpinBox::valueChanged, this,
            change(tr("Set level"), "setLevel",
                   [](const Song& s, PartId id, double db) { return edits::setLevel(s, id, db); }));
    connect(m_pan, &QSlider::valueChanged, this,
            change(tr("Set pan"), "setPan",
                   [](const Song& s, PartId id, int pan) { return edits::setPan(s, id, pan / 100.0); }));
    return card;
}

std::vector<PartId> SoundsPage::selectedParts() const {
    std::vector<PartId> parts;
    for (const QModelIndex& index : m_rows->selectionModel()->selectedRows())
        parts.push_back(m_model->idAt(index));
    std::sort(parts.begin(), parts.end());
    const PartId selected = m_session.current.selectedPart();
    if (std::find(parts.begin(), parts.end(), selected) == parts.end())
        parts.assign(selected ? 1 : 0, selected);
    return parts;
}

void SoundsPage::showLevels(bool levels) {
    m_stack->setCurrentIndex(levels ? 1 : 0);
    m_sides->setCurrent(levels ? 1 : 0);
    if (levels) m_session.sounds.dropTried();
}

bool SoundsPage::showsLevels() const { return m_stack->currentIndex() == 1; }

/// A sound that is dragged from the shelf onto a row plays that part.
bool SoundsPage::eventFilter(QObject* watched, QEvent* event) {
    const bool enters = event->type() == QEvent::DragEnter, moves = event->type() == QEvent::DragMove;
    if (!enters && !moves && event->type() != QEvent::Drop) return QWidget::eventFilter(watched, event);
    auto* drop = static_cast<QDropEvent*>(event); // the three are of one kind
    if (!drop->mimeData()->hasFormat(QLatin1String(soundMime))) return QWidget::eventFilter(watched, event);
    const QModelIndex row = m_rows->indexAt(drop->position().toPoint());
    drop->setAccepted(row.isValid() || enters);
    if (row.isValid()) drop->setDropAction(Qt::CopyAction);
    if (event->type() == QEvent::Drop && row.isValid()) {
        m_session.current.selectPart(m_model->idAt(row));
        m_shelf->useDropped(QString::fromUtf8(drop->mimeData()->data(QLatin1String(soundMime))));
    }
    return true;
}

void SoundsPage::refresh() {
    const Catalogue catalogue = m_session.current.hasSong()
                                    ? catalogueFor(m_session.current.song(), m_session.sounds.catalogue())
                                    : m_session.sounds.catalogue();
    QStringList fonts;
    for (const SoundFont* font : catalogue.order()) fonts << QString::fromStdString(font->name);
    if (const SoundFont* compared = m_session.sounds.comparedFont())
        m_font->setText(tr("heard with %1 to compare").arg(QString::fromStdString(compared->name)));
    else
        m_font->setText(fonts.isEmpty()     ? tr("no soundfont yet")
                        : fonts.size() == 1 ? tr("font: %1").arg(fonts[0])
                                            : tr("font: %1, then %2").arg(fonts[0], fonts[1]));
    const Part* part = m_session.current.part();
    const PartMatch* match = part ? m_session.findings.matchOf(part->id) : nullptr;
    m_name->setText(part ? QString::fromStdString(part->name) : QString());
    m_why->setText(match ? sentence(match->first().why)
                         : tr("Add a song, and its parts get their sounds here."));
    m_extras->setText(part ? extrasText(m_session, *part) : QString());
    m_extras->setVisible(!m_extras->text().isEmpty());
    const QSignalBlocker quietOctaves(m_octaves), quietLevel(m_level), quietPan(m_pan);
    m_octaves->setEnabled(part && !part->source.drums);
    m_level->setEnabled(part);
    m_pan->setEnabled(part);
    showValue(m_octaves, part ? part->recipe.octaves : 0);
    showValue(m_level, part ? part->mix.levelDb : 0);
    showValue(m_pan, part ? static_cast<int>(std::lround(part->mix.pan * 100)) : 0);
}

} // namespace cobbleway
