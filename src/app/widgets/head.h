#pragma once
#include <QLabel>
#include <QPushButton>
#include <QWidget>

class QAction;

namespace cobbleway {

struct Session;

/// The line at the top: the song's name and facts, undo, redo, snags.
class Head : public QWidget {
    Q_OBJECT
  public:
    Head(Session& session, QAction* undo, QAction* redo, QAction* snags, QWidget* parent = nullptr);

  private:
    void refresh();
    void paintEvent(QPaintEvent* event) override;
    Session& m_session;
    QLabel* m_name;
    QLabel* m_facts;
    QPushButton* m_snags;
};

/// "type 0 · 10 parts · 2:55 · 80 bars · 4/4 · ♩ = 104–118 · GM".
QString factsText(const struct Song& song);

} // namespace cobbleway
