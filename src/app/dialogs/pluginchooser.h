#pragma once
#include "app/dialogs/forms.h"
#include "app/dialogs/pluginlist.h"
#include "app/session/uses.h"
#include "song/model/song.h"

class QCheckBox;
class QLineEdit;
class QListWidget;

namespace cobbleway {

class Card;
class PluginControls;
class RowList;

/// Chooses a plug-in: found by kind, by words, among those kept or used lately; set and heard in the song
/// before it is taken.
class PluginChooser : public Form {
    Q_OBJECT
  public:
    using Of = PluginList::Of;
    /// For a part of the song that is shown; 0: the whole mix, which has effects alone.
    PluginChooser(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> session, Of of, PartId part,
                  QWidget* parent);
    ~PluginChooser() override;

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* makeGroups();
    QWidget* makeCard();
    void fillGroups();
    void filter();
    void showCurrent();
    void showState();
    void hear(bool on);
    void take();
    [[nodiscard]] const PluginChoice* current() const;
    /// The song with what is chosen.
    [[nodiscard]] std::function<Song(const Song&)> edit() const;
    Uses<uses::Set, uses::Sounds, uses::Transport, uses::Windows> m_session;
    Of m_of;
    PartId m_part;
    QString m_where; ///< the part's name
    PluginList* m_model;
    QLineEdit* m_search;
    QListWidget* m_groups;
    RowList* m_list;
    QLabel *m_state, *m_name, *m_facts, *m_empty;
    QPushButton *m_hear, *m_take;
    QCheckBox* m_favourite;
    PluginControls* m_controls;
    PluginSettings m_settings; ///< of the current one
    QString m_shown;           ///< its URI
    bool m_beganPlaying = false;
};

} // namespace cobbleway
