/// What a kit of a soundfont sounds, and what to play where it is silent.
#pragma once
#include "font/catalogue.h"
#include "song/match/drumwords.h"
#include "words/message.h"

#include <array>
#include <bitset>
#include <functional>
#include <string>

namespace cobbleway {

/// Which keys of a preset sound at which velocities, and what their names are.
class KitKeys {
  public:
    KitKeys() = default; ///< of a sound that cannot be looked into: all sounds, and nothing has a name
    KitKeys(const SoundFont& font, const Preset& preset);
    [[nodiscard]] bool isKnown() const { return m_known; }
    [[nodiscard]] bool sounds(Key key, int velocity) const {
        return !m_known || m_keys[key.value & 0x7FU].test(static_cast<std::size_t>(velocity & 0x7F));
    }
    [[nodiscard]] bool soundsAtAll(Key key) const { return !m_known || m_keys[key.value & 0x7FU].any(); }
    /// The kit's own name for a key, cleaned (cleanDrumName()); empty where it has none, or the same for
    /// several keys.
    [[nodiscard]] const std::string& name(Key key) const { return m_names[key.value & 0x7FU]; }

  private:
    bool m_known = false;
    std::array<std::bitset<128>, 128> m_keys;
    std::array<std::string, 128> m_names;
};

/// Keys to play where a drum of the General MIDI map (RP-003) is silent, the nearest first: its published
/// neighbours in the same piece, as a drummer would replace one by another (common practice, no source).
/// Electric snare → acoustic snare → side stick; open hi-hat → closed → pedal. Hats stay among hats, so that
/// the closed one still stops the open one (RP-003, exclusive groups).
std::span<const std::uint8_t> standInsFor(Key gm);

/// Where a silent key's hits should go, and why.
struct InsteadOf {
    Key key;
    Message why; ///< one sentence
    bool operator==(const InsteadOf&) const = default;
};

/// The nearest key that sounds all of a note's hits: what the note means by General MIDI, its stand-ins, the
/// nearest key of the same piece, at last the nearest key at all. Where none sounds all hits, the one that
/// sounds most. None when nothing sounds more than the key itself.
/// `means` is the drum by RP-003 that the note stands for; `struck` how many hits have which velocity.
std::optional<InsteadOf> insteadOf(const KitKeys& kit, Key key, Key means,
                                   const std::array<int, 128>& struck);

} // namespace cobbleway
