#include "app/narrator.h"

#include "app/pages/partsmodel.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"

#include <QAbstractItemView>
#include <QApplication>
#include <algorithm>

namespace cobbleway {
namespace {

QString nameOf(const Part& part) { return QString::fromStdString(part.name); }

/// Who leads, in words, when roles have changed; empty when they have not.
QString rolesText(const Song& before, const Song& after) {
    std::vector<const Part*> changed, leads, off;
    std::size_t count = 0;
    for (const Part& part : after.parts) {
        if (part.aside) continue;
        ++count;
        const Part* was = before.part(part.id);
        if (was && was->mix.role != part.mix.role) changed.push_back(&part);
        if (part.mix.role == Role::Lead) leads.push_back(&part);
        if (part.mix.role == Role::Off) off.push_back(&part);
    }
    if (changed.empty()) return {};
    if (leads.empty() && off.empty()) return QObject::tr("full band");
    if (leads.size() == 1 && off.empty()) return QObject::tr("%1 in front").arg(nameOf(*leads[0]));
    if (leads.size() == 1 && off.size() + 1 == count) return QObject::tr("%1 alone").arg(nameOf(*leads[0]));
    if (leads.empty() && off.size() == 1) return QObject::tr("all but %1").arg(nameOf(*off[0]));
    QStringList said;
    for (const Part* part : changed)
        said << (part->mix.role == Role::Lead  ? QObject::tr("%1 leads")
                 : part->mix.role == Role::Off ? QObject::tr("%1 is off")
                                               : QObject::tr("%1 backs"))
                    .arg(nameOf(*part));
    return said.join(QStringLiteral(", "));
}

QString octavesText(int octaves) {
    if (octaves == 0) return QObject::tr("no octave shift");
    const int by = std::abs(octaves);
    const QString count = by == 1 ? QObject::tr("one octave") : QObject::tr("%1 octaves").arg(by);
    return octaves > 0 ? QObject::tr("%1 up").arg(count) : QObject::tr("%1 down").arg(count);
}

/// What has changed of one part.
QString partText(const Part& was, const Part& is) {
    QStringList said;
    if (was.name != is.name) return QObject::tr("%1 is now %2").arg(nameOf(was), nameOf(is));
    if (was.mix.levelDb != is.mix.levelDb) said << QObject::tr("level %1").arg(dbText(is.mix.levelDb));
    if (was.mix.pan != is.mix.pan) {
        const int percent = qRound(is.mix.pan * 100);
        said << (percent == 0  ? QObject::tr("in the middle")
                 : percent < 0 ? QObject::tr("%1 percent left").arg(-percent)
                               : QObject::tr("%1 percent right").arg(percent));
    }
    if (was.mix.muted != is.mix.muted)
        said << (is.mix.muted ? QObject::tr("muted") : QObject::tr("not muted"));
    if (was.mix.solo != is.mix.solo) said << (is.mix.solo ? QObject::tr("solo") : QObject::tr("not solo"));
    if (was.recipe.octaves != is.recipe.octaves) said << octavesText(is.recipe.octaves);
    if (said.isEmpty()) return {};
    said.prepend(nameOf(is));
    return said.join(QStringLiteral(", "));
}

} // namespace

QString changeText(const Song& before, const Song& after) {
    if (const QString roles = rolesText(before, after); !roles.isEmpty()) return roles;
    if (before.keyShift != after.keyShift)
        return after.keyShift == 0 ? QObject::tr("own key")
                                   : QObject::tr("key %1%2 semitones")
                                         .arg(after.keyShift > 0 ? QStringLiteral("+") : QStringLiteral("−"))
                                         .arg(std::abs(after.keyShift));
    if (before.parts.size() != after.parts.size()) return {};
    QStringList said;
    for (std::size_t i = 0; i < after.parts.size(); ++i) {
        const Part* was = before.part(after.parts[i].id);
        if (!was) return {};
        if (const QString text = partText(*was, after.parts[i]); !text.isEmpty()) said << text;
    }
    if (!said.isEmpty()) return said.size() <= 2 ? said.join(QStringLiteral(", ")) : QString();
    for (std::size_t i = 0; i < after.parts.size(); ++i) {
        const std::size_t from = i;
        if (before.parts[from].id == after.parts[i].id) continue;
        // The part that has gone farthest is the one that was moved.
        std::size_t farthest = i;
        std::ptrdiff_t most = -1;
        for (std::size_t to = 0; to < after.parts.size(); ++to)
            for (std::size_t was = 0; was < before.parts.size(); ++was)
                if (before.parts[was].id == after.parts[to].id) {
                    const auto far =
                        std::abs(static_cast<std::ptrdiff_t>(to) - static_cast<std::ptrdiff_t>(was));
                    if (far > most) {
                        most = far;
                        farthest = to;
                    }
                }
        const auto shown =
            std::count_if(after.parts.begin(), after.parts.end(), [](const Part& p) { return !p.aside; });
        return QObject::tr("%1 is now part %2 of %3")
            .arg(nameOf(after.parts[farthest]))
            .arg(farthest + 1)
            .arg(shown);
    }
    return {};
}

Narrator::Narrator(Uses<uses::Set, uses::Findings, uses::Transport, uses::Messages> session, QObject* parent)
    : QObject(parent), m_session(session) {
    m_soon.setSingleShot(true);
    m_place.setSingleShot(true);
    m_place.setInterval(300);
    connect(&m_soon, &QTimer::timeout, this, [this] {
        const QString text = m_pending.join(QStringLiteral(". "));
        m_pending.clear();
        if (std::exchange(m_toldElsewhere, false) || text.isEmpty()) return;
        m_telling = true;
        Q_EMIT m_session.messages.announced(text);
        m_telling = false;
    });
    connect(&m_place, &QTimer::timeout, this, [this] { say(placeText()); });
    connect(&session.messages, &Messages::announced, this, [this] {
        if (!m_telling) m_toldElsewhere = m_soon.isActive();
    });
    connect(&session.current, &CurrentSet::songChanged, this, &Narrator::tellChange);
    connect(&session.current, &CurrentSet::selectionChanged, this, &Narrator::tellPart);
    connect(&session.transport, &Transport::loopChanged, this, [this] {
        const Loop& loop = m_session.transport.loop();
        const bool was = std::exchange(m_loopOn, loop.on);
        if (!loop.on) return was ? say(tr("Loop off")) : void();
        const TempoMap& tempo = *m_session.current.song().tempo;
        say(tr("Loop, bars %1 to %2")
                .arg(tempo.position(loop.start).bar)
                .arg(tempo.position(std::max(loop.start, loop.end - 1)).bar));
    });
    connect(&session.transport, &Transport::paceChanged, this,
            [this] { say(tr("Pace %1 percent").arg(m_session.transport.pace())); });
    connect(&session.transport, &Transport::sought, &m_place, qOverload<>(&QTimer::start));
}

void Narrator::say(const QString& text) {
    if (!m_soon.isActive()) m_toldElsewhere = false;
    if (!text.isEmpty() && !m_pending.contains(text)) m_pending << text;
    m_soon.start(0);
}

QString Narrator::placeText() const {
    if (!m_session.current.hasSong()) return tr("no song");
    const Song& song = m_session.current.song();
    const Tick place = m_session.transport.place();
    const Position at = song.tempo->position(place);
    QString text = tr("bar %1, beat %2").arg(at.bar).arg(at.beat);
    for (const Section& section : song.sections)
        if (place >= section.start && place < section.end)
            text += QStringLiteral(", ") + QString::fromStdString(section.name);
    return text;
}

void Narrator::tellChange() {
    if (!m_session.current.hasSong()) {
        m_before.reset();
        return;
    }
    const Song& now = m_session.current.song();
    if (m_before && m_before->source == now.source) {
        const QString text = changeText(*m_before, now);
        say(text.isEmpty() ? m_session.current.undoName() : text);
    } else {
        const auto parts =
            std::count_if(now.parts.begin(), now.parts.end(), [](const Part& p) { return !p.aside; });
        say(tr("%1, %2 parts").arg(QString::fromStdString(now.title)).arg(parts));
    }
    m_before = std::make_unique<Song>(now);
}

/// A list that has the focus speaks its row itself.
void Narrator::tellPart() {
    const Part* part = m_session.current.part();
    if (!part || qobject_cast<QAbstractItemView*>(QApplication::focusWidget())) return;
    const PartMatch* match = m_session.findings.matchOf(part->id);
    const auto sound = match ? match->first().sound : std::nullopt;
    say(sound ? tr("%1, plays with %2").arg(nameOf(*part), QString::fromStdString(sound->name))
              : nameOf(*part));
}

} // namespace cobbleway
