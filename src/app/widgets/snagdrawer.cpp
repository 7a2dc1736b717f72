#include "app/widgets/snagdrawer.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/steps.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/small.h"
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

/// A card that tells when it is chosen by click, focus or Enter.
class SnagCard final : public Card {
  public:
    explicit SnagCard(std::function<void()> choose) : m_choose(std::move(choose)) {
        setFocusPolicy(Qt::StrongFocus);
    }

  private:
    void mousePressEvent(QMouseEvent*) override { m_choose(); }
    void keyPressEvent(QKeyEvent* event) override {
        if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
            m_choose();
        else
            Card::keyPressEvent(event);
    }
    std::function<void()> m_choose;
};

} // namespace

SnagDrawer::SnagDrawer(Uses<uses::Set, uses::Findings, uses::Playback> session, QWidget* parent)
    : QFrame(parent), m_session(session), m_area(new FocusScroll(new QWidget)), m_count(titleLabel()),
      m_all(button(tr("Apply all safe fixes"))), m_close(new QToolButton) {
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
    connect(m_all, &QPushButton::clicked, &session.findings, &Findings::mendAllSafe);
    m_shown = new WhenShown(this, [this] { refresh(); });
    connect(&session.findings, &Findings::snagsChanged, m_shown, &WhenShown::request);
    follow(session.current, Side::File, m_shown, &WhenShown::request);
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
        return std::any_of(s.mends.begin(), s.mends.end(), [](const Mend& m) { return m.safe; });
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
    std::optional<Step> step;
    int number = 0;
    for (const Snag& snag : snags) {
        if (snag.asked && step != snag.step) column->addWidget(mutedLabel(stepName(snag.step)));
        if (!snag.asked && static_cast<std::size_t>(number) == asked)
            column->addWidget(mutedLabel(tr("Good to know")));
        step = snag.step;
        column->addWidget(cardFor(snag, number++));
    }
    column->addStretch();
    const int at = m_area->verticalScrollBar()->value();
    m_area->setWidget(list);
    m_area->verticalScrollBar()->setValue(at);
    if (hadFocus && !snags.empty()) m_keys->focusRow(row); // a fixed one's neighbour
}

void SnagDrawer::takeFocus() {
    refresh(); // it may be waiting to be shown
    if (m_session.findings.snags().empty())
        m_close->setFocus(Qt::TabFocusReason);
    else
        m_keys->focusRow(0);
}

QWidget* SnagDrawer::cardFor(const Snag& snag, int number) {
    auto* card = new SnagCard([this, number] {
        const Snag chosen = m_session.findings.snags()[static_cast<std::size_t>(number)];
        if (chosen.part) m_session.current.selectPart(chosen.part);
        if (!m_session.playback.player().isPlaying()) m_session.playback.seek(chosen.place);
        Q_EMIT goTo(chosen.step);
    });
    card->setAccessibleName(QString::fromStdString(snag.what));
    card->setAccessibleDescription(QString::fromStdString(snag.why));
    auto* what = new QLabel(QString::fromStdString(snag.what));
    what->setWordWrap(true);
    what->setFont(textFont(9.5, QFont::Medium));
    card->column()->addWidget(what);
    card->column()->addWidget(mutedLabel(QString::fromStdString(snag.why)));
    QList<QWidget*> controls = {card};
    auto* mends = new QWidget;
    auto* flow = new FlowLayout(6, mends);
    for (std::size_t i = 0; i < snag.mends.size(); ++i) {
        auto* mend = button(QString::fromStdString(snag.mends[i].label), i == 0 && snag.mends.size() > 1);
        mend->setFont(textFont(9));
        if (snag.mends[i].safe) {
            mend->setToolTip(tr("Safe: it changes nothing that anyone would miss"));
            mend->setAccessibleDescription(mend->toolTip());
        }
        connect(mend, &QPushButton::clicked, this, [this, number, i] {
            const Snag chosen = m_session.findings.snags()[static_cast<std::size_t>(number)];
            m_session.current.edit(QString::fromStdString(chosen.mends[i].label), chosen.mends[i].apply);
        });
        flow->addWidget(mend);
        controls << mend;
    }
    m_keys->addRow(controls);
    card->column()->addWidget(mends);
    return card;
}

void SnagDrawer::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape)
        Q_EMIT closed();
    else
        QFrame::keyPressEvent(event);
}

} // namespace cobbleway
