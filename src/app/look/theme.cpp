#include "app/look/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QIconEngine>
#include <QPainter>
#include <QPalette>
#include <QPixmap>
#include <QPixmapCache>
#include <QStyle>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <algorithm>
#include <array>
#include <cmath>

namespace cobbleway {
namespace {

Theme lightTheme() {
    return {false,     "#EFEBE2", "#FBF9F4", "#F1EDE3", "#D9D2C4", "#22292E", "#62676C", "#2F5D73",
            "#FFFFFF", "#E1EBEF", "#C9963B", "#73500F", "#F7EACB", "#A63D2F", "#F5DAD5", "#4E7A51",
            "#3A6140", "#DCE8DA", "#2A3439", "#EFEBE2", "#B4BBBE", "#E4DDCF", "#857F71", "#A09C92"};
}

Theme darkTheme() {
    return {true,      "#1E2326", "#262C30", "#2E353A", "#3E464B", "#E9E4DA", "#A4A9AC", "#7FB2C9",
            "#10181C", "#2C414B", "#D9A94F", "#EBC77E", "#453818", "#E58A7B", "#4A2A26", "#86B489",
            "#A5CDA8", "#2B3D2D", "#161B1E", "#E9E4DA", "#9AA2A6", "#3A4247", "#828A8E", "#6C7276"};
}

Theme contrastTheme() {
    return {true,      "#000000", "#000000", "#161616", "#9A9A9A", "#FFFFFF", "#E6E6E6", "#8AD8FF",
            "#000000", "#00344F", "#FFC54D", "#FFE0A0", "#332400", "#FFA99B", "#3D0D06", "#8BE895",
            "#BFF5C4", "#0B2E10", "#262626", "#FFFFFF", "#E6E6E6", "#333333", "#FFFFFF", "#9A9A9A"};
}

/// A colour moved towards black or white until it can be told from its ground.
QColor madeReadable(QColor colour, const QColor& ground, double least) {
    const bool lighter = contrast(Qt::white, ground) > contrast(Qt::black, ground);
    for (int step = 0; step < 20 && contrast(colour, ground) < least; ++step) {
        const auto moved = [lighter](float part) {
            return lighter ? part + (1 - part) * 0.15F : part * 0.85F;
        };
        colour.setRgbF(moved(colour.redF()), moved(colour.greenF()), moved(colour.blueF()));
    }
    return contrast(colour, ground) < least ? QColor(lighter ? Qt::white : Qt::black) : colour;
}

/// The system's colours where it has some, ours for the rest.
Theme paletteTheme(const QPalette& palette) {
    const QColor ground = palette.color(QPalette::Window), panel = palette.color(QPalette::Base);
    Theme t = panel.lightness() < 128 ? darkTheme() : lightTheme();
    t.ground = ground;
    t.panel = panel;
    t.raised = palette.color(QPalette::AlternateBase);
    t.ink = madeReadable(palette.color(QPalette::Text), panel, 7);
    t.action = madeReadable(palette.color(QPalette::Highlight), panel, 4.5);
    t.onAction = madeReadable(palette.color(QPalette::HighlightedText), t.action, 4.5);
    const auto mixed = [&](const QColor& with, float share) {
        const auto part = [share](float a, float b) { return a + (b - a) * share; };
        return QColor::fromRgbF(part(panel.redF(), with.redF()), part(panel.greenF(), with.greenF()),
                                part(panel.blueF(), with.blueF()));
    };
    t.selected = mixed(t.action, 0.12F);
    t.stone = mixed(t.ink, 0.12F);
    t.line = mixed(t.ink, 0.2F);
    t.edge = mixed(t.ink, 0.6F);
    t.disabled = mixed(t.ink, 0.4F);
    t.muted = mixed(t.ink, 0.8F);
    // One ink stands on four grounds, which the system may have chosen apart.
    for (QColor* ink : {&t.ink, &t.muted, &t.edge})
        for (const QColor& under : {t.selected, t.stone, t.raised, t.ground, t.panel})
            *ink = madeReadable(*ink, under, ink == &t.edge ? 3 : 4.5);
    return t;
}

Theme current = lightTheme();
ThemeChoice chosen = ThemeChoice::System;

/// As it was before we set our own.
const QPalette& systemPalette() {
    static const QPalette palette = QApplication::palette();
    return palette;
}

Theme themeOf(ThemeChoice choice) {
    switch (choice) {
    case ThemeChoice::Light: return lightTheme();
    case ThemeChoice::Dark: return darkTheme();
    case ThemeChoice::Contrast: return contrastTheme();
    case ThemeChoice::Palette: return paletteTheme(systemPalette());
    case ThemeChoice::System: break;
    }
    return systemPalette().color(QPalette::Window).lightness() < 110 ? darkTheme() : lightTheme();
}

QPalette paletteOf(const Theme& t) {
    QPalette palette;
    palette.setColor(QPalette::Window, t.ground);
    palette.setColor(QPalette::WindowText, t.ink);
    palette.setColor(QPalette::Base, t.panel);
    palette.setColor(QPalette::AlternateBase, t.raised);
    palette.setColor(QPalette::Text, t.ink);
    palette.setColor(QPalette::Button, t.panel);
    palette.setColor(QPalette::ButtonText, t.ink);
    palette.setColor(QPalette::ToolTipBase, t.panel);
    palette.setColor(QPalette::ToolTipText, t.ink);
    palette.setColor(QPalette::PlaceholderText, t.muted);
    palette.setColor(QPalette::Highlight, t.action);
    palette.setColor(QPalette::HighlightedText, t.onAction);
    palette.setColor(QPalette::Link, t.action);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        palette.setColor(QPalette::Disabled, role, t.disabled);
    return palette;
}

QString styleSheetOf(const Theme& t) {
    QFile file(QStringLiteral(":/look/style.qss"));
    if (!file.open(QIODevice::ReadOnly)) return {};
    QString sheet = QString::fromUtf8(file.readAll());
    const std::pair<const char*, QColor> names[] = {
        {"@ground", t.ground},     {"@edge", t.edge},
        {"@panel", t.panel},       {"@raised", t.raised},
        {"@line", t.line},         {"@ink", t.ink},
        {"@muted", t.muted},       {"@onAction", t.onAction},
        {"@action", t.action},     {"@selected", t.selected},
        {"@ochreInk", t.ochreInk}, {"@ochreGround", t.ochreGround},
        {"@ochre", t.ochre},       {"@brickGround", t.brickGround},
        {"@brick", t.brick},       {"@stone", t.stone},
        {"@moss", t.moss}};
    sheet.replace(QStringLiteral("@theme"), t.dark ? QStringLiteral("dark") : QStringLiteral("light"));
    for (const auto& [name, colour] : names) sheet.replace(QLatin1String(name), colour.name());
    return sheet;
}

/// Draws an SVG of the icon set at any size, in one colour.
class SvgIcon final : public QIconEngine {
  public:
    SvgIcon(QByteArray svg, QColor colour) : m_svg(std::move(svg)), m_colour(colour) {}
    void paint(QPainter* painter, const QRect& rect, QIcon::Mode mode, QIcon::State state) override {
        QByteArray svg = m_svg;
        const QColor colour = state == QIcon::On        ? current.onAction
                              : mode == QIcon::Disabled ? current.disabled
                                                        : (m_colour.isValid() ? m_colour : current.ink);
        svg.replace("currentColor", colour.name().toLatin1());
        QSvgRenderer(svg).render(painter, rect);
    }
    QPixmap pixmap(const QSize& size, QIcon::Mode mode, QIcon::State state) override {
        QPixmap pixmap(size);
        pixmap.fill(Qt::transparent);
        QPainter painter(&pixmap);
        paint(&painter, pixmap.rect(), mode, state);
        return pixmap;
    }
    [[nodiscard]] QIconEngine* clone() const override { return new SvgIcon(m_svg, m_colour); }

  private:
    QByteArray m_svg;
    QColor m_colour;
};

constexpr std::array partColours = {"#BF6B4A", "#C79A3A", "#6C8F5B", "#84607F", "#B8667C", "#4F7A94",
                                    "#3F8C87", "#8C6A4F", "#5A639C", "#8F8B3E", "#A64B3C", "#71808A"};
constexpr std::array partColourNames = {"Brick clay", "Ochre", "Moss",   "Plum",   "Heather", "Slate blue",
                                        "Sea green",  "Rope",  "Indigo", "Lichen", "Rust",    "Granite"};

} // namespace

double contrast(const QColor& a, const QColor& b) {
    const auto luminance = [](const QColor& colour) {
        const auto part = [](double v) {
            return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        };
        return 0.2126 * part(colour.redF()) + 0.7152 * part(colour.greenF()) + 0.0722 * part(colour.blueF());
    };
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

const Theme& theme() { return current; }
ThemeChoice themeChoice() { return chosen; }

void prepareTheme(ThemeChoice choice) {
    const int revision = current.revision;
    chosen = choice;
    current = themeOf(choice);
    current.revision = revision + 1;
    QPixmapCache::clear(); // of pictures in the colours before
    static const bool fusion = [] {
        QApplication::setStyle(
            QStyleFactory::create(QStringLiteral("Fusion"))); // a base that the sheet covers
        return true;
    }();
    (void)fusion;
    QApplication::setPalette(paletteOf(current));
    QApplication::setFont(textFont());
}

void applyTheme(ThemeChoice choice) {
    prepareTheme(choice);
    qApp->setStyleSheet(styleSheetOf(current));
    Q_EMIT themeSignal()->changed();
}

ThemeSignal* themeSignal() {
    static ThemeSignal signal;
    return &signal;
}

void loadFonts() {
    for (const char* style : {"Regular", "Medium", "SemiBold", "Bold"})
        QFontDatabase::addApplicationFont(
            QStringLiteral(":/fonts/CobblewayText-%1.otf").arg(QLatin1String(style)));
}

QFont textFont(double points, int weight) {
    QFont font(QStringLiteral("Cobbleway Text"));
    font.setPointSizeF(points);
    font.setWeight(static_cast<QFont::Weight>(weight));
    return font;
}

QColor partColour(int index) {
    const QLatin1String name(partColours[static_cast<std::size_t>(index) % partColours.size()]);
    const QColor colour(name);
    return current.dark ? colour.lighter(118) : colour;
}

QString partColourName(int index) {
    return QString::fromLatin1(partColourNames[static_cast<std::size_t>(index) % partColourNames.size()]);
}

QIcon icon(const QString& name, QColor colour) {
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    return file.open(QIODevice::ReadOnly) ? QIcon(new SvgIcon(file.readAll(), colour)) : QIcon();
}

} // namespace cobbleway
