/// Colours, letters and icons of the application.
#pragma once
#include <QColor>
#include <QFont>
#include <QIcon>
#include <QObject>
#include <QString>

namespace cobbleway {

/// What to take colours from. Kept in the settings by number: new ones come last.
enum class ThemeChoice {
    System, ///< light or dark as the system is
    Light,
    Dark,
    Contrast, ///< black and white as far as can be
    Palette   ///< the colours that the system gives to windows
};

/// How well two colours can be told apart, 1–21 (WCAG 2.1, relative luminance and contrast ratio).
double contrast(const QColor& a, const QColor& b);

/// The colours of one theme. Text on its ground keeps a contrast of at least 4.5:1 (WCAG 2.1, 1.4.3), of 7:1
/// with ThemeChoice::Contrast (1.4.6); edges of fields and the focus 3:1 (1.4.11).
struct Theme {
    bool dark = false;
    QColor ground, panel, raised, line, ink, muted, action, onAction, selected, ochre, ochreInk, ochreGround,
        brick, brickGround, moss, mossInk, mossGround, rail, railInk, railMuted, stone, edge, disabled;
    int revision = 0; ///< another after each change, for what keeps pictures
};

/// The theme in use. Changes only through applyTheme().
const Theme& theme();

/// Sent by applyTheme(), for what keeps colours.
class ThemeSignal : public QObject {
    Q_OBJECT
  Q_SIGNALS:
    void changed();
};
ThemeSignal* themeSignal();

/// Sets palette and font of the application, before its first widget is made.
void prepareTheme(ThemeChoice choice);
/// Sets the style sheet too. With one in place every widget is looked at anew each time it is put into
/// another, so a window starts faster when the sheet comes after it was built.
void applyTheme(ThemeChoice choice);
ThemeChoice themeChoice();

/// Loads the letters that ship; once, before the first window.
void loadFonts();
QFont textFont(double points = 10, int weight = QFont::Normal);

/// A part's colour by Part::colour, and one dark or light enough to write with on a panel.
QColor partColour(int index);
QString partColourName(int index); ///< for menus and screen readers

/// An icon of the shipped set, drawn as vectors in `colour` (the theme's ink when not valid).
QIcon icon(const QString& name, QColor colour = {});

} // namespace cobbleway
