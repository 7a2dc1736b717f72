#include "app/pages/drumsmodel.h"

#include "app/session/session.h"
#include "song/drums/drumedits.h"

#include <QMimeData>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr const char* noteMime = "application/x-cobbleway-drum-notes";

} // namespace

QString trimText(const VelocityShape& trim) {
    if (trim.offset == 0) return {};
    return trim.offset < 0 ? QObject::tr("%1 softer").arg(-trim.offset)
                           : QObject::tr("%1 harder").arg(trim.offset);
}

QString drumNoteText(const DrumNote& note) {
    QStringList said = {QStringLiteral("%1 %2").arg(note.key.value).arg(QString::fromStdString(note.name)),
                        note.hits == 1 ? QObject::tr("1 hit") : QObject::tr("%1 hits").arg(note.hits)};
    if (note.off)
        said << QObject::tr("left out");
    else
        said << QObject::tr("plays %1 %2").arg(note.plays.value).arg(QString::fromStdString(note.playsName));
    if (const QString trim = trimText(note.trim); !trim.isEmpty()) said << trim;
    if (note.trim.compress > 0)
        said << QObject::tr("spread %1 percent").arg(qRound((1 - note.trim.compress) * 100));
    if (note.silent > 0)
        said << (note.silent == note.hits
                     ? QObject::tr("no sound in this kit")
                     : QObject::tr("%1 hits have no sound in this kit").arg(note.silent));
    return said.join(QStringLiteral(", "));
}

DrumsModel::DrumsModel(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> session,
                       QObject* parent)
    : QAbstractListModel(parent), m_session(session) {}

void DrumsModel::setPart(PartId part) {
    m_part = part;
    refresh();
}

void DrumsModel::setOrder(Order order) {
    m_order = order;
    refresh();
}

void DrumsModel::setAll(bool all) {
    m_all = all;
    refresh();
}

void DrumsModel::refresh() {
    const Part* part = m_session.current.hasSong() ? m_session.current.song().part(m_part) : nullptr;
    std::vector<DrumNote> notes;
    if (part && part->source.drums) {
        const Song& song = m_session.current.song();
        const auto& derived = m_session.findings.derived();
        m_view = derived->drums(song, *part, m_session.sounds.catalogue());
        const Loop& loop = m_session.transport.loop();
        m_prints =
            derived->barPrints(song, *part, loop.on ? loop.start : 0, loop.on ? loop.end : song.end + 1);
        const PartMatch* match = m_session.findings.matchOf(m_part);
        notes = m_all && match ? drumNotesOf(*part, *match, m_view->kit, *m_view->hits, true) : m_view->notes;
        m_strongest = 1e-9;
        for (const auto& slots : m_prints->keys)
            for (const double slot : slots) m_strongest = std::max(m_strongest, slot);
    } else {
        m_view = nullptr;
        m_prints = nullptr;
    }
    if (m_order == Order::ByPiece)
        std::stable_sort(notes.begin(), notes.end(),
                         [](const DrumNote& a, const DrumNote& b) { return a.piece < b.piece; });
    if (m_order == Order::ByHits)
        std::stable_sort(notes.begin(), notes.end(),
                         [](const DrumNote& a, const DrumNote& b) { return a.hits > b.hits; });
    const bool sameRows = std::equal(notes.begin(), notes.end(), m_notes.begin(), m_notes.end(),
                                     [](const DrumNote& a, const DrumNote& b) { return a.key == b.key; });
    if (!sameRows) beginResetModel();
    m_notes = std::move(notes);
    if (!sameRows)
        endResetModel();
    else if (!m_notes.empty())
        Q_EMIT dataChanged(index(0), index(rowCount() - 1));
}

int DrumsModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_notes.size());
}

const DrumNote* DrumsModel::note(const QModelIndex& index) const {
    return index.isValid() && index.row() < rowCount() ? &m_notes[static_cast<std::size_t>(index.row())]
                                                       : nullptr;
}

QModelIndex DrumsModel::indexOf(Key key) const {
    for (int row = 0; row < rowCount(); ++row)
        if (m_notes[static_cast<std::size_t>(row)].key == key) return index(row);
    return {};
}

QVariant DrumsModel::data(const QModelIndex& index, int role) const {
    const DrumNote* shown = note(index);
    if (!shown) return {};
    switch (role) {
    case Qt::DisplayRole:
    case Qt::EditRole: return QString::fromStdString(shown->name);
    case Qt::AccessibleTextRole: return drumNoteText(*shown);
    case Qt::ToolTipRole:
        switch (shown->from) {
        case NameFrom::Person: return tr("The name is yours.");
        case NameFrom::Kit: return tr("The name is the kit's own.");
        case NameFrom::Dialect: return tr("The name is that of the published percussion map.");
        case NameFrom::None: break;
        }
        return tr("Neither the kit nor the percussion map names this note.");
    default: return {};
    }
}

bool DrumsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    const DrumNote* shown = note(index);
    if (!shown || role != Qt::EditRole) return false;
    const std::string name = value.toString().toStdString();
    if (name == shown->name) return false;
    m_session.current.edit(tr("Name %1").arg(shown->key.value),
                           [part = m_part, key = shown->key, name](const Song& song) {
                               return edits::nameDrum(song, part, key, name);
                           });
    return true;
}

Qt::ItemFlags DrumsModel::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::NoItemFlags;
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable | Qt::ItemIsDragEnabled |
           Qt::ItemIsDropEnabled;
}

QStringList DrumsModel::mimeTypes() const { return {QLatin1String(noteMime)}; }

QMimeData* DrumsModel::mimeData(const QModelIndexList& indexes) const {
    QByteArray keys;
    for (const QModelIndex& index : indexes)
        if (const DrumNote* shown = note(index)) keys.append(static_cast<char>(shown->key.value));
    auto* data = new QMimeData;
    data->setData(QLatin1String(noteMime), keys);
    return data;
}

bool DrumsModel::dropMimeData(const QMimeData* data, Qt::DropAction, int, int, const QModelIndex& parent) {
    const DrumNote* onto = note(parent);
    if (!onto) return false;
    std::vector<Key> keys;
    for (const char key : data->data(QLatin1String(noteMime)))
        if (static_cast<std::uint8_t>(key) != onto->key.value)
            keys.push_back(Key{static_cast<std::uint8_t>(key)});
    m_session.current.edit(tr("Play %1").arg(QString::fromStdString(onto->playsName)),
                           [part = m_part, keys, target = onto->plays](const Song& song) {
                               return edits::setDrumTarget(song, part, keys, target);
                           });
    return false; // the song has changed; the view must not remove the row
}

} // namespace cobbleway
