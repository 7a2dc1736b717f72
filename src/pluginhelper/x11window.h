#pragma once
#include "sound/pluginwindow.h"

namespace cobbleway {

/// Whether there is a display on which windows can be opened.
bool hasDisplay();

/// Opens a window of X11 (ui:X11UI) as a window of the desktop. OpenWindow.
Result<std::unique_ptr<PluginWindow>> openX11Window(const WindowPlace& place, WindowHost& host,
                                                    const std::string& title);

} // namespace cobbleway
