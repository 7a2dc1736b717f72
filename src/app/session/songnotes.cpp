#include "app/session/songnotes.h"

namespace cobbleway {
namespace {

template <class Value>
std::optional<Value> valueIn(const std::map<std::uint64_t, Value>& known, std::uint64_t file) {
    const auto at = known.find(file);
    return at == known.end() ? std::nullopt : std::optional(at->second);
}

} // namespace

SongNotes::SongNotes(const SongSet& set) {
    for (const SongTicks& song : set.ticks) m_ticks[song.file] = song.ticked;
    for (const SongLoudness& song : set.loudness) m_loudness[song.file] = {0, song.peakDb, song.lufs};
}

std::uint64_t SongNotes::digestOf(const std::shared_ptr<const SourceFile>& file) const {
    if (m_digested.first != file) m_digested = {file, fileDigest(*file)};
    return m_digested.second;
}

std::optional<Measured> SongNotes::loudnessOf(const Song& song) const {
    return m_loudness.empty() ? std::nullopt : valueIn(m_loudness, digestOf(song.source));
}

void SongNotes::keepLoudness(const std::shared_ptr<const SourceFile>& file, const Measured& measured) {
    m_loudness[digestOf(file)] = measured;
}

std::optional<std::set<std::string>> SongNotes::ticksOf(const Song& song) const {
    return m_ticks.empty() ? std::nullopt : valueIn(m_ticks, digestOf(song.source));
}

void SongNotes::keepTicks(const Song& song, std::set<std::string> ticked) {
    m_ticks[digestOf(song.source)] = std::move(ticked);
}

SongSet SongNotes::addedTo(SongSet set) const {
    set.loudness.clear();
    set.ticks.clear();
    if (m_loudness.empty() && m_ticks.empty()) return set;
    for (const auto& song : set.songs) {
        const std::uint64_t file = fileDigest(*song->source);
        if (const auto loud = valueIn(m_loudness, file))
            set.loudness.push_back({file, loud->lufs, loud->peakDb});
        if (const auto ticked = valueIn(m_ticks, file)) set.ticks.push_back({file, *ticked});
    }
    return set;
}

} // namespace cobbleway
