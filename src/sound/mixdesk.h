#pragma once
#include "sound/engine.h"
#include "sound/render.h"

#include <algorithm>
#include <memory>
#include <vector>

namespace cobbleway {

/// Sums several mixes of the same lanes. Where mixes are more than parts and differ in levels alone, each
/// part has one room of its own, and all mixes are sums of parts with their rooms: the room is linear, so
/// they sound the same as if each mix had its own.
class MixDesk {
  public:
    MixDesk(const Plan& plan, const std::vector<MixOrder>& orders);
    ~MixDesk();
    MixDesk(const MixDesk&) = delete;
    MixDesk& operator=(const MixDesk&) = delete;

    /// Mixes blocks of any length, one a slot, and hands every mix on. Gives the peak of all when that is
    /// asked for, else 0; a negative number when a mix was refused.
    float process(std::span<const StereoBlock> blocks, int frames, bool findPeak);
    /// Where the music will be `offset` frames into what is mixed next.
    void setTime(const MusicTime& time, int offset) {
        for (const auto& effects : m_effects)
            if (effects) effects->setTime(time, offset);
    }
    [[nodiscard]] bool sharesRooms() const { return m_shares; }
    /// The worst of the mixes' effects.
    [[nodiscard]] PluginFault fault() const {
        PluginFault worst = PluginFault::None;
        for (const auto& effects : m_effects)
            if (effects) worst = std::max(worst, effects->fault());
        return worst;
    }

  private:
    struct PartRoom;
    struct Output;
    [[nodiscard]] bool canShare(const std::vector<std::vector<MixLevel>>& levels) const;
    void mixShared(std::span<const StereoBlock> blocks, int at, int frames);
    void mixSeparately(std::span<const StereoBlock> blocks, int at, int frames);
    void findTerms();
    void takePart(PartRoom& part, const StereoBlock& block, int at, int frames);
    void sumShared(int frames);
    float deliver(int frames, bool findPeak);

    const std::vector<MixOrder>& m_orders;
    std::vector<std::unique_ptr<Output>> m_outputs;
    std::vector<std::unique_ptr<PartRoom>> m_parts; ///< by slot; when rooms are shared
    std::vector<float> m_baseGains;                 ///< of each part in m_base
    std::vector<float> m_base;                      ///< all parts at their most: most mixes are nearly that
    std::vector<std::unique_ptr<Mixer>> m_mixers;   ///< otherwise, one an order
    std::vector<std::shared_ptr<EffectChain>> m_effects;
    bool m_shares = false;
    int m_skip = 0; ///< frames of latency still to be left out
};

} // namespace cobbleway
