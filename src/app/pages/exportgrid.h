#pragma once
#include "app/session/uses.h"
#include "files/exports.h"

#include <QAbstractItemModel>
#include <map>
#include <set>

namespace cobbleway {

/// What can be written of the songs of the set, as a grid to tick: songs at the top, under each its rows
/// (every part, the whole song, kept mixes, parts, single files), with a column for each kind of file that a
/// part has. A cell that stands for several is ticked when all are. What was measured is shown in the cells
/// afterwards.
class ExportGrid : public QAbstractItemModel {
    Q_OBJECT
  public:
    enum Column { Name, Front, Alone, Without, Stem, Midi, columns };
    enum Role {
        ResultRole = Qt::UserRole, ///< Result
        MeasuredRole,              ///< a few words for the cell
        ColourRole,                ///< of a part: its number; −1 for others
        DetailRole                 ///< what the name adds in faint letters
    };
    /// Otherwise: written, but not as loud as was asked.
    enum Result { Idle, Waiting, Written, Otherwise, Failed };
    explicit ExportGrid(Uses<uses::Messages, uses::Set> session, QObject* parent = nullptr);

    void refresh(); ///< looks at the set anew; ticks stay

    [[nodiscard]] QModelIndex index(int row, int column, const QModelIndex& parent = {}) const override;
    [[nodiscard]] QModelIndex parent(const QModelIndex& index) const override;
    using QAbstractItemModel::parent;
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override { return columns; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;

    [[nodiscard]] QModelIndex songIndex(int song) const { return index(song, Name); }
    [[nodiscard]] int songOf(const QModelIndex& index) const; ///< 0-based; −1 for none
    /// Tells whether an item belongs to a cell.
    [[nodiscard]] std::function<bool(const ExportItem&)> itemsOf(const QModelIndex& index) const;

    [[nodiscard]] bool isTicked(int song, const ExportItem& item) const;
    [[nodiscard]] bool anyTicked(int song) const;
    /// Ticks of one song anew.
    void tickOnly(int song, const std::function<bool(const ExportItem&)>& wanted);
    /// Which kinds of file are ticked anywhere in a song, put into a recipe.
    void putTicksInto(Recipe& recipe, int song) const;

    void setWaiting(const std::vector<int>& songs);
    /// `finish`: how its sound files were to be.
    void takeOutcomes(int song, const SongExport& from, const std::vector<ExportOutcome>& outcomes,
                      const Finish& finish);
    /// What was written is no more what would be: the options are others.
    void forgetTold();
    /// What became of an item: by its kind, part and mix, in the order written.
    struct Told {
        Result result = Idle;
        QString fileName, text;
        std::filesystem::path path;
    };
    [[nodiscard]] std::vector<Told> toldIn(const QModelIndex& index) const;

  Q_SIGNALS:
    void ticksChanged();

  private:
    /// What tells one item of a song from another.
    struct Key {
        ExportItem::Kind kind = ExportItem::Kind::Full;
        PartId part = 0;
        std::string mix;
        auto operator<=>(const Key&) const = default;
    };
    struct Row {
        enum class Kind { EveryPart, Whole, Part, Single } kind = Kind::Single;
        PartId part = 0;
        int colour = -1;
        QString name, detail;
        std::map<int, Key> cells; ///< by column; of a single file the name's own
    };
    struct SongRows {
        const void* source = nullptr; ///< tells songs apart while the set changes
        QString title;
        std::vector<Row> rows;
        std::set<Key> ticked;
        std::map<Key, std::vector<Told>> told;
        std::optional<Shared<Song>> written = {}; ///< the song as it was when they were written
    };
    [[nodiscard]] static SongRows rowsOf(const Song& song);
    [[nodiscard]] static Key keyOf(const ExportItem& item) { return {item.kind, item.part, item.mix}; }
    [[nodiscard]] std::vector<Key> keysIn(const QModelIndex& index) const;
    [[nodiscard]] const Row* rowAt(const QModelIndex& index) const; ///< null for a song
    [[nodiscard]] QString sentence(const QModelIndex& index) const;
    [[nodiscard]] static ExportItem itemOf(const Key& key);
    void tickFirst(SongRows& rows, const Shared<Song>& song) const;
    void keepTicks(int song) const;
    void tellAll();
    void forgetChanged();
    Uses<uses::Messages, uses::Set> m_session;
    std::vector<SongRows> m_songs;
};

} // namespace cobbleway
