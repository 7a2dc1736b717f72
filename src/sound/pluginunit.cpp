#include "sound/pluginunit.h"

namespace cobbleway {

Result<bool> PluginUnit::showWindow(const std::string&) {
    return Error{{"error.plugin-window"}, {}, {"now.plugin-window"}};
}

void PluginUnit::setKept(const PluginSettings& settings) {
    const std::lock_guard hold(m_keptLock);
    m_preset = settings.preset;
    m_state = settings.state;
    m_files = settings.files;
}

bool PluginUnit::hasKept(const PluginSettings& settings) const {
    const std::lock_guard hold(m_keptLock);
    return m_preset == settings.preset && m_state == settings.state && m_files == settings.files;
}

} // namespace cobbleway
