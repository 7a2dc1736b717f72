#include "app/pages/songsmodel.h"

#include "app/session/jobs.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"

#include <QGuiApplication>
#include <QMimeData>
#include <algorithm>
#include <map>

namespace cobbleway {
namespace {

constexpr const char* rowsMime = "application/x-cobbleway-songs";
constexpr std::size_t batch = 100; // songs that are told of at once

std::int64_t partsOf(const Song& song) {
    return std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
}

} // namespace

SongsModel::SongsModel(Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings> session, QObject* parent)
    : QAbstractTableModel(parent), m_session(session) {
    m_pool.setMaxThreadCount(1);
    m_pool.setThreadPriority(QThread::LowPriority);
    // Closing waits for the song that is looked into at most, not for the rest.
    connect(qApp, &QCoreApplication::aboutToQuit, this, [this] { m_stop.request_stop(); });
    connect(&session.current, &CurrentSet::songsChanged, this, &SongsModel::refresh);
    connect(&session.current, &CurrentSet::historyChanged, this, &SongsModel::refresh);
    connect(&session.files, &SetFiles::busyChanged, this, &SongsModel::look);
    connect(&session.findings, &Findings::snagsChanged, this, &SongsModel::refresh);
    connect(&session.sounds, &Sounds::catalogueChanged, this, [this] {
        forgetAsked();
        refresh();
    });
    refresh();
}

SongsModel::~SongsModel() {
    m_stop.request_stop();
    m_pool.clear();
    m_pool.waitForDone();
}

void SongsModel::forgetAsked() {
    for (Row& row : m_rows) row.asked.reset();
    m_stop.request_stop(); // what is looked for now counts with the catalogue as it was
    m_stop = {};
}

void SongsModel::refresh() {
    const auto& songs = m_session.current.set().songs;
    const std::size_t before = m_rows.size();
    const auto follows = [&](std::size_t count) {
        for (std::size_t i = 0; i < count; ++i)
            if (m_rows[i].song->source != songs[i]->source) return false;
        return true;
    };
    const bool grown = songs.size() >= before && follows(before);
    std::map<const SourceFile*, Row> known;
    if (!grown) {
        for (Row& row : m_rows) known.emplace(row.song->source.get(), std::move(row));
        beginResetModel();
        m_rows.clear();
    } else if (songs.size() > before) {
        beginInsertRows({}, static_cast<int>(before), static_cast<int>(songs.size()) - 1);
    }
    for (std::size_t i = m_rows.size(); i < songs.size(); ++i) {
        const auto at = known.find(songs[i]->source.get());
        m_rows.push_back(at == known.end() ? Row{songs[i], {}, {}} : at->second);
    }
    if (!grown)
        endResetModel();
    else if (songs.size() > before)
        endInsertRows();
    for (std::size_t i = 0; i < songs.size(); ++i) {
        if (m_rows[i].song.sameAs(songs[i])) continue;
        m_rows[i].song = songs[i]; // its summary is shown until the next is known
        m_rows[i].asked.reset();
    }
    if (!m_rows.empty())
        Q_EMIT dataChanged(index(0, 0), index(static_cast<int>(m_rows.size()) - 1, columnCount() - 1));
    look();
}

/// Finds what is not known of rows, beside the interface.
void SongsModel::look() {
    if (m_open > 0 || m_session.files.isBusy()) return; // the job that runs looks again when it is done
    std::vector<Shared<Song>> open;
    for (const Row& row : m_rows)
        if (!row.summary || !row.asked) open.push_back(row.song);
    if (open.empty()) return;
    ++m_open;
    const auto send = [guard = QPointer(this)](std::vector<Found> found) {
        QMetaObject::invokeMethod(qApp, [guard, found = std::move(found)] {
            if (guard) guard->take(found);
        });
    };
    runJob(
        this, &m_pool,
        [open = std::move(open), send, derived = m_session.findings.derived(),
         catalogue = m_session.sounds.catalogue(), stop = m_stop.get_token()] {
            std::vector<Found> found;
            for (const Shared<Song>& song : open) {
                if (stop.stop_requested()) return false;
                const int asked = static_cast<int>(askedCount(*derived->snags(*song, catalogue)));
                found.push_back({song, derived->summary(*song), asked});
                if (found.size() == batch) send(std::exchange(found, {}));
            }
            send(std::move(found));
            return true;
        },
        [this](const Result<bool>&) {
            --m_open;
            look();
        });
}

void SongsModel::take(const std::vector<Found>& found) {
    std::map<const SourceFile*, const Found*> bySource;
    for (const Found& each : found) bySource.emplace(each.song->source.get(), &each);
    for (Row& row : m_rows) {
        const auto at = bySource.find(row.song->source.get());
        if (at == bySource.end() || !row.song.sameAs(at->second->song)) continue;
        row.summary = at->second->summary;
        row.asked = at->second->asked;
    }
    if (!m_rows.empty()) Q_EMIT dataChanged(index(0, Key), index(static_cast<int>(m_rows.size()) - 1, Snags));
    Q_EMIT summariesChanged();
}

int SongsModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_rows.size());
}

QVariant SongsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::ToolTipRole && section == Parts) return tr("Tracks of the file → parts");
    if (role == Qt::ToolTipRole && section == Tempo) return tr("The first tempo, in BPM");
    if (role != Qt::DisplayRole) return {};
    const QStringList names = {tr("Song"), tr("Type"),  tr("Parts"),   tr("Length"),
                               tr("Key"),  tr("Tempo"), tr("Dialect"), tr("Snags")};
    return names.value(section);
}

Qt::ItemFlags SongsModel::flags(const QModelIndex& index) const {
    const auto usual = QAbstractTableModel::flags(index);
    return index.isValid() ? usual | Qt::ItemIsDragEnabled : usual | Qt::ItemIsDropEnabled;
}

QStringList SongsModel::mimeTypes() const { return {QLatin1String(rowsMime)}; }

QMimeData* SongsModel::mimeData(const QModelIndexList& indexes) const {
    QStringList rows;
    for (const QModelIndex& index : indexes)
        if (index.column() == Name) rows << QString::number(index.row());
    auto* data = new QMimeData;
    data->setData(QLatin1String(rowsMime), rows.join(QLatin1Char(' ')).toLatin1());
    return data;
}

bool SongsModel::dropMimeData(const QMimeData* data, Qt::DropAction, int row, int, const QModelIndex&) {
    std::vector<int> songs;
    for (const QByteArray& number : data->data(QLatin1String(rowsMime)).split(' '))
        songs.push_back(number.toInt());
    m_session.current.moveSongs(songs, row < 0 ? rowCount() : row);
    return false; // the session has moved them; the view must not remove rows
}

std::vector<int> SongsModel::sameMusic(int row) const {
    std::vector<int> others;
    const SongSummary* own = summary(row);
    if (!own || own->music == 0) return others;
    for (int i = 0; i < rowCount(); ++i)
        if (const SongSummary* other = summary(i); i != row && other && other->music == own->music)
            others.push_back(i);
    return others;
}

int SongsModel::askedOf(int row) const {
    const auto& known = m_rows[static_cast<std::size_t>(row)].asked;
    return known ? *known : static_cast<int>(askedCount(*m_session.findings.snagsOf(row)));
}

/// A song in a sentence: "Lantern Quay, type 0, 1 track, 10 parts, 2 minutes 55, 11 to decide".
QString SongsModel::sentenceOf(int row) const {
    const Song& song = *m_rows[static_cast<std::size_t>(row)].song;
    const auto counted = [](auto count, const QString& one, const QString& many) {
        return count == 1 ? one : many.arg(count);
    };
    const auto seconds = static_cast<int>(song.seconds());
    const int snags = askedOf(row);
    QStringList said = {QString::fromStdString(song.title), tr("type %1").arg(song.source->midi.type),
                        counted(song.source->midi.tracks.size(), tr("1 track"), tr("%1 tracks")),
                        counted(partsOf(song), tr("1 part"), tr("%1 parts")),
                        seconds < 60
                            ? tr("%1 seconds").arg(seconds)
                            : counted(seconds / 60, tr("1 minute"), tr("%1 minutes")) +
                                  (seconds % 60 ? QStringLiteral(" %1").arg(seconds % 60) : QString())};
    if (const SongSummary* known = summary(row); known && !known->key.empty())
        said << QString::fromStdString(known->key);
    said << tr("%1 BPM").arg(std::lround(song.tempo->bpm(0)))
         << (snags == 0 ? tr("nothing to decide") : tr("%1 to decide").arg(snags));
    return said.join(QStringLiteral(", "));
}

QVariant SongsModel::sortValue(int row, int column) const {
    const Row& known = m_rows[static_cast<std::size_t>(row)];
    const Song& song = *known.song;
    switch (column) {
    case Name: return QString::fromStdString(song.title).toCaseFolded();
    case Type: return song.source->midi.type;
    case Parts: return static_cast<int>(partsOf(song));
    case Length: return song.seconds();
    case Key: return known.summary ? QString::fromStdString(known.summary->key) : QString();
    case Tempo: return song.tempo->bpm(0);
    case Kind: return QString::fromUtf8(dialectName(song.dialect).data());
    case Snags: return known.asked.value_or(0);
    default: return {};
    }
}

QVariant SongsModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const Song& song = *m_rows[static_cast<std::size_t>(index.row())].song;
    if (role == NumberRole) return index.row();
    if (role == SortRole) return sortValue(index.row(), index.column());
    const bool wanted = role == Qt::DisplayRole || role == Qt::AccessibleTextRole;
    if (role == Qt::AccessibleTextRole && index.column() == Name) return sentenceOf(index.row());
    switch (index.column()) {
    case Name:
        if (role == FileRole) return QString::fromStdString(song.source->name);
        return wanted ? QString::fromStdString(song.title) : QVariant();
    case Type: return wanted ? QString::number(song.source->midi.type) : QVariant();
    case Parts: {
        const QString text =
            QStringLiteral("%1 → %2").arg(song.source->midi.tracks.size()).arg(partsOf(song));
        // The arrow points from the first to the second also where text runs from right to left.
        const bool turned = role == Qt::DisplayRole && QGuiApplication::isRightToLeft();
        return wanted ? (turned ? QChar(0x200E) + text : text) : QVariant();
    }
    case Length: return wanted ? timeText(song.seconds()) : QVariant();
    case Key: {
        const SongSummary* known = summary(index.row());
        return wanted ? (known ? QString::fromStdString(known->key) : QStringLiteral("…")) : QVariant();
    }
    case Tempo: return wanted ? QString::number(std::lround(song.tempo->bpm(0))) : QVariant();
    case Kind: return wanted ? QString::fromUtf8(dialectName(song.dialect).data()) : QVariant();
    case Snags: {
        if (role != CountRole && !wanted) return {};
        const int count = askedOf(index.row());
        if (role == CountRole) return count;
        return count ? QString::number(count) : tr("clear");
    }
    default: return {};
    }
}

SongsList::SongsList(SongsModel* songs, QObject* parent) : QSortFilterProxyModel(parent), m_songs(songs) {
    setSourceModel(songs);
    setSortRole(SongsModel::SortRole);
    connect(songs, &SongsModel::summariesChanged, this, [this] {
        if (!m_search.isEmpty()) filter();
    });
}

void SongsList::setSearch(const QString& text) {
    m_text = text;
    m_search = SongSearch(text.toStdString());
    filter();
}

void SongsList::filter() {
    m_filtering = true;
    invalidateFilter();
    m_filtering = false;
}

bool SongsList::filterAcceptsRow(int row, const QModelIndex&) const {
    if (m_search.isEmpty()) return true;
    if (const SongSummary* known = m_songs->summary(row)) return m_search.matches(*known);
    // Not looked into yet: by its names.
    const QModelIndex name = m_songs->index(row, SongsModel::Name);
    return name.data().toString().contains(m_text, Qt::CaseInsensitive) ||
           name.data(SongsModel::FileRole).toString().contains(m_text, Qt::CaseInsensitive);
}

bool SongsList::canDropMimeData(const QMimeData* data, Qt::DropAction, int, int, const QModelIndex&) const {
    return isWhole() && data->hasFormat(QLatin1String(rowsMime)); // else there is no place to move to
}

} // namespace cobbleway
