#include "app/pages/partsmodel.h"

#include "app/look/sentence.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "midi/gm.h"
#include "song/model/names.h"
#include "song/shape/edits.h"

#include <QAbstractItemView>
#include <QMimeData>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr const char* rowMime = "application/x-cobbleway-part";

QString spokenText(const Uses<uses::Set, uses::Findings>& session, const Part& part) {
    QStringList said = {QString::fromStdString(part.name), asksText(session, part.id)};
    if (const PartMatch* match = session.findings.matchOf(part.id)) {
        const auto& sound = match->first().sound;
        said << QObject::tr("match %1").arg(QString::fromUtf8(howName(match->first().how).data()));
        said << (sound ? QObject::tr("plays with %1").arg(QString::fromStdString(sound->name))
                       : QObject::tr("nothing plays it"));
    }
    said << QObject::tr("%1 notes").arg(session.findings.heard(part.id)->notes.size());
    if (part.mix.levelDb != 0) said << QObject::tr("level %1").arg(dbText(part.mix.levelDb));
    for (const Snag& snag : session.findings.snags())
        if (snag.asked && snag.part == part.id) said << sentence(snag.pill);
    return said.join(QStringLiteral(", "));
}

} // namespace

QString asksText(const Uses<uses::Findings>& session, PartId id) {
    const PartMatch* match = session.findings.matchOf(id);
    if (!match) return {};
    QString text = QObject::tr("asks for %1").arg(QString::fromStdString(askText(match->asks.front())));
    if (match->asks.size() > 1) text += QObject::tr(" and %1 more").arg(match->asks.size() - 1);
    return text;
}

PartsModel::PartsModel(Uses<uses::Set, uses::Findings> session, QObject* parent)
    : QAbstractListModel(parent), m_session(session) {
    follow(session.current, Side::Names | Side::Notes | Side::Sounds | Side::Levels, this,
           &PartsModel::refreshChanged);
    connect(&session.findings, &Findings::matchesChanged, this, &PartsModel::refresh);
    connect(&session.findings, &Findings::snagsChanged, this, &PartsModel::refresh);
    refresh();
}

void PartsModel::refresh() {
    std::vector<PartId> ids;
    if (m_session.current.hasSong())
        for (const Part& part : m_session.current.song().parts)
            if (!part.aside) ids.push_back(part.id);
    if (ids == m_ids) {
        if (!ids.empty()) Q_EMIT dataChanged(index(0), index(rowCount() - 1));
    } else {
        beginResetModel();
        m_ids = std::move(ids);
        m_rowOf.clear();
        for (const PartId id : m_ids) m_rowOf.emplace(id, static_cast<int>(m_rowOf.size()));
        endResetModel();
    }
    m_shown = m_session.current.hasSong() ? m_session.current.song().parts : std::vector<Part>{};
}

/// Rows are painted anew only where their part has changed.
void PartsModel::refreshChanged() {
    const auto& parts = m_session.current.hasSong() ? m_session.current.song().parts : m_shown;
    const bool sameRows =
        std::equal(parts.begin(), parts.end(), m_shown.begin(), m_shown.end(),
                   [](const Part& a, const Part& b) { return a.id == b.id && a.aside == b.aside; });
    std::vector<PartId> changed;
    for (std::size_t i = 0; sameRows && i < parts.size(); ++i)
        if (!(parts[i] == m_shown[i])) changed.push_back(parts[i].id);
    if (changed.empty() || !m_session.current.hasSong()) return refresh(); // what they share has changed
    m_shown = parts;
    for (const PartId id : changed)
        if (const QModelIndex row = indexOf(id); row.isValid()) Q_EMIT dataChanged(row, row);
}

int PartsModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_ids.size());
}

QVariant PartsModel::data(const QModelIndex& index, int role) const {
    const Part* part = index.isValid() && index.row() < rowCount() && m_session.current.hasSong()
                           ? m_session.current.song().part(idAt(index))
                           : nullptr;
    if (!part) return {};
    switch (role) {
    case IdRole: return part->id;
    case Qt::DisplayRole:
    case Qt::EditRole: return QString::fromStdString(part->name);
    case Qt::ToolTipRole: {
        const PartMatch* match = m_session.findings.matchOf(part->id);
        QString why = match ? sentence(match->first().why) : QString();
        const std::string file = nameInFile(m_session.current.song(), *part);
        if (!file.empty() && file != part->name)
            why = tr("Called “%1” in the file.\n%2").arg(QString::fromStdString(file), why);
        if (!part->source.drums) return why;
        return why + tr("\nIts rows, from the top: cymbals, hats, percussion, toms, snare, kick, other.");
    }
    case Qt::AccessibleTextRole: return spokenText(m_session, *part);
    default: return {};
    }
}

bool PartsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::EditRole || !index.isValid()) return false;
    const PartId id = idAt(index);
    m_session.current.edit(tr("Rename"), [id, name = value.toString().toStdString()](const Song& song) {
        return edits::rename(song, id, name);
    });
    return true;
}

Qt::ItemFlags PartsModel::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::ItemIsDropEnabled;
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable | Qt::ItemIsDragEnabled;
}

QStringList PartsModel::mimeTypes() const { return {QLatin1String(rowMime)}; }

QMimeData* PartsModel::mimeData(const QModelIndexList& indexes) const {
    auto* data = new QMimeData;
    if (!indexes.isEmpty()) data->setData(QLatin1String(rowMime), QByteArray::number(idAt(indexes.first())));
    return data;
}

bool PartsModel::dropMimeData(const QMimeData* data, Qt::DropAction, int row, int, const QModelIndex&) {
    const PartId id = data->data(QLatin1String(rowMime)).toInt();
    const auto from = std::find(m_ids.begin(), m_ids.end(), id) - m_ids.begin();
    if (row < 0) row = rowCount();
    const int to = from < row ? row - 1 : row; // the place among the rest
    m_session.current.edit(tr("Move part"),
                           [id, to](const Song& song) { return edits::moveTo(song, id, to); });
    return false; // the session has moved it; the view must not remove the row
}

QModelIndex PartsModel::indexOf(PartId part) const {
    const auto at = m_rowOf.find(part);
    return at == m_rowOf.end() ? QModelIndex() : index(at->second);
}

void followSelection(QAbstractItemView* view, PartsModel* model, const Uses<uses::Set>& session) {
    QObject::connect(view->selectionModel(), &QItemSelectionModel::currentChanged, view,
                     [model, session](const QModelIndex& current) {
                         if (current.isValid()) session.current.selectPart(model->idAt(current));
                     });
    const auto show = [view, model, session] {
        const QModelIndex wanted = model->indexOf(session.current.selectedPart());
        if (wanted.isValid() && view->currentIndex() != wanted) view->setCurrentIndex(wanted);
        view->viewport()->update();
    };
    QObject::connect(&session.current, &CurrentSet::selectionChanged, view, show);
    QObject::connect(model, &QAbstractItemModel::modelReset, view, show);
    show();
}

} // namespace cobbleway
