#include "app/widgets/songstrip.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "song/shape/edits.h"

#include <QAction>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QSpinBox>
#include <QTimer>
#include <QToolButton>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

constexpr double sectionsTop = 8, sectionsHeight = 17, barsTop = 29;
constexpr auto slices = static_cast<int>(densitySlices);
constexpr double handleReach = 6;

} // namespace

StripView::StripView(Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumWidth(100);
    setAccessibleName(tr("Song strip"));
    follow(session.current, Side::Notes | Side::Time, this, &StripView::rebuild);
    connect(&session.transport, &Transport::loopChanged, this, QOverload<>::of(&QWidget::update));
}

double StripView::xOf(Tick tick) const {
    const Tick end = m_session.current.hasSong() ? std::max<Tick>(1, m_session.current.song().end) : 1;
    return 1 + static_cast<double>(tick) / static_cast<double>(end) * (width() - 3);
}

Tick StripView::tickAt(double x) const {
    if (!m_session.current.hasSong()) return 0;
    const double share = std::clamp((x - 1) / std::max(1, width() - 3), 0.0, 1.0);
    return static_cast<Tick>(share * static_cast<double>(m_session.current.song().end));
}

Tick StripView::nearestBar(Tick tick) const {
    const TempoMap& tempo = *m_session.current.song().tempo;
    const int bar = tempo.position(tick).bar;
    const Tick before = tempo.barStart(bar),
               after = std::min(tempo.barStart(bar + 1), m_session.current.song().end);
    return tick - before <= after - tick ? before : after;
}

void StripView::rebuild() {
    m_density.assign(slices, 0);
    if (m_session.current.hasSong()) {
        const Song& song = m_session.current.song();
        for (const Part& part : song.parts) {
            const auto starts = m_session.findings.derived()->density(song, part);
            for (std::size_t i = 0; i < slices; ++i) m_density[i] += static_cast<float>((*starts)[i]);
        }
        const float most = std::max(1.0F, *std::max_element(m_density.begin(), m_density.end()));
        for (float& value : m_density) value = std::sqrt(value / most);
    }
    update();
}

void StripView::refreshPlace() {
    const double x = m_session.current.hasSong() ? xOf(m_session.transport.place()) : -1;
    if (std::abs(x - m_paintedX) >= 0.5) update();
}

QString StripView::surfaceValue() const {
    if (!m_session.current.hasSong()) return tr("no song");
    const Position at = m_session.current.song().tempo->position(m_session.transport.place());
    return tr("bar %1, beat %2 of %3 bars").arg(at.bar).arg(at.beat).arg(m_session.current.song().bars());
}

std::optional<SurfaceNumber> StripView::surfaceNumber() const {
    if (!m_session.current.hasSong()) return SurfaceNumber{0, 0, 0, 1, true};
    const Song& song = m_session.current.song();
    return SurfaceNumber{double(song.tempo->position(m_session.transport.place()).bar), 1,
                         double(song.bars()), 1, true};
}

void StripView::setSurfaceNumber(double bar) {
    if (m_session.current.hasSong())
        m_session.transport.seek(m_session.current.song().tempo->barStart(std::max(1, qRound(bar))));
}

std::vector<SurfaceRow> StripView::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.current.hasSong()) return rows;
    const Song& song = m_session.current.song();
    const Tick place = m_session.transport.place();
    for (const Section& section : song.sections) {
        const QRectF rect(xOf(section.start), sectionsTop, xOf(section.end) - xOf(section.start),
                          sectionsHeight);
        rows.push_back({QString::fromStdString(section.name),
                        tr("from bar %1").arg(song.tempo->position(section.start).bar), rect.toRect(),
                        place >= section.start && place < section.end});
    }
    return rows;
}

void StripView::activateSurfaceRow(int row) {
    if (m_session.current.hasSong() && row < static_cast<int>(m_session.current.song().sections.size()))
        m_session.transport.seek(m_session.current.song().sections[static_cast<std::size_t>(row)].start);
}

void StripView::paintSections(QPainter& painter) const {
    const auto& sections = m_session.current.song().sections;
    painter.setFont(textFont(8.5));
    for (std::size_t i = 0; i < sections.size(); ++i) {
        const QRectF rect(xOf(sections[i].start) + 1, sectionsTop,
                          xOf(sections[i].end) - xOf(sections[i].start) - 2, sectionsHeight);
        QColor ground = partColour(static_cast<int>(i * 5 + 5));
        ground.setAlpha(theme().dark ? 70 : 48);
        painter.setPen(Qt::NoPen);
        painter.setBrush(ground);
        painter.drawRoundedRect(rect, 6, 6);
        paintText(painter, rect.adjusted(7, 0, -4, 0), QString::fromStdString(sections[i].name),
                  textFont(8.5), theme().ink);
    }
}

void StripView::paintBars(QPainter& painter) const {
    const Song& song = m_session.current.song();
    const double bottom = height() - 8;
    const int bars = song.bars();
    int step = 8;
    while (step < bars && xOf(song.tempo->barStart(1 + step)) - xOf(0) < 44) step *= 2;
    painter.setFont(textFont(8));
    for (int bar = 1; bar <= bars; bar += step) {
        const double x = std::floor(xOf(song.tempo->barStart(bar))) + 0.5;
        painter.setPen(theme().line);
        painter.drawLine(QPointF(x, barsTop), QPointF(x, bottom));
        painter.setPen(theme().muted);
        painter.drawText(QPointF(x + 4, barsTop + 9), QString::number(bar));
    }
    const double room = bottom - barsTop - 14, slice = static_cast<double>(width() - 3) / slices;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().dark ? QColor("#7B776B") : QColor("#B3AB97"));
    for (std::size_t i = 0; i < m_density.size(); ++i) {
        if (m_density[i] <= 0) continue;
        const double h = std::max(2.0, m_density[i] * room);
        painter.drawRoundedRect(
            QRectF(1 + static_cast<double>(i) * slice + 0.6, bottom - h, std::max(1.2, slice - 1.2), h), 1.4,
            1.4);
    }
}

void StripView::paintLoop(QPainter& painter) const {
    const auto& loop = m_session.transport.loop();
    if (loop.end <= loop.start) return;
    const double a = xOf(loop.start), b = xOf(loop.end), bottom = height() - 6;
    QColor tint = theme().action;
    tint.setAlpha(loop.on ? 46 : 18);
    painter.setPen(Qt::NoPen);
    painter.setBrush(tint);
    painter.drawRect(QRectF(a, barsTop, b - a, bottom - barsTop));
    painter.setBrush(loop.on ? theme().action : theme().muted);
    for (const double x : {a, b})
        painter.drawRoundedRect(QRectF(x - 1.5, barsTop - 3, 3, bottom - barsTop + 5), 1.5, 1.5);
}

void StripView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!m_session.current.hasSong()) {
        paintText(painter, rect(), tr("Add a MIDI file and its song appears here"), textFont(10),
                  theme().muted, Qt::AlignCenter);
        return;
    }
    paintSections(painter);
    paintBars(painter);
    paintLoop(painter);
    const double x = xOf(m_session.transport.place());
    m_paintedX = x;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().brick);
    painter.drawRoundedRect(QRectF(x - 1, barsTop - 4, 2, height() - barsTop + 2), 1, 1);
    painter.drawEllipse(QPointF(x, barsTop - 4), 3, 3);
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().action, 1.5));
        painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
    }
}

StripView::Drag StripView::dragAt(QPointF at) const {
    const auto& loop = m_session.transport.loop();
    if (loop.end > loop.start && at.y() >= barsTop - 4) {
        if (std::abs(at.x() - xOf(loop.start)) < handleReach) return Drag::LoopStart;
        if (std::abs(at.x() - xOf(loop.end)) < handleReach) return Drag::LoopEnd;
    }
    return at.y() < barsTop - 4 ? Drag::NewLoop : Drag::Place;
}

void StripView::mousePressEvent(QMouseEvent* event) {
    if (!m_session.current.hasSong() || event->button() != Qt::LeftButton) return;
    m_drag = dragAt(event->position());
    m_dragFrom = tickAt(event->position().x());
    if (m_drag == Drag::Place) m_session.transport.seek(m_dragFrom);
}

void StripView::mouseMoveEvent(QMouseEvent* event) {
    if (!m_session.current.hasSong()) return;
    const Drag over = m_drag == Drag::None ? dragAt(event->position()) : m_drag;
    setCursor(over == Drag::LoopStart || over == Drag::LoopEnd ? Qt::SizeHorCursor : Qt::ArrowCursor);
    if (m_drag == Drag::None) return;
    const Tick tick = tickAt(event->position().x());
    auto loop = m_session.transport.loop();
    switch (m_drag) {
    case Drag::Place: m_session.transport.seek(tick); break;
    case Drag::LoopStart: loop.start = std::min(nearestBar(tick), loop.end - 1); break;
    case Drag::LoopEnd: loop.end = std::max(nearestBar(tick), loop.start + 1); break;
    case Drag::NewLoop:
        if (nearestBar(tick) != nearestBar(m_dragFrom))
            loop = {nearestBar(std::min(tick, m_dragFrom)), nearestBar(std::max(tick, m_dragFrom)), true};
        break;
    case Drag::None: break;
    }
    if (m_drag != Drag::Place) m_session.transport.setLoop(loop);
}

void StripView::mouseReleaseEvent(QMouseEvent* event) {
    // A click on a section goes there.
    if (m_drag == Drag::NewLoop && m_session.current.hasSong() &&
        std::abs(xOf(m_dragFrom) - event->position().x()) < 4)
        for (const Section& section : m_session.current.song().sections)
            if (m_dragFrom >= section.start && m_dragFrom < section.end)
                m_session.transport.seek(section.start);
    m_drag = Drag::None;
}

void StripView::keyPressEvent(QKeyEvent* event) {
    if (!m_session.current.hasSong()) return QWidget::keyPressEvent(event);
    const Song& song = m_session.current.song();
    const Tick place = m_session.transport.place();
    const int bar = song.tempo->position(place).bar;
    switch (event->key()) {
    case Qt::Key_Left:
        m_session.transport.seek(song.tempo->barStart(
            song.tempo->barStart(bar) < place - song.tempo->quarter() / 2 ? bar : bar - 1));
        break;
    case Qt::Key_Right: m_session.transport.seek(song.tempo->barStart(bar + 1)); break;
    case Qt::Key_Home: m_session.transport.seek(0); break;
    case Qt::Key_End: m_session.transport.seek(song.end); break;
    default: return QWidget::keyPressEvent(event);
    }
    surfaceNumberChanged(this);
}

std::optional<SurfaceNumber> OutputMeter::surfaceNumber() const {
    const double peak = std::max(m_shown[0], m_shown[1]);
    return SurfaceNumber{peak > 1e-5 ? std::max(-60.0, 20 * std::log10(peak)) : -60, -60, 6, 0.1, false};
}

OutputMeter::OutputMeter(QWidget* parent) : QWidget(parent) {
    setFixedHeight(16);
    setMinimumWidth(84);
    setAccessibleName(tr("Output level"));
}

void OutputMeter::setPeaks(double left, double right) {
    const double peaks[2] = {left, right};
    for (int side = 0; side < 2; ++side)
        m_shown[side] = std::max(peaks[side], m_shown[side] * 0.86); // falls slowly, to be seen
    update();
}

void OutputMeter::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    for (int side = 0; side < 2; ++side) {
        const QRectF whole(0, side * 8.0 + 1, width(), 5);
        painter.setBrush(theme().stone);
        painter.drawRoundedRect(whole, 2.5, 2.5);
        const double db = m_shown[side] > 1e-5 ? 20 * std::log10(m_shown[side]) : -100;
        const double share = std::clamp((db + 60) / 60, 0.0, 1.0);
        if (share <= 0.01) continue;
        painter.setBrush(db > -1 ? theme().brick : theme().moss);
        painter.drawRoundedRect(QRectF(whole.left(), whole.top(), whole.width() * share, whole.height()), 2.5,
                                2.5);
    }
}

SongStrip::SongStrip(Uses<uses::Set, uses::Findings, uses::Transport, uses::Meters> session, QAction* toStart,
                     QAction* play, QAction* loop, QWidget* parent)
    : QWidget(parent), m_session(session), m_view(new StripView(session)), m_meter(new OutputMeter) {
    setFixedHeight(104);
    const auto button = [](QAction* action, const QString& iconName, const QString& text, QSize size) {
        auto* b = new QToolButton;
        b->setDefaultAction(action);
        if (!iconName.isEmpty()) action->setIcon(icon(iconName)); // the button follows its action
        if (!text.isEmpty()) action->setIconText(text);
        b->setToolButtonStyle(text.isEmpty() ? Qt::ToolButtonIconOnly : Qt::ToolButtonTextBesideIcon);
        b->setFixedSize(size);
        b->setAccessibleName(action->text().remove(QLatin1Char('&')));
        return b;
    };
    auto* playButton = button(play, {}, {}, {52, 34});
    playButton->setIconSize({18, 18});
    playButton->setObjectName(QStringLiteral("playButton"));
    const auto showPlay = [this, playButton, play] {
        const bool playing = m_session.transport.isPlaying();
        play->setIcon(icon(playing ? QStringLiteral("pause") : QStringLiteral("play"), theme().onAction));
        playButton->setAccessibleName(playing ? tr("Stop") : tr("Play"));
        playButton->setToolButtonStyle(Qt::ToolButtonIconOnly);
        playButton->setStyleSheet(QStringLiteral("QToolButton { background: %1; border-color: %1; } "
                                                 "QToolButton:focus { border: 3px double %2; }")
                                      .arg(theme().action.name(), theme().onAction.name()));
    };
    connect(&session.transport, &Transport::playingChanged, this, showPlay);
    connect(themeSignal(), &ThemeSignal::changed, this, showPlay);
    showPlay();
    m_position = new QLabel;
    m_position->setFont(textFont(14, QFont::Bold));
    m_position->setObjectName(QStringLiteral("position"));
    m_position->setAccessibleName(tr("Place")); // or each of thirty changes a second would be told
    m_time = new QLabel;
    m_time->setAccessibleName(tr("Time"));
    m_time->setProperty("role", "muted");
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(6);
    buttons->addWidget(button(toStart, QStringLiteral("skip-back"), {}, {34, 34}));
    buttons->addWidget(playButton);
    buttons->addWidget(button(loop, QStringLiteral("repeat"), tr("Loop"), {88, 34}));
    auto* place = new QHBoxLayout;
    place->addWidget(m_position);
    place->addWidget(m_time);
    place->addStretch();
    auto* left = new QVBoxLayout;
    left->addLayout(buttons);
    left->addLayout(place);
    left->setSpacing(4);

    m_pace = new QSpinBox;
    m_pace->setRange(25, 200);
    m_pace->setSingleStep(5);
    m_pace->setSuffix(tr(" %"));
    m_pace->setAccessibleName(tr("Pace in percent"));
    m_pace->setObjectName(QStringLiteral("pace"));
    m_key = new QSpinBox;
    m_key->setRange(-24, 24);
    m_key->setAccessibleName(tr("Key, in semitones"));
    m_key->setToolTip(tr("Moves all parts but the drums by semitones"));
    for (QSpinBox* box : {m_pace, m_key}) {
        box->setFixedSize(78, 26);
        box->setKeyboardTracking(false);
    }
    m_tempo = new QLabel;
    m_tempo->setAccessibleName(tr("Tempo"));
    m_tempo->setProperty("role", "muted");
    m_output = new QLabel;
    m_output->setProperty("role", "muted");
    auto* right = new QGridLayout;
    right->setVerticalSpacing(3);
    const auto label = [](const QString& text, QWidget* buddy) {
        auto* l = new QLabel(text);
        l->setProperty("role", "muted");
        l->setBuddy(buddy);
        return l;
    };
    right->addWidget(label(tr("Pace"), m_pace), 0, 0);
    right->addWidget(m_pace, 0, 1);
    right->addWidget(m_tempo, 0, 2);
    right->addWidget(label(tr("Key"), m_key), 1, 0);
    right->addWidget(m_key, 1, 1);
    right->addWidget(m_output, 1, 2);
    right->addWidget(label(tr("Out"), m_meter), 2, 0);
    right->addWidget(m_meter, 2, 1, 1, 2);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 6, 12, 6);
    layout->setSpacing(14);
    layout->addLayout(left);
    layout->addWidget(m_view, 1);
    layout->addLayout(right);

    connect(m_pace, &QSpinBox::valueChanged, &session.transport, &Transport::setPace);
    connect(m_key, &QSpinBox::valueChanged, this, [this](int semitones) {
        m_session.current.edit(
            tr("Change key"), [semitones](const Song& song) { return edits::setKeyShift(song, semitones); },
            QStringLiteral("key"));
    });
    // A screen reader toggles the button, which ticks its action but does not trigger it.
    connect(loop, &QAction::toggled, this, [this, loop] {
        QTimer::singleShot(0, this, [this, loop] {
            if (loop->isChecked() == m_session.transport.loop().on) return;
            {
                const QSignalBlocker quiet(loop);
                loop->setChecked(m_session.transport.loop().on);
            }
            loop->trigger();
        });
    });
    follow(session.current, Side::Notes | Side::Time, this, &SongStrip::refresh);
    connect(&session.transport, &Transport::paceChanged, this, &SongStrip::refresh);
    connect(&session.transport, &Transport::ticked, this, &SongStrip::tick);
    refresh();
}

/// In a narrow window what only informs gives way to the song.
void SongStrip::resizeEvent(QResizeEvent* event) {
    for (QLabel* label : {m_tempo, m_output}) label->setVisible(width() >= 760);
    QWidget::resizeEvent(event);
}

void SongStrip::refresh() {
    const QSignalBlocker quietPace(m_pace), quietKey(m_key);
    showValue(m_pace, m_session.transport.pace());
    showValue(m_key, m_session.current.hasSong() ? m_session.current.song().keyShift : 0);
    m_key->setEnabled(m_session.current.hasSong());
    tick();
}

void SongStrip::tick() {
    const Player& player = m_session.transport.player();
    m_meter->setPeaks(m_session.meters.output(0), m_session.meters.output(1));
    m_view->refreshPlace();
    const bool any = m_session.current.hasSong();
    const Tick place = m_session.transport.place();
    const Position at = any ? m_session.current.song().tempo->position(place) : Position{};
    m_position->setText(
        QStringLiteral("%1.%2.%3").arg(at.bar).arg(at.beat).arg(at.tick, 3, 10, QLatin1Char('0')));
    m_time->setText(timeText(any ? m_session.current.song().tempo->seconds(place) : 0));
    m_tempo->setText(any ? QStringLiteral("→ ♩ %1").arg(std::lround(
                               m_session.current.song().tempo->bpm(place) * m_session.transport.pace() / 100))
                         : QString());
    m_output->setText(player.isSilent() ? tr("silent") : QString());
    m_output->setToolTip(player.isSilent() ? tr("No sound device was found: the song runs without sound.")
                                           : QString());
}

void SongStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    painter.fillRect(QRect(0, 0, width(), 1), theme().line);
}

} // namespace cobbleway
