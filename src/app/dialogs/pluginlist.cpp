#include "app/dialogs/pluginlist.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/pages/shelfmodel.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/painting.h"

#include <QPainter>
#include <QStyledItemDelegate>
#include <algorithm>

namespace cobbleway {
namespace {

/// A plug-in: its name, then who made it; at the end what it has.
class PluginRow final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {160, QFontMetrics(textFont(10)).height() + QFontMetrics(textFont(9)).height() + 16};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Mirrored mirrored(*painter, option.rect, option.direction);
        painter->setRenderHint(QPainter::Antialiasing);
        painter->setPen(Qt::NoPen);
        const QRectF whole(option.rect);
        if (option.state & QStyle::State_Selected) {
            painter->setBrush(theme().selected);
            painter->drawRoundedRect(whole.adjusted(0, 1, -3, -1), 6, 6);
        }
        QRectF row = whole.adjusted(10, 6, -12, -6);
        for (const QString& mark : index.data(PluginList::MarksRole).toStringList())
            row.setRight(row.right() -
                         paintPill(*painter, row.right(), whole.center().y(), mark, Tone::Good).width() - 6);
        QRectF name(row.left(), row.top(), row.width(), row.height() / 2),
            facts(row.left(), row.center().y(), row.width(), row.height() / 2);
        if (index.data(PluginList::FavouriteRole).toBool()) { // a stone before the name
            painter->setPen(Qt::NoPen);
            painter->setBrush(theme().ochre);
            painter->drawRoundedRect(QRectF(name.left(), name.center().y() - 3, 10, 6), 3, 3);
            name.setLeft(name.left() + 15);
        }
        const bool usable = index.flags() & Qt::ItemIsEnabled;
        paintText(*painter, name, index.data().toString(), textFont(10, QFont::DemiBold),
                  usable ? theme().ink : theme().muted);
        paintText(*painter, facts, index.data(PluginList::FactsRole).toString(), textFont(9), theme().muted);
    }
};

} // namespace

QString factsOf(const PluginInfo& plugin) {
    QStringList facts;
    if (!plugin.maker.empty() && plugin.maker != "-") facts << QString::fromStdString(plugin.maker);
    facts << (plugin.instrument ? QObject::tr("%1 out").arg(plugin.out)
                                : QObject::tr("%1 in, %2 out").arg(plugin.in).arg(plugin.out));
    return facts.join(QStringLiteral(" · "));
}

PluginList::PluginList(Uses<uses::Sounds> session, Of of, QObject* parent)
    : QAbstractListModel(parent), m_session(session), m_of(of),
      m_choices(session.sounds.catalogue(), of == Of::Instruments) {
    connect(&session.sounds, &Sounds::catalogueChanged, this, [this] {
        beginResetModel(); // its rows are of the choices
        m_rows.clear();
        m_choices = PluginChoices(m_session.sounds.catalogue(), m_of == Of::Instruments);
        m_rows = m_choices.in(m_group, m_search.toStdString(), kept());
        endResetModel();
    });
    refresh();
}

QAbstractItemDelegate* PluginList::makeRows(QObject* parent) { return new PluginRow(parent); }

QString PluginList::keyOf(const std::string& uri) const {
    return m_of == Of::Instruments ? soundKey({uri, 0, 0, {}, SoundKind::Plugin, 0})
                                   : QStringLiteral("effect|") + QString::fromStdString(uri);
}

PluginsKept PluginList::kept() const {
    const QString before = keyOf({});
    const auto ofList = [&](const QStringList& keys) {
        std::vector<std::string> uris;
        for (const QString& key : keys)
            if (key.startsWith(before)) uris.push_back(key.mid(before.size()).toStdString());
        return uris;
    };
    return {ofList(settings::favouriteSounds()), ofList(settings::recentSounds())};
}

void PluginList::show(int group, const QString& search) {
    m_group = group;
    m_search = search;
    refresh();
}

void PluginList::refresh() {
    beginResetModel();
    m_rows = m_choices.in(m_group, m_search.toStdString(), kept());
    endResetModel();
}

int PluginList::countIn(int group, const QString& search) const {
    return static_cast<int>(m_choices.in(group, search.toStdString(), kept()).size());
}

int PluginList::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_rows.size());
}

const PluginChoice* PluginList::at(int row) const {
    return row >= 0 && row < rowCount() ? m_rows[static_cast<std::size_t>(row)] : nullptr;
}

int PluginList::rowOf(const QString& uri) const {
    const auto row = std::find_if(m_rows.begin(), m_rows.end(), [&](const PluginChoice* choice) {
        return choice->plugin.uri == uri.toStdString();
    });
    return row == m_rows.end() ? -1 : static_cast<int>(row - m_rows.begin());
}

QVariant PluginList::data(const QModelIndex& index, int role) const {
    const PluginChoice* choice = at(index.row());
    if (!choice) return {};
    const PluginInfo& plugin = choice->plugin;
    QStringList marks; // from the right
    if (plugin.window) marks << tr("own window");
    if (plugin.file) marks << tr("file");
    const QString name = QString::fromStdString(plugin.name),
                  facts = choice->why ? sentence(*choice->why) : factsOf(plugin);
    switch (role) {
    case Qt::DisplayRole: return name;
    case FactsRole: return facts;
    case MarksRole: return choice->why ? QStringList() : marks;
    case FavouriteRole: return isFavourite(plugin.uri);
    case Qt::ToolTipRole: return QStringLiteral("%1\n%2").arg(name, facts);
    case Qt::AccessibleTextRole: {
        QStringList text{name, facts};
        if (!choice->why) text << marks;
        if (isFavourite(plugin.uri)) text << tr("a favourite");
        return text.join(QStringLiteral(", "));
    }
    default: return {};
    }
}

bool PluginList::isFavourite(const std::string& uri) const {
    return settings::favouriteSounds().contains(keyOf(uri));
}

void PluginList::setFavourite(const std::string& uri, bool kept) {
    QStringList keys = settings::favouriteSounds();
    keys.removeAll(keyOf(uri));
    if (kept) keys.prepend(keyOf(uri));
    settings::setFavouriteSounds(keys);
    if (rowCount() > 0) Q_EMIT dataChanged(index(0), index(rowCount() - 1));
}

void PluginList::noteUsed(const std::string& uri) { settings::addRecentSound(keyOf(uri)); }

} // namespace cobbleway
