/// What is kept of songs beside what can be undone: how loud they were measured to be, and which of their
/// files were ticked to be written.
#pragma once
#include "files/loudness.h"
#include "files/project.h"

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <utility>

namespace cobbleway {

/// A value; songs are told apart by the digest of their file, so that what is known of one outlives its
/// edits.
class SongNotes {
  public:
    SongNotes() = default;
    explicit SongNotes(const SongSet& set); ///< what a project holds of them

    /// How loud a song was measured to be, if it was.
    [[nodiscard]] std::optional<Measured> loudnessOf(const Song& song) const;
    void keepLoudness(const std::shared_ptr<const SourceFile>& file, const Measured& measured);
    /// Which files of a song were ticked to be written (SongTicks), if any were.
    [[nodiscard]] std::optional<std::set<std::string>> ticksOf(const Song& song) const;
    void keepTicks(const Song& song, std::set<std::string> ticked);
    /// The set with what is known of its songs, as a project holds it.
    [[nodiscard]] SongSet addedTo(SongSet set) const;

  private:
    [[nodiscard]] std::uint64_t digestOf(const std::shared_ptr<const SourceFile>& file) const;
    std::map<std::uint64_t, Measured> m_loudness;
    std::map<std::uint64_t, std::set<std::string>> m_ticks;
    /// Of a file; the last one is asked for again and again.
    mutable std::pair<std::shared_ptr<const SourceFile>, std::uint64_t> m_digested;
};

} // namespace cobbleway
