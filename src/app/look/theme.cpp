#include "app/look/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QIconEngine>
#include <QPainter>
#include <QPalette>
#include <QPixmap>
#include <QStyle>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <array>

namespace cobbleway {
namespace {

Theme lightTheme() {
    return {false,     "#EFEBE2", "#FBF9F4", "#F1EDE3", "#D9D2C4", "#22292E", "#62676C", "#2F5D73",
            "#FFFFFF", "#E1EBEF", "#C9963B", "#73500F", "#F7EACB", "#A63D2F", "#F5DAD5", "#4E7A51",
            "#3A6140", "#DCE8DA", "#2A3439", "#EFEBE2", "#B4BBBE", "#E4DDCF"};
}

Theme darkTheme() {
    return {true,      "#1E2326", "#262C30", "#2E353A", "#3E464B", "#E9E4DA", "#A4A9AC", "#7FB2C9",
            "#10181C", "#2C414B", "#D9A94F", "#EBC77E", "#453818", "#E58A7B", "#4A2A26", "#86B489",
            "#A5CDA8", "#2B3D2D", "#161B1E", "#E9E4DA", "#9AA2A6", "#3A4247"};
}

Theme current = lightTheme();
ThemeChoice chosen = ThemeChoice::System;

bool systemIsDark() {
    static const bool dark =
        QApplication::palette().color(QPalette::Window).lightness() < 110; // before we set our own
    return dark;
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
        palette.setColor(QPalette::Disabled, role, t.dark ? "#6C7276" : "#A09C92");
    return palette;
}

QString styleSheetOf(const Theme& t) {
    QFile file(QStringLiteral(":/look/style.qss"));
    if (!file.open(QIODevice::ReadOnly)) return {};
    QString sheet = QString::fromUtf8(file.readAll());
    const std::pair<const char*, QColor> names[] = {{"@ground", t.ground},
                                                    {"@panel", t.panel},
                                                    {"@raised", t.raised},
                                                    {"@line", t.line},
                                                    {"@ink", t.ink},
                                                    {"@muted", t.muted},
                                                    {"@onAction", t.onAction},
                                                    {"@action", t.action},
                                                    {"@selected", t.selected},
                                                    {"@ochreInk", t.ochreInk},
                                                    {"@ochreGround", t.ochreGround},
                                                    {"@ochre", t.ochre},
                                                    {"@brickGround", t.brickGround},
                                                    {"@brick", t.brick},
                                                    {"@stone", t.stone},
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
                              : mode == QIcon::Disabled ? QColor(current.dark ? "#6C7276" : "#A09C92")
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

const Theme& theme() { return current; }
ThemeChoice themeChoice() { return chosen; }

void prepareTheme(ThemeChoice choice) {
    const bool system = systemIsDark();
    chosen = choice;
    current =
        choice == ThemeChoice::Dark || (choice == ThemeChoice::System && system) ? darkTheme() : lightTheme();
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
