#include "app/pages/shelfmodel.h"

#include "app/look/sentence.h"
#include "app/session/session.h"
#include "app/session/settings.h"

#include <QMimeData>
#include <algorithm>

namespace cobbleway {
namespace {

QString numberText(const SoundRef& sound) {
    switch (sound.kind) {
    case SoundKind::Plugin: return QStringLiteral("LV2");
    case SoundKind::Port: return QObject::tr("ch %1").arg(sound.channel + 1);
    case SoundKind::Preset: break;
    }
    return QStringLiteral("%1:%2").arg(sound.bank).arg(sound.program);
}

/// Rows of ports stand for all banks and programs behind them.
bool isOnRow(const SoundRef& sound, const SoundRef& row) {
    if (sound.kind != SoundKind::Port) return sound == row;
    return row.kind == SoundKind::Port && row.font == sound.font && row.channel == sound.channel;
}

} // namespace

QString soundKey(const SoundRef& sound) {
    return QStringLiteral("%1|%2|%3|%4|%5")
        .arg(static_cast<int>(sound.kind))
        .arg(sound.bank)
        .arg(sound.program)
        .arg(sound.channel)
        .arg(QString::fromStdString(sound.font));
}

ShelfModel::ShelfModel(Uses<uses::Set, uses::Sounds> session, QObject* parent)
    : QAbstractListModel(parent), m_session(session), m_favourites(settings::favouriteSounds()) {
    connect(&session.sounds, &Sounds::catalogueChanged, this, &ShelfModel::refresh);
    const auto refit = [this] {
        if (m_family == Suggested) fill();
    };
    connect(&session.current, &CurrentSet::selectionChanged, this, refit);
    connect(&session.current, &CurrentSet::songChanged, this, [refit](Sides sides) {
        if (sides.has(Side::Notes | Side::Names)) refit();
    });
    refresh();
}

void ShelfModel::setFilter(const QString& words, int family) {
    m_words = words;
    m_family = family;
    fill();
}

void ShelfModel::refresh() {
    m_all = shelfOf(m_session.sounds.catalogue());
    fill();
}

void ShelfModel::fill() {
    beginResetModel();
    m_rows.clear();
    m_reasons.clear();
    if (m_family == Suggested) {
        fillSuggested();
        endResetModel();
        return;
    }
    const ShelfSearch search(m_words.toStdString());
    const QStringList keys = m_family == Recent ? settings::recentSounds() : m_favourites;
    std::vector<std::size_t> meant; // after those that fit by the letter
    for (std::size_t i = 0; i < m_all.size(); ++i) {
        const ShelfSound& sound = m_all[i];
        if (m_family >= Favourites && !keys.contains(soundKey(sound.sound))) continue;
        if (m_family >= 0 && m_family < Favourites && sound.family != m_family) continue;
        const Fit fit = search.fit(sound);
        if (fit != Fit::No) (fit == Fit::Literal ? m_rows : meant).push_back(i);
    }
    m_rows.insert(m_rows.end(), meant.begin(), meant.end());
    if (m_family >= Favourites) // the newest first
        std::stable_sort(m_rows.begin(), m_rows.end(), [&](std::size_t a, std::size_t b) {
            return keys.indexOf(soundKey(m_all[a].sound)) < keys.indexOf(soundKey(m_all[b].sound));
        });
    endResetModel();
}

void ShelfModel::fillSuggested() {
    const Part* part = m_session.current.part();
    if (!part) return;
    constexpr std::size_t most = 12;
    const ShelfSearch search(m_words.toStdString());
    for (const RankedSound& ranked :
         rankedSounds(m_session.current.song(), *part, m_session.sounds.catalogue(), most))
        for (std::size_t i = 0; i < m_all.size(); ++i)
            if (m_all[i].sound == ranked.sound && search.fit(m_all[i]) != Fit::No) {
                m_rows.push_back(i);
                m_reasons.push_back(sentence(ranked.why));
            }
}

int ShelfModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_rows.size());
}

QVariant ShelfModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const ShelfSound& row = shown(index.row());
    const QString name = QString::fromStdString(row.sound.name), place = QString::fromStdString(row.place);
    switch (role) {
    case Qt::DisplayRole: return name;
    case NumberRole: return numberText(row.sound);
    case PlaceRole: return m_session.sounds.catalogue().fonts().size() > 1 ? place : QString();
    case FavouriteRole: return isFavourite(row.sound);
    case Qt::ToolTipRole: {
        const QString where = QStringLiteral("%1 · %2").arg(place, numberText(row.sound));
        return m_reasons.empty()
                   ? where
                   : where + QLatin1Char('\n') + m_reasons[static_cast<std::size_t>(index.row())];
    }
    case Qt::AccessibleTextRole:
        return tr("%1, %2, %3%4%5")
            .arg(name, place, numberText(row.sound), isFavourite(row.sound) ? tr(", a favourite") : QString(),
                 m_reasons.empty() ? QString()
                                   : QStringLiteral(", ") + m_reasons[static_cast<std::size_t>(index.row())]);
    default: return {};
    }
}

Qt::ItemFlags ShelfModel::flags(const QModelIndex& index) const {
    return QAbstractListModel::flags(index) | (index.isValid() ? Qt::ItemIsDragEnabled : Qt::NoItemFlags);
}

QStringList ShelfModel::mimeTypes() const { return {QLatin1String(soundMime)}; }

QMimeData* ShelfModel::mimeData(const QModelIndexList& indexes) const {
    auto* data = new QMimeData;
    if (!indexes.isEmpty())
        data->setData(QLatin1String(soundMime), soundKey(soundAt(indexes.first().row())).toUtf8());
    return data;
}

QModelIndex ShelfModel::indexOf(const SoundRef& sound) const {
    const auto at = std::find_if(m_rows.begin(), m_rows.end(),
                                 [&](std::size_t row) { return isOnRow(sound, m_all[row].sound); });
    return at == m_rows.end() ? QModelIndex() : index(static_cast<int>(at - m_rows.begin()));
}

void ShelfModel::toggleFavourite(const SoundRef& sound) {
    const QString key = soundKey(sound);
    m_favourites = settings::favouriteSounds(); // others keep theirs there, too
    if (!m_favourites.removeOne(key)) m_favourites.prepend(key);
    settings::setFavouriteSounds(m_favourites);
    if (m_family == Favourites)
        fill();
    else if (rowCount() > 0)
        Q_EMIT dataChanged(index(0), index(rowCount() - 1));
}

void ShelfModel::noteUsed(const SoundRef& sound) {
    settings::addRecentSound(soundKey(sound));
    if (m_family == Recent) fill();
}

} // namespace cobbleway
