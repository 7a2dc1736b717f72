#include "app/session/findings.h"

#include "app/session/currentset.h"
#include "app/session/messages.h"
#include "app/session/sounds.h"

#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

template <class T> Derived::Kept<T> nothing() { return std::make_shared<const T>(); }

/// What `find` gives for a part of the song, or nothing.
template <class T, class Find> Derived::Kept<T> ofPart(const CurrentSet& current, PartId id, Find find) {
    const Part* part = current.hasSong() ? current.song().part(id) : nullptr;
    return part ? find(current.song(), *part) : nothing<T>();
}

} // namespace

Findings::Findings(CurrentSet& current, Sounds& sounds, Messages& messages)
    : m_current(current), m_sounds(sounds), m_messages(messages),
      m_matches(nothing<std::vector<PartMatch>>()), m_snags(nothing<std::vector<Snag>>()) {
    connect(&current, &CurrentSet::setReplaced, this, [this] {
        std::set<const SourceFile*> files;
        for (const auto& song : m_current.set().songs) files.insert(song->source.get());
        m_derived->keepOnly(files);
    });
    connect(&current, &CurrentSet::songChanged, this, &Findings::refresh);
    connect(&sounds, &Sounds::catalogueChanged, this, &Findings::refresh);
}

void Findings::refresh() {
    const bool any = m_current.hasSong();
    const Catalogue& catalogue = m_sounds.catalogue();
    auto matches = any ? m_derived->matches(m_current.song(), catalogue) : nothing<std::vector<PartMatch>>();
    auto snags = any ? m_derived->snags(m_current.song(), catalogue) : nothing<std::vector<Snag>>();
    const auto oldMatches = std::exchange(m_matches, std::move(matches));
    const auto oldSnags = std::exchange(m_snags, std::move(snags));
    if (oldMatches != m_matches && *oldMatches != *m_matches) Q_EMIT matchesChanged();
    if (oldSnags != m_snags) Q_EMIT snagsChanged();
}

const PartMatch* Findings::matchOf(PartId part) const {
    const auto at = std::find_if(m_matches->begin(), m_matches->end(),
                                 [part](const PartMatch& m) { return m.part == part; });
    return at == m_matches->end() ? nullptr : &*at;
}

Derived::Kept<std::vector<Snag>> Findings::snagsOf(int index) const {
    return m_derived->snags(*m_current.set().songs[static_cast<std::size_t>(index)], m_sounds.catalogue());
}

Derived::Kept<HeardPart> Findings::heard(PartId id) const {
    return ofPart<HeardPart>(m_current, id,
                             [&](const Song& s, const Part& p) { return m_derived->heard(s, p); });
}

Derived::Kept<Overview> Findings::overview(PartId id) const {
    return ofPart<Overview>(m_current, id,
                            [&](const Song& s, const Part& p) { return m_derived->overview(s, p); });
}

Derived::Kept<std::vector<ControlPoint>> Findings::volume(PartId id) const {
    return ofPart<std::vector<ControlPoint>>(
        m_current, id, [&](const Song& s, const Part& p) { return m_derived->volume(s, p); });
}

Derived::Kept<std::vector<OriginCount>> Findings::origins(PartId id) const {
    return ofPart<std::vector<OriginCount>>(
        m_current, id, [&](const Song& s, const Part& p) { return m_derived->origins(s, p); });
}

void Findings::fixAllSafe() {
    m_current.edit(tr("Apply all safe fixes"),
                   [this](const Song& song) { return cobbleway::fixAllSafe(song, m_sounds.catalogue()); });
    Q_EMIT m_messages.announced(tr("Safe fixes applied"));
}

} // namespace cobbleway
