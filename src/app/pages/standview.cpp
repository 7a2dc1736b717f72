#include "app/pages/standview.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/whenshown.h"
#include "app/widgets/wordsstrip.h"
#include "song/heard/firstnote.h"
#include "song/match/transposing.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

QLabel* largeLabel(double points, bool strong, const QColor& colour) {
    auto* label = new QLabel;
    label->setFont(textFont(points, strong ? QFont::DemiBold : QFont::Normal));
    QPalette palette = label->palette();
    palette.setColor(QPalette::WindowText, colour);
    label->setPalette(palette);
    return label;
}

/// By how many semitones a part is written above where it sounds, and for which instrument.
std::optional<TransposingInstrument> writtenFor(const Part* part) {
    return part ? transposingInstrument(part->name) : std::nullopt;
}

} // namespace

StandView::StandView(Uses<uses::Set, uses::Findings, uses::Transport> session, QWidget* parent)
    : QWidget(parent, Qt::Window), m_session(session), m_notes(new NotesPicture(session)),
      m_name(largeLabel(22, true, theme().ink)), m_place(largeLabel(22, false, theme().ink)),
      m_words(new WordsStrip(30, 20)), m_rest(largeLabel(40, true, theme().action)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(tr("Stand view"));
    setObjectName(QStringLiteral("standView"));
    m_notes->setBarCount(4);
    m_place->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    m_rest->setAlignment(Qt::AlignCenter);
    m_rest->setWordWrap(true);
    auto* top = new QHBoxLayout;
    top->addWidget(m_name, 1);
    top->addWidget(m_place);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(28, 20, 28, 24);
    column->setSpacing(10);
    column->addLayout(top);
    column->addWidget(m_notes, 1);
    column->addWidget(m_rest);
    column->addWidget(m_words);
    cobbleway::follow(session.current, allSides, this, &StandView::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &StandView::refresh);
    connect(&session.transport, &Transport::ticked, this, &StandView::follow);
    refresh();
    m_notes->setFocus();
}

void StandView::refresh() {
    const Part* part = m_session.current.part();
    const auto instrument = writtenFor(part);
    const bool written = m_written && instrument;
    m_notes->setLook(2.2, true, written ? -instrument->semitones : 0);
    m_name->setText(part ? QString::fromStdString(part->name) : tr("No part"));
    if (instrument) {
        const QString name =
            QString::fromUtf8(instrument->name.data(), static_cast<qsizetype>(instrument->name.size()));
        m_name->setText(
            m_name->text() +
            (written ? tr(" · as written for %1") : tr(" · as it sounds (W: as written for %1)")).arg(name));
    }
    m_words->setLines(m_session.current.hasSong()
                          ? *m_session.findings.derived()->lyrics(m_session.current.song())
                          : std::vector<LyricLine>{});
    follow();
}

void StandView::follow() {
    m_notes->follow();
    const auto say = [](QLabel* label, const QString& text) {
        label->setVisible(!text.isEmpty());
        if (label->text() != text) label->setText(text);
    };
    const Part* part = m_session.current.part();
    if (!m_session.current.hasSong() || !part) {
        for (QLabel* label : {m_place, m_rest}) say(label, {});
        return;
    }
    const Song& song = m_session.current.song();
    const Tick place = m_session.transport.place();
    QString where = tr("bar %1").arg(song.tempo->position(place).bar);
    for (const Section& section : song.sections)
        if (place >= section.start && place < section.end)
            where += QStringLiteral(" · ") + QString::fromStdString(section.name);
    say(m_place, where);
    const int rest = barsOfRest(song, *m_session.findings.heard(part->id), place);
    say(m_rest, rest == 0 ? QString() : (rest == 1 ? tr("1 bar rest") : tr("%1 bars rest").arg(rest)));
    m_words->follow(m_session.transport.evenPlace());
}

QString StandView::shown() const {
    QStringList lines;
    for (const QLabel* label : {m_name, m_place, m_rest})
        if (!label->isHidden()) lines << label->text();
    if (!m_words->isHidden()) lines << m_words->line() << m_words->nextLine();
    return lines.join(QLatin1Char('\n'));
}

void StandView::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Escape: close(); return;
    case Qt::Key_W:
        m_written = !m_written;
        refresh();
        return;
    case Qt::Key_Space: m_session.transport.togglePlay(); return;
    case Qt::Key_Right: m_session.transport.seekSection(1); return;
    case Qt::Key_Left: m_session.transport.seekSection(-1); return;
    default: QWidget::keyPressEvent(event);
    }
}

} // namespace cobbleway
