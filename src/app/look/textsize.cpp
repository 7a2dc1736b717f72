#include "app/look/textsize.h"

#include <QApplication>
#include <QFont>
#include <QScreen>
#include <QtGlobal>
#include <algorithm>
#include <cmath>

namespace cobbleway {

// Qt draws the whole window larger, so that what is beside text keeps in step with it.
void prepareTextSize(int percent) {
    if (percent == 0 || qEnvironmentVariableIsSet("QT_SCALE_FACTOR")) return; // what a person says goes first
    qputenv("QT_SCALE_FACTOR", QByteArray::number(std::clamp(percent, 100, 200) / 100.0));
    qputenv("QT_FONT_DPI", "96"); // or text would grow twice
}

int systemTextSize() {
    constexpr double usualDpi = 96, largestUsualPoints = 11; // desktops come with 9 to 11 points
    const QScreen* screen = QGuiApplication::primaryScreen();
    const double dpi = screen ? screen->logicalDotsPerInch() / usualDpi : 1;
    const double points = QApplication::font().pointSizeF() / largestUsualPoints;
    return std::clamp(static_cast<int>(std::lround(dpi * std::max(1.0, points) * 20)) * 5, 100, 200);
}

} // namespace cobbleway
