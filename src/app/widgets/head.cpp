#include "app/widgets/head.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"

#include <QAction>
#include <QHBoxLayout>
#include <QPainter>
#include <QStyle>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

/// A button that shows and triggers an action.
QPushButton* buttonFor(QAction* action, const QString& text, const QString& iconName) {
    auto* button = new QPushButton(icon(iconName), text);
    button->setIconSize({15, 15});
    QObject::connect(button, &QPushButton::clicked, action, &QAction::trigger);
    const auto follow = [button, action] {
        button->setEnabled(action->isEnabled());
        button->setToolTip(action->text().remove(QLatin1Char('&')) + QStringLiteral("  ") +
                           action->shortcut().toString(QKeySequence::NativeText));
    };
    QObject::connect(action, &QAction::changed, button, follow);
    follow();
    return button;
}

QString tempoText(const TempoMap& tempo) {
    const int low = static_cast<int>(std::lround(tempo.lowestBpm())),
              high = static_cast<int>(std::lround(tempo.highestBpm()));
    return low == high ? QStringLiteral("♩ = %1").arg(low) : QStringLiteral("♩ = %1–%2").arg(low).arg(high);
}

} // namespace

QString factsText(const Song& song) {
    const auto shown =
        std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
    const MetreChange& metre = song.tempo->metre(0);
    QStringList facts = {QObject::tr("type %1").arg(song.source->midi.type),
                         QObject::tr("%n part(s)", nullptr, static_cast<int>(shown))
                             .replace(QStringLiteral("(s)"), shown == 1 ? QString() : QStringLiteral("s")),
                         timeText(song.seconds()),
                         QObject::tr("%1 bars").arg(song.bars()),
                         QStringLiteral("%1/%2").arg(metre.numerator).arg(metre.denominator),
                         tempoText(*song.tempo)};
    if (song.dialect != Dialect::None) facts << QString::fromUtf8(dialectName(song.dialect).data());
    return facts.join(QStringLiteral(" · "));
}

Head::Head(Uses<uses::Set, uses::Findings> session, QAction* undo, QAction* redo, QAction* snags,
           QWidget* parent)
    : Readable<QWidget>(parent), m_session(session), m_name(new QLabel), m_facts(new QLabel) {
    setAccessibleName(tr("The song"));
    setFixedHeight(46);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(50, 0, 12, 0);
    layout->setSpacing(10);
    m_name->setFont(textFont(12.5, QFont::Bold));
    m_name->setMaximumWidth(340);
    m_facts->setProperty("role", "muted");
    m_facts->setMinimumWidth(60);
    layout->addWidget(m_name);
    layout->addWidget(m_facts, 1);
    m_undo = buttonFor(undo, tr("Undo"), QStringLiteral("undo-2"));
    m_redo = buttonFor(redo, tr("Redo"), QStringLiteral("redo-2"));
    m_undo->setAccessibleName(m_undo->text());
    m_redo->setAccessibleName(m_redo->text());
    layout->addWidget(m_undo);
    layout->addWidget(m_redo);
    m_snags = buttonFor(snags, tr("Snags"), QStringLiteral("flag"));
    layout->addWidget(m_snags);
    follow(session.current, Side::Names | Side::Time, this, &Head::refresh);
    connect(&session.findings, &Findings::snagsChanged, this, &Head::refresh);
    connect(themeSignal(), &ThemeSignal::changed, this, &Head::refresh);
    refresh();
}

void Head::refresh() {
    const bool any = m_session.current.hasSong();
    m_name->setText(any ? QString::fromStdString(m_session.current.song().title) : tr("Cobbleway"));
    m_facts->setText(any ? factsText(m_session.current.song()) : tr("no song yet"));
    const auto count = askedCount(m_session.findings.snags());
    m_snags->setText(count ? tr("Snags %1").arg(count) : tr("No snags"));
    m_snags->setProperty("look", count ? "snags" : "");
    m_snags->setIcon(icon(count ? QStringLiteral("flag") : QStringLiteral("check"),
                          count ? theme().ochreInk : theme().moss));
    m_snags->style()->unpolish(m_snags); // takes the property up
    m_snags->style()->polish(m_snags);
}

/// In a narrow window the facts, which the song's card has too, and the words on buttons give way.
void Head::resizeEvent(QResizeEvent* event) {
    const bool narrow = width() < 760;
    m_facts->setVisible(!narrow);
    m_name->setSizePolicy(narrow ? QSizePolicy::Ignored : QSizePolicy::Preferred, QSizePolicy::Preferred);
    static_cast<QHBoxLayout*>(layout())->setStretchFactor(m_name, narrow ? 1 : 0);
    m_undo->setText(narrow ? QString() : m_undo->accessibleName());
    m_redo->setText(narrow ? QString() : m_redo->accessibleName());
    Readable<QWidget>::resizeEvent(event);
}

void Head::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    painter.fillRect(QRect(0, height() - 1, width(), 1), theme().line);
    paintMark(painter, QRectF(12, 13, 26, 20));
    painter.end();
    Readable<QWidget>::paintEvent(event);
}

} // namespace cobbleway
