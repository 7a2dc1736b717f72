#pragma once
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QStringList>
#include <functional>

class QAction;
class QToolButton;

namespace cobbleway {

/// What the person is told quietly, a line above the song strip: nothing opens by itself, and no key is
/// taken. Of several the newest is shown; putting it away shows the one before.
class Notices : public QFrame {
    Q_OBJECT
  public:
    /// `actionOf` gives what a notice offers to do, by id; null for nothing.
    explicit Notices(std::function<QAction*(const QString& id)> actionOf, QWidget* parent = nullptr);
    /// Shows a text until it is put away, or its subject has another; an empty text takes it away.
    void note(const QString& subject, const QString& text, const QString& action);
    [[nodiscard]] QString shown() const { return m_list.isEmpty() ? QString() : m_list.last().text; }

  Q_SIGNALS:
    void changed(); ///< the line is there now or not, or is of another height

  private:
    struct Notice {
        QString subject, text, action;
    };
    void refresh();
    void putAway();
    std::function<QAction*(const QString&)> m_actionOf;
    QList<Notice> m_list; ///< the newest last
    QLabel* m_text;
    QPushButton* m_do;
    QToolButton* m_close;
};

} // namespace cobbleway
