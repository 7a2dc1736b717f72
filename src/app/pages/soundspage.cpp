#include "app/pages/soundspage.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "midi/gm.h"
#include "song/edits.h"
#include "song/levels.h"
#include "song/rangefit.h"

#include <QAction>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSlider>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr int rowHeight = 47;

/// A part's row: what it asks for, the link, the sound, its notes against the sound's range.
class SoundRow final : public QStyledItemDelegate {
  public:
    SoundRow(Session& session, QObject* parent) : QStyledItemDelegate(parent), m_session(session) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {400, rowHeight};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Part* part = m_session.song().part(index.data(PartsModel::IdRole).toInt());
        const PartMatch* match = part ? m_session.matchOf(part->id) : nullptr;
        if (!match) return;
        painter->setRenderHint(QPainter::Antialiasing);
        const bool selected = part->id == m_session.selectedPart();
        const QRectF row = QRectF(option.rect).adjusted(0, 1, -2, -4);
        const double asksWidth = std::clamp(row.width() * 0.27, 150.0, 240.0), linkWidth = 84;
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
        const SoundFont* font = sound ? m_session.catalogue().font(sound->font) : nullptr;
        const double nameWidth = std::min(170.0, card.width() * 0.42);
        QString name = sound ? QString::fromStdString(sound->name) : tr("nothing plays it");
        if (match.matches.size() > 1) name += tr(" +%1").arg(match.matches.size() - 1);
        paintText(painter, QRectF(card.left() + 12, card.top() + 5, nameWidth, 17), name,
                  textFont(10, QFont::DemiBold), sound ? theme().ink : theme().brick);
        if (font)
            paintText(painter, QRectF(card.left() + 12, card.top() + 22, nameWidth, 16),
                      QStringLiteral("%1 · %2:%3")
                          .arg(QString::fromStdString(font->name))
                          .arg(sound->bank)
                          .arg(sound->program),
                      textFont(9), theme().muted);
        const QRectF numbers(card.right() - 66, card.top(), 54, card.height());
        const QString octaves = part.octaves == 0 ? QString()
                                                  : (part.octaves > 0 ? tr("+%1 oct").arg(part.octaves)
                                                                      : tr("−%1 oct").arg(-part.octaves));
        paintText(painter, QRectF(numbers.left(), card.top() + 5, numbers.width(), 17), octaves,
                  textFont(9, QFont::DemiBold), theme().ink, Qt::AlignRight | Qt::AlignVCenter);
        paintText(painter, QRectF(numbers.left(), card.top() + 22, numbers.width(), 16), dbText(part.levelDb),
                  textFont(9), theme().muted, Qt::AlignRight | Qt::AlignVCenter);
        paintRange(painter, part, sound ? m_session.catalogue().find(*sound) : nullptr,
                   QRectF(card.left() + nameWidth + 20, card.top() + 5,
                          numbers.left() - card.left() - nameWidth - 30, card.height() - 10));
    }

    /// Notes on each key as a histogram over the keys that the sound plays; notes outside in the error
    /// colour.
    void paintRange(QPainter& painter, const Part& part, const Preset* preset, const QRectF& rect) const {
        if (rect.width() < 40) return;
        const auto histogram = histogramOf(m_session.line(part.id));
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
        for (int key = 0; key < 128; ++key) {
            const int count = histogram[static_cast<std::size_t>(key)];
            if (count == 0) continue;
            const bool outside = preset && !preset->plays(Key{static_cast<std::uint8_t>(key)});
            const double h =
                std::max(2.5, (floor - rect.top()) * std::sqrt(count / static_cast<double>(most)));
            const double x = rect.left() + (std::clamp(key, first, last) - first) * step;
            painter.setBrush(outside ? theme().brick : partColour(part.colour));
            painter.drawRect(QRectF(x + 0.3, floor - h, std::max(1.3, step - 0.7), h));
            if (outside)
                painter.drawRect(QRectF(x - 1, rect.top() - 2, step + 2, 2)); // a cap: not colour alone
        }
    }
    Session& m_session;
};

QLabel* smallLabel(const QString& text, QWidget* buddy) {
    QLabel* label = mutedLabel(text);
    label->setWordWrap(false);
    label->setBuddy(buddy);
    return label;
}

} // namespace

SoundsPage::SoundsPage(Session& session, QAction* fonts, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new PartsModel(session, this)), m_rows(new QListView),
      m_shelf(new Shelf(session)) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new SoundRow(session, m_rows));
    m_rows->setAccessibleName(tr("Parts and their sounds"));
    m_rows->setObjectName(QStringLiteral("soundRows"));
    m_rows->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setUniformItemSizes(true);

    m_font = mutedLabel();
    auto* again = button(tr("Match all again"));
    again->setToolTip(tr("Every part goes back to what the file asks for"));
    connect(again, &QPushButton::clicked, this,
            [this] { m_session.edit(tr("Match all again"), edits::followFileEverywhere); });
    auto* fontsButton = button(fonts->text().remove(QLatin1Char('&')));
    connect(fontsButton, &QPushButton::clicked, fonts, &QAction::trigger);
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Part asks → plays with")));
    top->addWidget(m_font, 1);
    top->addWidget(again);
    top->addWidget(fontsButton);

    auto* card = new Card;
    m_name = titleLabel();
    m_why = mutedLabel();
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
        box->setFixedWidth(74);
    m_pan = new QSlider(Qt::Horizontal);
    m_pan->setRange(-100, 100);
    m_pan->setFixedWidth(84);
    m_pan->setAccessibleName(tr("Pan, left to right"));
    m_follow = button(tr("As the file asks"));
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
    line->addWidget(m_follow);
    card->column()->addWidget(m_why);
    card->column()->addLayout(line);
    connect(m_octaves, &QSpinBox::valueChanged, this, [this](int octaves) {
        m_session.edit(
            tr("Shift octaves"),
            [id = m_session.selectedPart(), octaves](const Song& song) {
                return edits::setOctaves(song, id, octaves);
            },
            QStringLiteral("setOctaves %1").arg(m_session.selectedPart()));
    });
    connect(m_level, &QDoubleSpinBox::valueChanged, this, [this](double db) {
        m_session.edit(
            tr("Set level"),
            [id = m_session.selectedPart(), db](const Song& song) { return edits::setLevel(song, id, db); },
            QStringLiteral("setLevel %1").arg(m_session.selectedPart()));
    });
    connect(m_pan, &QSlider::valueChanged, this, [this](int pan) {
        m_session.edit(
            tr("Set pan"),
            [id = m_session.selectedPart(), pan](const Song& song) {
                return edits::setPan(song, id, pan / 100.0);
            },
            QStringLiteral("setPan %1").arg(m_session.selectedPart()));
    });
    connect(m_follow, &QPushButton::clicked, this, [this] {
        m_session.edit(tr("As the file asks"), [id = m_session.selectedPart()](const Song& song) {
            return edits::followFile(song, id);
        });
    });

    auto* left = new QVBoxLayout;
    left->setSpacing(8);
    left->addWidget(m_rows, 1);
    left->addWidget(card);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(12);
    columns->addLayout(left, 1);
    columns->addWidget(m_shelf);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(columns, 1);
    followSelection(m_rows, m_model, session);
    connect(&session, &Session::songChanged, this, &SoundsPage::refresh);
    connect(&session, &Session::selectionChanged, this, &SoundsPage::refresh);
    connect(&session, &Session::catalogueChanged, this, &SoundsPage::refresh);
    refresh();
}

void SoundsPage::refresh() {
    const SoundFont* font = m_session.catalogue().defaultFont();
    m_font->setText(font ? tr("font: %1").arg(QString::fromStdString(font->name)) : tr("no soundfont yet"));
    const Part* part = m_session.part();
    const PartMatch* match = part ? m_session.matchOf(part->id) : nullptr;
    m_name->setText(part ? QString::fromStdString(part->name) : QString());
    m_why->setText(match ? QString::fromStdString(match->first().why)
                         : tr("Add a song, and its parts get their sounds here."));
    m_follow->setEnabled(part && part->chosen);
    const QSignalBlocker quietOctaves(m_octaves), quietLevel(m_level), quietPan(m_pan);
    m_octaves->setEnabled(part && !part->drums);
    m_level->setEnabled(part);
    m_pan->setEnabled(part);
    m_octaves->setValue(part ? part->octaves : 0);
    m_level->setValue(part ? part->levelDb : 0);
    m_pan->setValue(part ? static_cast<int>(std::lround(part->pan * 100)) : 0);
}

} // namespace cobbleway
