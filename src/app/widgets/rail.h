#pragma once
#include "app/session/uses.h"
#include "song/snags/snags.h"

#include <QAbstractButton>
#include <QWidget>
#include <vector>

namespace cobbleway {

/// One step of the work on the rail: number, name, and a badge of open snags or a tick.
class RailStep : public QAbstractButton {
    Q_OBJECT
  public:
    RailStep(int number, const QString& name, QWidget* parent = nullptr);
    /// `snags` of this step; −1 shows no badge at all.
    void setSnags(int snags);
    [[nodiscard]] QSize sizeHint() const override { return {84, 62}; }
    /// In a window too low for all, number and name are on one line.
    [[nodiscard]] QSize minimumSizeHint() const override { return {84, 28}; }

  private:
    void paintLow(QPainter& painter);
    void paintEvent(QPaintEvent* event) override;
    int m_number;
    int m_snags = -1;
};

/// The dark rail on the left: the order of the work.
class Rail : public QWidget {
    Q_OBJECT
  public:
    explicit Rail(Uses<uses::Set, uses::Findings> session, QWidget* parent = nullptr);
    void setCurrent(Step step);

  Q_SIGNALS:
    void chosen(Step step);

  private:
    void refresh();
    void paintEvent(QPaintEvent* event) override;
    Uses<uses::Set, uses::Findings> m_session;
    std::vector<RailStep*> m_steps;
    bool m_setting = false; ///< the step is set from outside
};

} // namespace cobbleway
