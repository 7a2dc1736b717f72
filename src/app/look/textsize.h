/// How large text and all that goes with it are drawn.
#pragma once

namespace cobbleway {

/// Percent of the usual size that can be chosen; 0 stands for the system's.
inline constexpr int textSizes[] = {0, 100, 125, 150, 175, 200};

/// Has the whole window drawn at a size in percent, before the QApplication is made. 0 asks the system, which
/// can only be done afterwards: see systemTextSize().
void prepareTextSize(int percent);

/// The size that the system's text asks for, 100–200 percent in steps of 5, once there is a QApplication.
int systemTextSize();

} // namespace cobbleway
