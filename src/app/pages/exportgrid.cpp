#include "app/pages/exportgrid.h"

#include "app/look/sentence.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "song/heard/distinctnames.h"
#include "song/heard/lyrics.h"
#include "song/shape/mixes.h"

#include <algorithm>

namespace cobbleway {
namespace {

using Kind = ExportItem::Kind;

/// Why a sound file is not as loud as was asked; empty when it is.
QString whyNotAsAsked(const ExportItem& item, const ExportOutcome& outcome, const Finish& finish) {
    if (!item.isSound()) return {};
    switch (reachedBy(outcome.measured, finish)) {
    case Reached::AsAsked: break;
    case Reached::HeldByPeak: return QObject::tr("quieter than asked: its peaks would be cut");
    case Reached::KeepsBalance:
        return QObject::tr("quieter than the song's loudest file, to keep the balance");
    case Reached::NotMeasured: return QObject::tr("too quiet or too short to measure how loud it is");
    }
    return {};
}

QString measuredText(const ExportItem& item, const ExportOutcome& outcome, const Finish& finish) {
    if (!outcome.written) return QString::fromStdString(outcome.error.message());
    if (item.kind == Kind::Sheet) return QObject::tr("written, and as PDF");
    if (!item.isSound()) return QObject::tr("written");
    const QString loudness = outcome.measured.lufs > -100
                                 ? QObject::tr(", %1 LUFS").arg(outcome.measured.lufs, 0, 'f', 1)
                                 : QString();
    const QString why = whyNotAsAsked(item, outcome, finish);
    return QObject::tr("%1, peak %2 dB%3")
               .arg(timeText(outcome.measured.seconds))
               .arg(outcome.measured.peakDb, 0, 'f', 1)
               .arg(loudness)
               .replace(QLatin1Char('-'), QStringLiteral("−")) +
           (why.isEmpty() ? QString() : QObject::tr(" (%1)").arg(why));
}

QString columnName(int column) {
    switch (column) {
    case ExportGrid::Front: return QObject::tr("In front");
    case ExportGrid::Alone: return QObject::tr("Alone");
    case ExportGrid::Without: return QObject::tr("Without");
    case ExportGrid::Stem: return QObject::tr("Stem");
    case ExportGrid::Midi: return QObject::tr("MIDI");
    default: return QObject::tr("Part");
    }
}

} // namespace

ExportGrid::ExportGrid(Uses<uses::Messages, uses::Set> session, QObject* parent)
    : QAbstractItemModel(parent), m_session(session) {
    refresh();
}

ExportGrid::SongRows ExportGrid::rowsOf(const Song& song) {
    SongRows rows;
    rows.source = song.source.get();
    rows.title = QString::fromStdString(song.title);
    const auto add = [&](Row::Kind kind, const QString& name, const QString& detail = {}) -> Row& {
        rows.rows.push_back({kind, 0, -1, name, detail, {}});
        return rows.rows.back();
    };
    add(Row::Kind::EveryPart, tr("Every part"));
    Row& whole = add(Row::Kind::Whole, tr("Whole song"), tr("all parts as levelled"));
    whole.cells = {{Front, {Kind::Full, 0, {}}}, {Midi, {Kind::Midi, 0, {}}}};
    const Message standing = mixStanding(song);
    Row& now = add(Row::Kind::Whole, tr("As on Practice now"),
                   standing.empty() ? tr("the whole band") : cobbleway::sentence(standing));
    now.cells = {{Front, {Kind::Now, 0, {}}}, {Midi, {Kind::MidiHeard, 0, {}}}};
    const auto single = [&](const QString& name, Kind kind, PartId part = 0, const std::string& mix = {}) {
        add(Row::Kind::Single, name).cells = {{Name, {kind, part, mix}}};
    };
    for (const KeptMix& mix : song.mixes)
        single(tr("Mix: %1").arg(QString::fromStdString(mix.name)), Kind::Kept, 0, mix.name);
    const auto names = distinctNames(song, [&](const Part& part) { return factsOf(song, part.source); });
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        Row& row = add(Row::Kind::Part, cobbleway::sentence(names[i]));
        row.part = part.id;
        row.colour = part.colour;
        row.cells = {{Front, {Kind::Front, part.id, {}}},
                     {Alone, {Kind::Alone, part.id, {}}},
                     {Without, {Kind::Without, part.id, {}}},
                     {Stem, {Kind::Stem, part.id, {}}},
                     {Midi, {Kind::MidiPart, part.id, {}}}};
    }
    if (!lyricLines(song).empty()) {
        single(tr("Words with their times"), Kind::Timed);
        single(tr("Words"), Kind::Lyrics);
    }
    for (const Part& part : song.parts)
        if (!part.aside && part.source.drums)
            single(tr("Drum names: %1").arg(QString::fromStdString(part.name)), Kind::DrumNames, part.id);
    single(tr("Part sheet (HTML and PDF)"), Kind::Sheet);
    return rows;
}

void ExportGrid::refresh() {
    std::vector<SongRows> now;
    for (const auto& song : m_session.current.set().songs) now.push_back(rowsOf(*song));
    const auto sameRow = [](const Row& a, const Row& b) {
        return a.kind == b.kind && a.name == b.name && a.detail == b.detail && a.colour == b.colour &&
               a.cells == b.cells;
    };
    const bool same = std::equal(
        now.begin(), now.end(), m_songs.begin(), m_songs.end(), [&](const SongRows& a, const SongRows& b) {
            return a.source == b.source && a.title == b.title &&
                   std::equal(a.rows.begin(), a.rows.end(), b.rows.begin(), b.rows.end(), sameRow);
        });
    if (same) {
        forgetChanged();
        return;
    }
    beginResetModel();
    const auto& songs = m_session.current.set().songs;
    for (SongRows& song : now) {
        const auto before = std::find_if(m_songs.begin(), m_songs.end(),
                                         [&](const SongRows& s) { return s.source == song.source; });
        if (before == m_songs.end()) {
            tickFirst(song, songs[static_cast<std::size_t>(&song - now.data())]);
            continue;
        }
        for (const Row& row : song.rows)
            for (const auto& [column, key] : row.cells) {
                if (before->ticked.contains(key)) song.ticked.insert(key);
                if (const auto told = before->told.find(key); told != before->told.end())
                    song.told.insert(*told);
            }
        song.written = before->written;
    }
    m_songs = std::move(now);
    endResetModel();
    forgetChanged();
}

/// The ticks that the set remembers, or those that everybody begins with.
void ExportGrid::tickFirst(SongRows& rows, const Shared<Song>& song) const {
    const auto kept = m_session.current.notes().ticksOf(*song);
    rows.ticked = kept ? std::set<Key>() : std::set<Key>{{Kind::Full, 0, {}}, {Kind::Midi, 0, {}}};
    if (!kept) return;
    for (const Row& row : rows.rows)
        for (const auto& [column, key] : row.cells)
            if (kept->contains(cobbleway::keyOf(itemOf(key)))) rows.ticked.insert(key);
}

/// Lets the set remember the ticks of a song.
void ExportGrid::keepTicks(int song) const {
    std::set<std::string> ticked;
    for (const Key& key : m_songs[static_cast<std::size_t>(song)].ticked)
        ticked.insert(cobbleway::keyOf(itemOf(key)));
    m_session.current.notes().keepTicks(*m_session.current.set().songs[static_cast<std::size_t>(song)],
                                        std::move(ticked));
}

ExportItem ExportGrid::itemOf(const Key& key) {
    ExportItem item;
    item.kind = key.kind;
    item.part = key.part;
    item.mix = key.mix;
    return item;
}

/// Takes marks away from files that would be others now.
void ExportGrid::forgetChanged() {
    bool any = false;
    const auto& songs = m_session.current.set().songs;
    for (std::size_t i = 0; i < m_songs.size(); ++i) {
        SongRows& rows = m_songs[i];
        if (!rows.written || rows.told.empty() || rows.written->sameAs(songs[i])) continue;
        const Song &before = **rows.written, &now = *songs[i];
        if (before == now) continue;
        const bool band = wholeBand(before) == wholeBand(now);
        any |=
            std::erase_if(rows.told, [&](const auto& told) {
                const Kind kind = told.first.kind;
                const bool asItStands = kind == Kind::Now || kind == Kind::MidiHeard || kind == Kind::Sheet;
                return !told.second.empty() && told.second.front().result != Waiting && (asItStands || !band);
            }) > 0;
    }
    if (any) tellAll();
}

void ExportGrid::forgetTold() {
    for (SongRows& song : m_songs)
        std::erase_if(song.told, [](const auto& told) { return told.second.front().result != Waiting; });
    tellAll();
}

QModelIndex ExportGrid::index(int row, int column, const QModelIndex& parent) const {
    if (row < 0 || column < 0 || column >= columns || row >= rowCount(parent)) return {};
    return createIndex(row, column, parent.isValid() ? static_cast<quintptr>(parent.row()) + 1 : quintptr{0});
}

QModelIndex ExportGrid::parent(const QModelIndex& index) const {
    if (!index.isValid() || index.internalId() == 0) return {};
    return createIndex(static_cast<int>(index.internalId()) - 1, Name, quintptr{0});
}

int ExportGrid::rowCount(const QModelIndex& parent) const {
    if (!parent.isValid()) return static_cast<int>(m_songs.size());
    if (parent.internalId() != 0 || parent.column() != Name) return 0;
    return static_cast<int>(m_songs[static_cast<std::size_t>(parent.row())].rows.size());
}

int ExportGrid::songOf(const QModelIndex& index) const {
    if (!index.isValid()) return -1;
    const int song = index.internalId() ? static_cast<int>(index.internalId()) - 1 : index.row();
    return song < static_cast<int>(m_songs.size()) ? song : -1;
}

const ExportGrid::Row* ExportGrid::rowAt(const QModelIndex& index) const {
    if (!index.isValid() || index.internalId() == 0) return nullptr;
    return &m_songs[index.internalId() - 1].rows[static_cast<std::size_t>(index.row())];
}

std::vector<ExportGrid::Key> ExportGrid::keysIn(const QModelIndex& index) const {
    std::vector<Key> keys;
    const int song = songOf(index);
    if (song < 0) return keys;
    const auto add = [&](const Row& row) {
        for (const auto& [column, key] : row.cells)
            if (index.column() == Name || index.column() == column) keys.push_back(key);
    };
    const Row* only = rowAt(index);
    if (only && only->kind != Row::Kind::EveryPart) return add(*only), keys;
    for (const Row& row : m_songs[static_cast<std::size_t>(song)].rows)
        if (!only || row.kind == Row::Kind::Part) add(row);
    return keys;
}

std::function<bool(const ExportItem&)> ExportGrid::itemsOf(const QModelIndex& index) const {
    const auto keys = keysIn(index);
    return [here = std::set<Key>(keys.begin(), keys.end())](const ExportItem& item) {
        return here.contains(keyOf(item));
    };
}

std::vector<ExportGrid::Told> ExportGrid::toldIn(const QModelIndex& index) const {
    std::vector<Told> all;
    const int song = songOf(index);
    if (song < 0) return all;
    const auto& told = m_songs[static_cast<std::size_t>(song)].told;
    for (const Key& key : keysIn(index))
        if (const auto at = told.find(key); at != told.end())
            all.insert(all.end(), at->second.begin(), at->second.end());
    return all;
}

QString ExportGrid::sentence(const QModelIndex& index) const {
    const Row* row = rowAt(index);
    const QString name = row ? row->name : m_songs[static_cast<std::size_t>(songOf(index))].title;
    const auto state = static_cast<Qt::CheckState>(data(index, Qt::CheckStateRole).toInt());
    QString said = state == Qt::Checked
                       ? tr("ticked")
                       : (state == Qt::PartiallyChecked ? tr("partly ticked") : tr("not ticked"));
    if (index.column() == Name && keysIn(index).size() == 1)
        said += tr(", %1").arg(name);
    else if (index.column() == Name)
        said += tr(", %1, all files").arg(name);
    else
        said += tr(", %1, %2")
                    .arg(name, row && row->kind == Row::Kind::Whole && index.column() == Front
                                   ? row->detail
                                   : columnName(index.column()));
    const auto told = toldIn(index);
    for (std::size_t i = 0; i < std::min<std::size_t>(told.size(), 3); ++i)
        if (told[i].result != Waiting) said += tr(", %1: %2").arg(told[i].fileName, told[i].text);
    return said;
}

QVariant ExportGrid::data(const QModelIndex& index, int role) const {
    if (songOf(index) < 0) return {};
    const Row* row = rowAt(index);
    const SongRows& song = m_songs[static_cast<std::size_t>(songOf(index))];
    const auto keys = keysIn(index);
    const bool single = index.column() == Name && keys.size() == 1;
    switch (role) {
    case Qt::DisplayRole: return index.column() != Name ? QVariant() : QVariant(row ? row->name : song.title);
    case DetailRole: return row && index.column() == Name ? row->detail : QString();
    case ColourRole: return row ? row->colour : -1;
    case Qt::AccessibleTextRole:
        return keys.empty() ? QVariant(row ? row->name : song.title) : QVariant(sentence(index));
    case Qt::ToolTipRole: {
        QStringList lines;
        for (const Told& told : toldIn(index)) lines << tr("%1: %2").arg(told.fileName, told.text);
        return lines.join(QLatin1Char('\n'));
    }
    case Qt::CheckStateRole: {
        if (keys.empty()) return {};
        const auto ticked = std::count_if(keys.begin(), keys.end(),
                                          [&](const Key& key) { return song.ticked.contains(key); });
        return static_cast<int>(
            ticked == 0
                ? Qt::Unchecked
                : (ticked == static_cast<std::ptrdiff_t>(keys.size()) ? Qt::Checked : Qt::PartiallyChecked));
    }
    case ResultRole: {
        int result = Idle;
        if (single || index.column() != Name)
            for (const Told& told : toldIn(index)) result = std::max<int>(result, told.result);
        return result;
    }
    case MeasuredRole: {
        const auto told = toldIn(index);
        if (told.empty() || (index.column() == Name && !single)) return QString();
        if (told.size() > 1) return QObject::tr("%1 files").arg(told.size());
        return told.back().text.section(QStringLiteral(" ("), 0, 0).section(QStringLiteral(", "), -1);
    }
    default: return {};
    }
}

bool ExportGrid::setData(const QModelIndex& index, const QVariant&, int role) {
    const auto keys = keysIn(index);
    if (role != Qt::CheckStateRole || keys.empty()) return false;
    SongRows& song = m_songs[static_cast<std::size_t>(songOf(index))];
    const bool tick = data(index, Qt::CheckStateRole).toInt() != Qt::Checked;
    for (const Key& key : keys) {
        tick ? (void)song.ticked.insert(key) : (void)song.ticked.erase(key);
        song.told.erase(key); // what was written before is no more what is asked for
    }
    keepTicks(songOf(index));
    tellAll();
    Q_EMIT m_session.messages.announced(tick ? tr("ticked") : tr("not ticked"));
    Q_EMIT ticksChanged();
    return true;
}

void ExportGrid::tellAll() {
    for (int song = 0; song < rowCount(); ++song) {
        const QModelIndex top = songIndex(song);
        Q_EMIT dataChanged(top, index(song, columns - 1));
        if (rowCount(top) > 0)
            Q_EMIT dataChanged(index(0, 0, top), index(rowCount(top) - 1, columns - 1, top));
    }
}

QVariant ExportGrid::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal) return {};
    if (role == Qt::DisplayRole) return columnName(section);
    if (role == Qt::TextAlignmentRole)
        return static_cast<int>(section == Name ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignCenter);
    if (role != Qt::ToolTipRole) return {};
    switch (section) {
    case Front: return tr("The part loud, the others behind it");
    case Alone: return tr("The part alone, as loud as in front");
    case Without: return tr("All others: to play or sing the part yourself");
    case Stem: return tr("The part as loud as in the mix; all stems together are the song");
    case Midi: return tr("The part as a MIDI file");
    default: return {};
    }
}

Qt::ItemFlags ExportGrid::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::NoItemFlags;
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable |
           (keysIn(index).empty() ? Qt::NoItemFlags : Qt::ItemIsUserCheckable);
}

bool ExportGrid::isTicked(int song, const ExportItem& item) const {
    return song >= 0 && song < rowCount() &&
           m_songs[static_cast<std::size_t>(song)].ticked.contains(keyOf(item));
}

bool ExportGrid::anyTicked(int song) const {
    return song >= 0 && song < rowCount() && !m_songs[static_cast<std::size_t>(song)].ticked.empty();
}

void ExportGrid::tickOnly(int song, const std::function<bool(const ExportItem&)>& wanted) {
    if (song < 0 || song >= rowCount()) return;
    SongRows& rows = m_songs[static_cast<std::size_t>(song)];
    rows.ticked.clear();
    rows.told.clear();
    for (const Row& row : rows.rows)
        for (const auto& [column, key] : row.cells)
            if (wanted(itemOf(key))) rows.ticked.insert(key);
    keepTicks(song);
    tellAll();
    Q_EMIT ticksChanged();
}

void ExportGrid::putTicksInto(Recipe& recipe, int song) const {
    const auto any = [&](Kind kind) {
        const auto& ticked = m_songs[static_cast<std::size_t>(song)].ticked;
        return std::any_of(ticked.begin(), ticked.end(), [kind](const Key& key) { return key.kind == kind; });
    };
    recipe.full = any(Kind::Full);
    recipe.now = any(Kind::Now);
    recipe.front = any(Kind::Front);
    recipe.alone = any(Kind::Alone);
    recipe.without = any(Kind::Without);
    recipe.stems = any(Kind::Stem);
    recipe.kept = any(Kind::Kept);
    recipe.midi = any(Kind::Midi);
    recipe.midiHeard = any(Kind::MidiHeard);
    recipe.midiParts = any(Kind::MidiPart);
    recipe.lyrics = any(Kind::Timed) || any(Kind::Lyrics);
    recipe.drumNames = any(Kind::DrumNames);
    recipe.sheet = any(Kind::Sheet);
}

void ExportGrid::setWaiting(const std::vector<int>& songs) {
    for (const int song : songs) {
        SongRows& rows = m_songs[static_cast<std::size_t>(song)];
        rows.told.clear();
        for (const Key& key : rows.ticked) rows.told[key] = {{Waiting, {}, {}, {}}};
    }
    tellAll();
}

void ExportGrid::takeOutcomes(int song, const SongExport& from, const std::vector<ExportOutcome>& outcomes,
                              const Finish& finish) {
    if (song < 0 || song >= rowCount()) return;
    const auto& items = from.items;
    auto& told = m_songs[static_cast<std::size_t>(song)].told;
    told.clear();
    m_songs[static_cast<std::size_t>(song)].written = from.song;
    for (const ExportOutcome& outcome : outcomes) {
        const ExportItem& item = items[outcome.item];
        const auto name = outcome.written ? outcome.path.filename() : std::filesystem::path(item.fileName);
        const Result result = !outcome.written
                                  ? Failed
                                  : (whyNotAsAsked(item, outcome, finish).isEmpty() ? Written : Otherwise);
        told[keyOf(item)].push_back({result, QString::fromStdString(name.string()),
                                     measuredText(item, outcome, finish), outcome.path});
    }
    tellAll();
    forgetChanged(); // the song may have changed while its files were written
}

} // namespace cobbleway
