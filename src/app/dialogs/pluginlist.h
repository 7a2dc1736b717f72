#pragma once
#include "app/session/uses.h"
#include "song/match/pluginchoice.h"

#include <QAbstractListModel>
#include <QStringList>

class QAbstractItemDelegate;

namespace cobbleway {

/// The plug-ins of a group that fit a search; those that are kept and were used lately are those of the
/// shelf.
class PluginList : public QAbstractListModel {
    Q_OBJECT
  public:
    enum class Of { Instruments, Effects };
    PluginList(Uses<uses::Sounds> session, Of of, QObject* parent);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    void show(int group, const QString& search); ///< a PluginGroup
    [[nodiscard]] int countIn(int group, const QString& search) const;
    [[nodiscard]] const PluginChoice* at(int row) const; ///< null for none
    [[nodiscard]] int rowOf(const QString& uri) const;   ///< −1 when it is not shown

    [[nodiscard]] bool isFavourite(const std::string& uri) const;
    void setFavourite(const std::string& uri, bool kept);
    void noteUsed(const std::string& uri);
    enum Role { FactsRole = Qt::UserRole, MarksRole, FavouriteRole };

    /// Paints its rows in two lines.
    static QAbstractItemDelegate* makeRows(QObject* parent);

  private:
    void refresh();
    [[nodiscard]] QString keyOf(const std::string& uri) const; ///< in the settings
    [[nodiscard]] PluginsKept kept() const;
    Uses<uses::Sounds> m_session;
    Of m_of;
    PluginChoices m_choices;
    std::vector<const PluginChoice*> m_rows;
    int m_group = allPlugins;
    QString m_search;
};

/// "Nave Audio · 2 in, 2 out".
QString factsOf(const PluginInfo& plugin);

} // namespace cobbleway
