#pragma once
#include "app/session/uses.h"
#include "files/exports.h"

#include <QAbstractListModel>
#include <QWidget>
#include <set>
#include <stop_token>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListView;
class QProgressBar;
class QPushButton;

namespace cobbleway {

class Card;
class WhenShown;

/// What can be written, as rows to tick, with what came of it.
class ExportModel : public QAbstractListModel {
    Q_OBJECT
  public:
    enum Role { FileRole = Qt::UserRole, OutcomeRole, StateRole, GroupRole };
    enum State { Idle, Waiting, Written, Failed };
    explicit ExportModel(Uses<uses::Messages, uses::Set> session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] std::vector<ExportItem> ticked() const;
    void tickOnly(const std::function<bool(const ExportItem&)>& wanted);
    void setWaiting();
    void takeOutcomes(const std::vector<ExportItem>& items, const std::vector<ExportOutcome>& outcomes);

  Q_SIGNALS:
    void ticksChanged();

  private:
    void refresh();
    struct Row {
        ExportItem item;
        bool ticked = false;
        State state = Idle;
        QString outcome;
        QString writtenAs = {}; ///< file name, where it got another than it was to have
    };
    Uses<uses::Messages, uses::Set> m_session;
    std::vector<Row> m_rows;
};

/// Page 5: writes MIDI and sound files, in one go, beside the interface.
class ExportPage : public QWidget {
    Q_OBJECT
  public:
    explicit ExportPage(Uses<uses::Messages, uses::Set, uses::Sounds> session, QWidget* parent = nullptr);
    ~ExportPage() override;
    void setFolder(const QString& folder);
    [[nodiscard]] ExportModel* model() const { return m_model; }
    [[nodiscard]] bool isWriting() const { return m_writing; }
    void write();
    void stop();
    /// Calls `then` with what becomes of files that are there already; not at all when nothing is to be
    /// written. Tests answer instead of a dialog.
    std::function<void(const std::vector<std::filesystem::path>& there,
                       const std::function<void(Existing)>& then)>
        askAboutExisting;

  Q_SIGNALS:
    void finished();

  private:
    void refresh();
    void askWhatBecomesOf(const std::vector<std::filesystem::path>& there,
                          const std::function<void(Existing)>& then);
    void writeItems(const std::vector<ExportItem>& items, Existing existing);
    void showProgress(double share);
    QWidget* makeOptions();
    void addMidiOptions(Card* card);
    void refreshMidi();
    Uses<uses::Messages, uses::Set, uses::Sounds> m_session;
    WhenShown* m_shown = nullptr;
    ExportModel* m_model;
    QListView* m_list;
    QLabel *m_count, *m_status;
    QComboBox *m_rate, *m_pace;
    QCheckBox *m_writtenIn, *m_running, *m_folded;
    QLabel* m_lost;
    QLineEdit* m_folder;
    QProgressBar* m_progress;
    QPushButton *m_write, *m_stop;
    std::stop_source m_stopSource;
    bool m_writing = false;
};

} // namespace cobbleway
