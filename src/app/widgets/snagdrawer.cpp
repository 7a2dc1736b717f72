#include "app/widgets/snagdrawer.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/session/difference.h"
#include "app/session/session.h"
#include "app/steps.h"
#include "app/widgets/focus.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/small.h"
#include "app/widgets/snagcard.h"
#include "app/widgets/whenshown.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

/// What tells the difference that a fix makes from others.
QString differenceOf(const Snag& snag, std::size_t fix) {
    return QString::fromStdString(snag.key + " " + std::to_string(fix));
}

} // namespace

SnagDrawer::SnagDrawer(Uses<uses::Set, uses::Findings, uses::Sounds, uses::Transport, uses::Messages> session,
                       QWidget* parent)
    : QFrame(parent), m_session(session), m_difference(new Difference(session, this)),
      m_area(new FocusScroll(new QWidget)), m_count(titleLabel()), m_all(button(tr("Apply all safe fixes"))),
      m_close(new QToolButton) {
    setObjectName(QStringLiteral("snagDrawer"));
    setAccessibleName(tr("Snags"));
    m_keys = new GridKeys(this);
    auto* top = new QHBoxLayout;
    m_close->setIcon(icon(QStringLiteral("x")));
    m_close->setProperty("look", "flat");
    m_close->setAccessibleName(tr("Close the snags"));
    connect(m_close, &QToolButton::clicked, this, &SnagDrawer::closed);
    top->addWidget(m_count, 1);
    top->addWidget(m_all);
    top->addWidget(m_close);
    m_area->setWidgetResizable(true);
    m_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_area->setFocusPolicy(Qt::NoFocus);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 8, 12);
    layout->addLayout(top);
    layout->addWidget(m_area, 1);
    connect(m_all, &QPushButton::clicked, &session.findings, &Findings::fixAllSafe);
    m_shown = new WhenShown(this, [this] { refresh(); });
    connect(&session.findings, &Findings::snagsChanged, m_shown, &WhenShown::request);
    follow(session.current, Side::File, m_shown, &WhenShown::request);
    connect(m_difference, &Difference::changed, m_shown, &WhenShown::request);
    connect(themeSignal(), &ThemeSignal::changed, m_shown, &WhenShown::request);
}

void SnagDrawer::refresh() {
    setStyleSheet(QStringLiteral("#snagDrawer { background: %1; border-left: 1px solid %2; }")
                      .arg(theme().ground.name(), theme().line.name()));
    const auto& snags = m_session.findings.snags();
    const auto asked = askedCount(snags);
    m_count->setText(asked == 0 ? tr("Nothing left to decide")
                                : (asked == 1 ? tr("1 snag") : tr("%1 snags").arg(asked)));
    m_all->setEnabled(std::any_of(snags.begin(), snags.end(), [](const Snag& s) {
        return std::any_of(s.fixes.begin(), s.fixes.end(), [](const Fix& m) { return m.safe; });
    }));
    const bool hadFocus = m_area->widget() && focusWidget() &&
                          m_area->widget()->isAncestorOf(focusWidget()) && focusWidget()->hasFocus();
    const qsizetype row = m_keys->current();
    m_keys->clear();
    auto* list = new QWidget;
    auto* column = new QVBoxLayout(list);
    column->setContentsMargins(0, 4, 6, 4);
    column->setSpacing(8);
    if (snags.empty())
        column->addWidget(mutedLabel(m_session.current.hasSong()
                                         ? tr("Every part has its sound, and nothing needs a decision.")
                                         : tr("Add a song, and what is odd about it is listed here.")));
    const auto cards = std::make_shared<const std::vector<SnagCard>>(cardsOf(snags));
    bool known = false;
    for (const SnagCard& card : *cards) {
        if (card.rows.empty()) continue;
        if (!card.first().asked && !std::exchange(known, true))
            column->addWidget(mutedLabel(tr("Good to know")));
        column->addWidget(viewOf(std::shared_ptr<const SnagCard>(cards, &card)));
    }
    column->addStretch();
    const int at = m_area->verticalScrollBar()->value();
    exchangeContent(m_area, list);
    m_area->verticalScrollBar()->setValue(at);
    if (hadFocus && !snags.empty()) m_keys->focusRow(row); // a fixed one's neighbour
}

void SnagDrawer::takeFocus() {
    takeTyping(this); // which may change what the snags are
    refresh();        // it may be waiting to be shown
    if (m_session.findings.snags().empty())
        m_close->setFocus(Qt::TabFocusReason);
    else
        m_keys->focusRow(0);
}

/// The card lives as long as its view: what is shown next may have other cards.
QWidget* SnagDrawer::viewOf(const std::shared_ptr<const SnagCard>& card) {
    SnagDeeds deeds;
    deeds.choose = [this, card](std::size_t row) { choose(card->rows[row]); };
    deeds.take = [this, card](std::size_t row, std::size_t fix) {
        const Fix& chosen = card->rows[row].fixes[fix];
        m_session.current.edit(sentence(chosen.label), chosen.apply);
    };
    deeds.takeAll = [this, card](std::size_t fix) {
        const FixOfAll& chosen = card->all[fix];
        m_session.current.edit(sentence(chosen.label), chosen.apply);
    };
    deeds.compare = [this, card](std::size_t row, std::size_t fix) { compare(card->rows[row], fix); };
    deeds.heard = [this, card](std::size_t row, std::size_t fix) {
        if (!m_difference->isOf(differenceOf(card->rows[row], fix))) return SnagDeeds::Heard::Not;
        return m_difference->isAfter() ? SnagDeeds::Heard::After : SnagDeeds::Heard::Before;
    };
    auto* view = new SnagCardView(*card, m_session.current.song(), std::move(deeds));
    for (const auto& controls : view->rows()) m_keys->addRow(controls);
    return view;
}

void SnagDrawer::choose(const Snag& snag) {
    if (snag.part) m_session.current.selectPart(snag.part);
    if (!m_session.transport.player().isPlaying()) m_session.transport.seek(snag.place);
    Q_EMIT goTo(snag.step);
}

void SnagDrawer::compare(const Snag& snag, std::size_t fix) {
    if (snag.part) m_session.current.selectPart(snag.part);
    m_difference->toggle(differenceOf(snag, fix), snag.fixes[fix], snag.place);
}

void SnagDrawer::hearDifference() {
    if (QWidget* focused = focusWidget(); focused && focused->hasFocus())
        for (QWidget* at = focused; at && at != this; at = at->parentWidget())
            if (auto* own = at->findChild<QPushButton*>(QStringLiteral("compare"));
                own && at->property("look") == QLatin1String("snagRow"))
                return own->click();
    if (auto* first = findChild<QPushButton*>(QStringLiteral("compare"))) return first->click();
    Q_EMIT m_session.messages.announced(tr("No fix here makes a difference that can be heard"));
}

void SnagDrawer::hideEvent(QHideEvent* event) {
    m_difference->end();
    QFrame::hideEvent(event);
}

void SnagDrawer::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape)
        Q_EMIT closed(); // and ends a difference that is heard
    else
        QFrame::keyPressEvent(event);
}

} // namespace cobbleway
