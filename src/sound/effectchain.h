#pragma once
#include "sound/pluginunit.h"

#include <algorithm>
#include <memory>
#include <vector>

namespace cobbleway {

/// LV2 effects in a row. Runs on one thread; allocates nothing after it is made.
class EffectChain {
  public:
    explicit EffectChain(std::vector<std::shared_ptr<PluginUnit>> units) : m_units(std::move(units)) {}
    void setTime(const MusicTime& time, int offset) {
        for (const auto& unit : m_units) unit->setTime(time, offset);
    }
    /// Puts the effects on a block, `frames` long, a multiple of blockFrames.
    void run(float* left, float* right, int frames) {
        for (const auto& unit : m_units) unit->run(left, right, frames);
    }
    /// Sum of what its effects are late by, in frames.
    [[nodiscard]] int latency() const {
        int sum = 0;
        for (const auto& unit : m_units) sum += unit->latency();
        return sum;
    }
    /// The worst of its effects'.
    [[nodiscard]] PluginFault fault() const {
        PluginFault worst = PluginFault::None;
        for (const auto& unit : m_units) worst = std::max(worst, unit->fault());
        return worst;
    }
    [[nodiscard]] const std::vector<std::shared_ptr<PluginUnit>>& units() const { return m_units; }

  private:
    std::vector<std::shared_ptr<PluginUnit>> m_units;
};

} // namespace cobbleway
