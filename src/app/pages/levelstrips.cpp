#include "app/pages/levelstrips.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/focus.h"
#include "app/widgets/gradually.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/meter.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <QAction>
#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QPainter>
#include <QScrollArea>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

namespace cobbleway {
namespace {

constexpr int stepsPerDb = 2;
constexpr int nameWidth = 150, levelWidth = 150, textWidth = 60, panWidth = 84, roomWidth = 84,
              buttonWidth = 54;

/// `unit`: what a step is in the unit that is told.
QSlider* slider(int least, int most, int width, const QString& name, double unit = 1) {
    auto* made = new QSlider(Qt::Horizontal);
    tellInUnit(made, unit); // before anything asks for it
    made->setRange(least, most);
    made->setFixedWidth(width);
    made->setAccessibleName(name);
    return made;
}

/// A slider of levels, which tells decibels.
QSlider* levelSlider(int least, int most, int width, const QString& name) {
    return slider(least, most, width, name, 1.0 / stepsPerDb);
}

QToolButton* toggle(const QString& text, const QString& name, const char* place) {
    auto* made = new QToolButton;
    made->setText(text);
    made->setCheckable(true);
    made->setProperty("look", "segment");
    made->setProperty("place", place);
    made->setAccessibleName(name);
    made->setFixedWidth(buttonWidth);
    return made;
}

QLabel* fixedLabel(const QString& text, int width) {
    QLabel* label = mutedLabel(text);
    label->setWordWrap(false);
    label->setFixedWidth(width);
    return label;
}

} // namespace

/// One part's row. A click on it, or focus in it, selects the part.
class LevelStrips::Strip final : public QWidget {
  public:
    Strip(Uses<uses::Set, uses::Transport, uses::Meters, uses::Levelling> session, const Part& part,
          QAction* effects)
        : m_session(session), m_part(part.id) {
        setFixedHeight(38);
        const QString name = QString::fromStdString(part.name);
        m_meter = new Meter(tr("Loudness of %1").arg(name));
        m_level = levelSlider(static_cast<int>(lowestLevelDb) * stepsPerDb,
                              static_cast<int>(highestLevelDb) * stepsPerDb, levelWidth,
                              tr("Level of %1").arg(name));
        m_text = fixedLabel({}, textWidth);
        m_pan = slider(-100, 100, panWidth, tr("Pan of %1").arg(name));
        m_room = slider(0, 200, roomWidth, tr("Room (reverb) of %1, in percent").arg(name));
        m_first = new QCheckBox;
        m_first->setToolTip(tr("The room (reverb) gets the part before its level"));
        m_first->setAccessibleName(tr("Room before the level of %1").arg(name));
        m_mute = toggle(tr("Mute"), tr("Mute %1").arg(name), "first");
        m_solo = toggle(tr("Solo"), tr("Solo %1").arg(name), "last");
        m_effects = button({});
        m_effects->setFixedWidth(84);
        auto* layout = new QHBoxLayout(this);
        layout->setContentsMargins(nameWidth + 22, 0, 8, 0);
        layout->setSpacing(8);
        layout->addWidget(m_meter, 1);
        for (QWidget* control : std::initializer_list<QWidget*>{m_level, m_text, m_pan, m_room, m_first})
            layout->addWidget(control);
        auto* pair = new QHBoxLayout;
        pair->setSpacing(0);
        pair->addWidget(m_mute);
        pair->addWidget(m_solo);
        layout->addLayout(pair);
        layout->addWidget(m_effects);
        connectControls(effects);
        setObjectName(QStringLiteral("strip%1").arg(part.id));
    }

    /// Those that keys reach.
    [[nodiscard]] QList<QWidget*> controls() const {
        return {m_meter, m_level, m_pan, m_room, m_first, m_mute, m_solo, m_effects};
    }
    void refresh() {
        const Part* part = m_session.current.partWith(m_part);
        if (!part) return;
        for (QObject* child : children()) child->blockSignals(true);
        m_level->setValue(static_cast<int>(std::lround(part->mix.levelDb * stepsPerDb)));
        m_text->setText(dbText(part->mix.levelDb));
        m_pan->setValue(static_cast<int>(std::lround(part->mix.pan * 100)));
        m_room->setValue(static_cast<int>(std::lround(part->mix.room * 100)));
        m_room->setToolTip(tr("Room %1 %").arg(m_room->value()));
        m_first->setChecked(part->mix.roomBeforeLevel);
        m_mute->setChecked(part->mix.muted);
        m_solo->setChecked(part->mix.solo);
        m_effects->setText(part->mix.effects.empty() ? tr("Effects…")
                                                     : tr("Effects %1").arg(part->mix.effects.size()));
        m_effects->setAccessibleName(tr("Effects on %1").arg(QString::fromStdString(part->name)));
        for (QObject* child : children()) child->blockSignals(false);
        update();
    }
    void meter() { m_meter->setPeak(m_session.meters.part(m_part)); }

  private:
    void connectControls(QAction* effects) {
        connect(m_level, &QSlider::valueChanged, this, [this](int steps) {
            const double db = double(steps) / stepsPerDb;
            change(tr("Set level"), "setLevel",
                   [db](const Song& s, PartId id) { return edits::setLevel(s, id, db); });
        });
        connect(m_pan, &QSlider::valueChanged, this, [this](int pan) {
            change(tr("Set pan"), "setPan",
                   [pan](const Song& s, PartId id) { return edits::setPan(s, id, pan / 100.0); });
        });
        const auto room = [this] {
            change(tr("Set room"), "setRoom",
                   [share = m_room->value() / 100.0, first = m_first->isChecked()](const Song& s, PartId id) {
                       return edits::setRoomShare(s, id, share, first);
                   });
        };
        connect(m_room, &QSlider::valueChanged, this, room);
        connect(m_first, &QCheckBox::toggled, this, room);
        connect(m_mute, &QToolButton::toggled, this, [this](bool on) {
            change(on ? tr("Mute") : tr("Unmute"), nullptr,
                   [on](const Song& s, PartId id) { return edits::setMuted(s, id, on); });
        });
        connect(m_solo, &QToolButton::toggled, this, [this](bool on) {
            change(on ? tr("Solo") : tr("No solo"), nullptr,
                   [on](const Song& s, PartId id) { return edits::setSolo(s, id, on); });
        });
        connect(m_effects, &QPushButton::clicked, this, [this, effects] {
            m_session.current.selectPart(m_part);
            effects->trigger();
        });
        connect(&m_session.current, &CurrentSet::selectionChanged, this, QOverload<>::of(&QWidget::update));
    }
    template <class Change> void change(const QString& name, const char* gesture, Change apply) {
        m_session.current.selectPart(m_part);
        m_session.current.edit(
            name, [&, id = m_part](const Song& song) { return apply(song, id); },
            gesture ? QStringLiteral("%1 %2").arg(QLatin1String(gesture)).arg(m_part) : QString());
    }
    void paintEvent(QPaintEvent*) override {
        const Part* part = m_session.current.partWith(m_part);
        if (!part) return;
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        if (m_part == m_session.current.selectedPart()) painter.fillRect(rect(), theme().selected);
        painter.fillRect(QRect(0, height() - 1, width(), 1), theme().line);
        painter.setPen(Qt::NoPen);
        painter.setBrush(partColour(part->colour));
        painter.drawRoundedRect(QRectF(0, 4, 6, height() - 9), 2.5, 2.5);
        const bool silent = mixGain(m_session.current.song(), *part) == 0;
        paintText(painter, QRectF(15, 0, nameWidth, height()), QString::fromStdString(part->name),
                  textFont(9.5, QFont::DemiBold), silent ? theme().muted : theme().ink);
    }
    void mousePressEvent(QMouseEvent*) override { m_session.current.selectPart(m_part); }

    Uses<uses::Set, uses::Transport, uses::Meters, uses::Levelling> m_session;
    PartId m_part;
    Meter* m_meter;
    QSlider *m_level, *m_pan, *m_room;
    QLabel* m_text;
    QCheckBox* m_first;
    QToolButton *m_mute, *m_solo;
    QPushButton* m_effects;
};

LevelStrips::LevelStrips(Uses<uses::Set, uses::Transport, uses::Meters, uses::Levelling> session,
                         QAction* effects, QAction* mixEffects, QWidget* parent)
    : QWidget(parent), m_session(session), m_effects(effects), m_area(new QScrollArea),
      m_stripMaker(new Gradually(this)), m_keys(new GridKeys(this)) {
    auto* heads = new QHBoxLayout;
    heads->setContentsMargins(nameWidth + 22, 0, 16, 0);
    heads->setSpacing(8);
    QLabel* loud = mutedLabel(tr("Loudness"));
    loud->setWordWrap(false);
    heads->addWidget(loud, 1);
    heads->addWidget(fixedLabel(tr("Level"), levelWidth + textWidth + 8));
    heads->addWidget(fixedLabel(tr("Pan"), panWidth));
    heads->addWidget(fixedLabel(tr("Room (reverb), before level"), roomWidth + 40));
    heads->addSpacing(2 * buttonWidth + 84 - 6);
    m_area->setWidgetResizable(true);
    m_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_area->setFocusPolicy(Qt::NoFocus);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    layout->addLayout(heads);
    layout->addWidget(m_area, 1);
    layout->addWidget(makeMaster(mixEffects));
    connect(&session.transport, &Transport::ticked, this, [this] {
        if (!isVisible()) return;
        for (Strip* strip : m_strips) strip->meter();
        m_left->setPeak(m_session.meters.output(0));
        m_right->setPeak(m_session.meters.output(1));
    });
    m_shown = new WhenShown(this, [this] { rebuild(); });
    follow(session.current, Side::Names | Side::Levels | Side::Sounds, m_shown, &WhenShown::request);
    connect(&session.levelling, &Levelling::measuringChanged, this, &LevelStrips::refresh);
    rebuild();
}

QWidget* LevelStrips::makeMaster(QAction* mixEffects) {
    auto* card = new Card;
    m_left = new Meter(tr("Loudness of the whole mix, left"));
    m_right = new Meter(tr("Loudness of the whole mix, right"));
    m_master =
        levelSlider(static_cast<int>(lowestMasterDb) * stepsPerDb,
                    static_cast<int>(highestMasterDb) * stepsPerDb, levelWidth, tr("Level of the whole mix"));
    m_master->setObjectName(QStringLiteral("master"));
    m_masterText = fixedLabel({}, textWidth);
    m_roomSeconds = new QDoubleSpinBox;
    m_roomSeconds->setRange(shortestRoom, longestRoom);
    m_roomSeconds->setSingleStep(0.1);
    m_roomSeconds->setDecimals(1);
    m_roomSeconds->setSuffix(tr(" s"));
    m_roomSeconds->setAccessibleName(tr("How long the room (reverb) rings, in seconds"));
    m_bring = button(tr("Match loudness"));
    m_bring->setObjectName(QStringLiteral("bringToLevel"));
    m_bring->setToolTip(
        tr("Measures the whole song and sets the level so that it is %1 LUFS, below full scale")
            .arg(aimedLufs, 0, 'f', 0));
    m_measured = mutedLabel();
    auto* effects = button(mixEffects->iconText());
    effects->setAccessibleName(tr("Effects on the whole mix"));
    connect(effects, &QPushButton::clicked, mixEffects, &QAction::trigger);
    auto* meters = new QVBoxLayout;
    meters->setSpacing(2);
    meters->addWidget(m_left);
    meters->addWidget(m_right);
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    QLabel* name = titleLabel(tr("Whole mix"));
    name->setFixedWidth(nameWidth + 2);
    line->addWidget(name);
    line->addLayout(meters, 1);
    line->addWidget(m_master);
    line->addWidget(m_masterText);
    line->addWidget(m_bring);
    line->addWidget(mutedLabel(tr("Reverb lasts")));
    line->addWidget(m_roomSeconds);
    line->addWidget(effects);
    card->column()->addLayout(line);
    card->column()->addWidget(m_measured);
    connect(m_master, &QSlider::valueChanged, this, [this](int steps) {
        m_session.current.edit(
            tr("Set level of the whole mix"),
            [db = double(steps) / stepsPerDb](const Song& s) { return edits::setMasterLevel(s, db); },
            QStringLiteral("master"));
    });
    connect(m_roomSeconds, &QDoubleSpinBox::valueChanged, this, [this](double seconds) {
        m_session.current.edit(
            tr("Set the room"), [seconds](const Song& s) { return edits::setRoomSeconds(s, seconds); },
            QStringLiteral("roomSeconds"));
    });
    connect(m_bring, &QPushButton::clicked, this, [this] {
        m_session.levelling.isMeasuring() ? m_session.levelling.stopMeasuring()
                                          : m_session.levelling.bringToLevel();
    });
    return card;
}

void LevelStrips::rebuild() {
    std::vector<PartId> wanted;
    if (m_session.current.hasSong())
        for (const Part& part : m_session.current.song().parts)
            if (!part.aside) wanted.push_back(part.id);
    if (wanted != m_parts || !m_area->widget()) {
        m_parts = std::move(wanted);
        auto* column = new QWidget;
        auto* layout = new QVBoxLayout(column);
        layout->setContentsMargins(0, 0, 0, 0);
        layout->setSpacing(0);
        m_strips.clear();
        m_keys->clear();
        layout->addStretch();
        m_stripMaker->start(m_parts.size(), [this, layout](std::size_t i) {
            const Part* part =
                m_session.current.hasSong() ? m_session.current.song().part(m_parts[i]) : nullptr;
            if (!part) return; // a new list is on its way
            m_strips.push_back(new Strip(m_session, *part, m_effects));
            layout->insertWidget(layout->count() - 1, m_strips.back());
            m_strips.back()->refresh();
            m_keys->addRow(m_strips.back()->controls());
        });
        exchangeContent(m_area, column); // strips that come later show themselves
    }
    refresh();
}

void LevelStrips::refresh() {
    for (Strip* strip : m_strips) strip->refresh();
    const bool any = m_session.current.hasSong();
    setEnabled(any);
    const QSignalBlocker quietMaster(m_master), quietRoom(m_roomSeconds);
    const double db = any ? m_session.current.song().masterDb : 0;
    m_master->setValue(static_cast<int>(std::lround(db * stepsPerDb)));
    m_masterText->setText(dbText(db));
    m_roomSeconds->setValue(any ? m_session.current.song().roomSeconds : 1.3);
    const bool measuring = m_session.levelling.isMeasuring();
    m_bring->setText(measuring ? tr("Stop measuring") : tr("Match loudness"));
    const auto& measured = m_session.levelling.measured();
    m_measured->setText(measuring  ? tr("Measuring the song…")
                        : measured ? tr("Measured before the level: %1 LUFS, highest peak %2.")
                                         .arg(measured->lufs, 0, 'f', 1)
                                         .arg(dbText(measured->peakDb))
                                   : QString());
    m_measured->setVisible(!m_measured->text().isEmpty());
}

} // namespace cobbleway
