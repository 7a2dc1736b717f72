#include "app/widgets/snagcard.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/steps.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace cobbleway {
namespace {

constexpr std::size_t mostRows = 50; // shown of one card; what is done for all is done for all

/// A line that tells when it is chosen by click or Enter.
class SnagRow final : public QFrame {
  public:
    explicit SnagRow(std::function<void()> choose) : m_choose(std::move(choose)) {
        setFocusPolicy(Qt::StrongFocus);
        setProperty("look", "snagRow");
    }

  private:
    void mousePressEvent(QMouseEvent*) override { m_choose(); }
    void keyPressEvent(QKeyEvent* event) override {
        if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
            m_choose();
        else
            QFrame::keyPressEvent(event);
    }
    std::function<void()> m_choose;
};

QLabel* wrapped(QLabel* label) {
    label->setWordWrap(true);
    return label;
}

/// The fix that is heard: the first that makes a difference to the ear.
std::optional<std::size_t> audible(const Snag& snag) {
    for (std::size_t i = 0; i < snag.fixes.size(); ++i)
        if (canBeHeard(snag.fixes[i])) return i;
    return std::nullopt;
}

} // namespace

SnagCardView::SnagCardView(const SnagCard& card, const Song& song, SnagDeeds deeds)
    : m_deeds(std::move(deeds)) {
    setAccessibleName(sentence(card.heading));
    setAccessibleDescription(sentence(card.why));
    auto* step = mutedLabel(stepName(card.first().step));
    step->setFont(textFont(8));
    column()->addWidget(step);
    auto* heading = wrapped(new QLabel(sentence(card.heading)));
    heading->setFont(textFont(9.5, QFont::Medium));
    column()->addWidget(heading);
    if (!card.why.empty()) column()->addWidget(wrapped(mutedLabel(sentence(card.why))));
    if (card.rows.size() == 1)
        addSingle(card);
    else
        addSeveral(card, song);
}

QPushButton* SnagCardView::fixButton(const Fix& fix, bool primary, std::size_t row, std::size_t number) {
    auto* made = button(sentence(fix.label), primary);
    made->setFont(textFont(9));
    if (fix.safe) {
        made->setToolTip(tr("Safe: it changes nothing that anyone would miss"));
        made->setAccessibleDescription(made->toolTip());
    }
    connect(made, &QPushButton::clicked, this, [this, row, number] { m_deeds.take(row, number); });
    return made;
}

QPushButton* SnagCardView::compareButton(const Snag& snag, std::size_t row, const QString& label) {
    const auto fix = audible(snag);
    if (!fix) return nullptr;
    const auto heard = m_deeds.heard(row, *fix);
    auto* made = button(heard == SnagDeeds::Heard::Not      ? label
                        : heard == SnagDeeds::Heard::Before ? tr("Hear it fixed")
                                                            : tr("Hear it as it is"));
    made->setFont(textFont(9));
    made->setObjectName(QStringLiteral("compare"));
    made->setToolTip(tr("Before and after “%1”, on the loop (F12)").arg(sentence(snag.fixes[*fix].label)));
    made->setAccessibleDescription(made->toolTip());
    connect(made, &QPushButton::clicked, this, [this, row, f = *fix] { m_deeds.compare(row, f); });
    return made;
}

void SnagCardView::addSingle(const SnagCard& card) {
    const Snag& snag = card.first();
    auto* chosen = new SnagRow([this] { m_deeds.choose(0); });
    chosen->setAccessibleName(sentence(snag.what));
    chosen->setAccessibleDescription(sentence(snag.why));
    auto* flow = new FlowLayout(6, chosen);
    QList<QWidget*> controls = {chosen};
    for (std::size_t i = 0; i < snag.fixes.size(); ++i) {
        controls << fixButton(snag.fixes[i], i == 0 && snag.fixes.size() > 1, 0, i);
        flow->addWidget(controls.back());
    }
    if (auto* compare = compareButton(snag, 0, tr("Hear the difference"))) {
        flow->addWidget(compare);
        controls << compare;
    }
    column()->addWidget(chosen);
    m_rows << controls;
}

QWidget* SnagCardView::rowOf(const Snag& snag, const QString& part, std::size_t row) {
    auto* line = new SnagRow([this, row] { m_deeds.choose(row); });
    line->setAccessibleName(sentence(snag.what));
    line->setAccessibleDescription(sentence(snag.why));
    line->setToolTip(sentence(snag.what));
    auto* lay = new QVBoxLayout(line);
    lay->setContentsMargins(8, 4, 4, 4);
    lay->setSpacing(3);
    auto* text = wrapped(
        new QLabel(tr("<b>%1</b> · %2").arg(part.toHtmlEscaped(), sentence(snag.pill).toHtmlEscaped())));
    text->setTextFormat(Qt::RichText);
    lay->addWidget(text);
    auto* buttons = new QWidget;
    auto* flow = new FlowLayout(4, buttons);
    QList<QWidget*> controls = {line, fixButton(snag.fixes.front(), false, row, 0)};
    flow->addWidget(controls.back());
    if (auto* compare = compareButton(snag, row, tr("Hear it"))) {
        flow->addWidget(compare);
        controls << compare;
    }
    if (snag.fixes.size() > 1) {
        auto* more = new QToolButton;
        more->setText(QStringLiteral("…"));
        more->setProperty("look", "more");
        more->setToolTip(tr("Other fixes"));
        more->setAccessibleName(tr("Other fixes of %1").arg(part));
        more->setPopupMode(QToolButton::InstantPopup);
        auto* menu = new QMenu(more);
        for (std::size_t i = 1; i < snag.fixes.size(); ++i)
            connect(menu->addAction(sentence(snag.fixes[i].label)), &QAction::triggered, this,
                    [this, row, i] { m_deeds.take(row, i); });
        more->setMenu(menu);
        flow->addWidget(more);
        controls << more;
    }
    lay->addWidget(buttons);
    m_rows << controls;
    return line;
}

void SnagCardView::addSeveral(const SnagCard& card, const Song& song) {
    auto* together = new QWidget;
    auto* flow = new FlowLayout(6, together);
    auto* all = mutedLabel(tr("All %1:").arg(card.rows.size()));
    flow->addWidget(all);
    QList<QWidget*> controls;
    for (std::size_t i = 0; i < card.all.size(); ++i) {
        auto* fix = button(sentence(card.all[i].label), i == 0 && card.all.size() > 1);
        fix->setFont(textFont(9));
        fix->setAccessibleName(tr("All %1: %2").arg(card.rows.size()).arg(fix->text()));
        fix->setAccessibleDescription(sentence(card.heading));
        connect(fix, &QPushButton::clicked, this, [this, i] { m_deeds.takeAll(i); });
        flow->addWidget(fix);
        controls << fix;
    }
    column()->addWidget(together);
    together->setVisible(!controls.isEmpty());
    if (!controls.isEmpty()) m_rows << controls;
    for (std::size_t row = 0; row < std::min(mostRows, card.rows.size()); ++row) {
        const Part* part = song.part(card.rows[row].part);
        column()->addWidget(
            rowOf(card.rows[row], part ? QString::fromStdString(part->name) : tr("The whole song"), row));
    }
    if (card.rows.size() > mostRows)
        column()->addWidget(mutedLabel(tr("… and %1 more").arg(card.rows.size() - mostRows)));
}

} // namespace cobbleway
