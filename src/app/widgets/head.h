#pragma once
#include "app/session/uses.h"
#include "app/widgets/readable.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>

class QAction;

namespace cobbleway {

/// The line at the top: the song's name and facts, undo, redo, snags.
class Head : public Readable<QWidget> {
    Q_OBJECT
  public:
    Head(Uses<uses::Set, uses::Findings> session, QAction* undo, QAction* redo, QAction* snags,
         QWidget* parent = nullptr);

  private:
    void refresh();
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    [[nodiscard]] QSize minimumSizeHint() const override { return {420, 46}; }
    Uses<uses::Set, uses::Findings> m_session;
    QLabel* m_name;
    QLabel* m_facts;
    QPushButton *m_undo, *m_redo, *m_snags;
};

/// "type 0 · 10 parts · 2:55 · 80 bars · 4/4 · ♩ = 104–118 · GM".
QString factsText(const struct Song& song);

} // namespace cobbleway
