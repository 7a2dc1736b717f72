#include "app/pages/exportoptions.h"

#include "app/dialogs/ask.h"
#include "app/look/sentence.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/small.h"
#include "song/out/fold.h"
#include "song/out/heardsounds.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QRegularExpression>
#include <QSpinBox>
#include <QStandardItemModel>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

/// From FirstSection on: a section alone and from it on, in turn.
enum Stretch { WholeSong, TheLoop, EachSection, FirstSection };

QString paceText(double pace) { return QString::number(pace, 'g', 4); }

} // namespace

ExportOptionsPanel::ExportOptionsPanel(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Findings> session,
                                       QWidget* parent)
    : FocusScroll(new QWidget, parent), m_session(session), m_format(new QComboBox), m_rate(new QComboBox),
      m_level(new QComboBox), m_gain(new QComboBox), m_stretch(new QComboBox), m_folders(new QComboBox),
      m_midiType(new QComboBox), m_paces(new QLineEdit(QStringLiteral("100"))), m_names(new QLineEdit),
      m_folder(new QLineEdit(settings::exportFolder())), m_trim(new QCheckBox(tr("Trim silence"))),
      m_click(new QCheckBox(tr("Click on each beat"))), m_playlists(new QCheckBox(tr("Play list"))),
      m_writtenIn(new QCheckBox(tr("Include my changes"))),
      m_running(new QCheckBox(tr("Leave out repeated status bytes"))),
      m_folded(new QCheckBox(tr("Fold onto 16 channels"))),
      m_filePerPort(new QCheckBox(tr("A file for each 16 channels"))),
      m_notesOnly(new QCheckBox(tr("Notes and names only"))),
      m_keepsPlace(new QCheckBox(tr("A range keeps its place"))), m_countIn(new QSpinBox),
      m_lost(mutedLabel()) {
    auto* column = new QVBoxLayout(widget());
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(7);
    m_top = new QVBoxLayout;
    m_top->setSpacing(5);
    column->addLayout(m_top);
    column->addSpacing(4);
    addSound(column);
    column->addSpacing(4);
    addNames(column);
    column->addSpacing(4);
    addMidi(column);
    column->addStretch();
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFixedWidth(316);
}

void ExportOptionsPanel::row(QVBoxLayout* column, const QString& name, QWidget* control) {
    auto* line = new QHBoxLayout;
    QLabel* label = mutedLabel(name);
    label->setBuddy(control);
    label->setFixedWidth(78);
    line->addWidget(label);
    line->addWidget(control, 1);
    column->addLayout(line);
    control->setAccessibleName(QString(name).remove(u'&'));
    control->setMinimumWidth(60); // its words are cut before the panel is
    control->setSizePolicy(QSizePolicy::Ignored, control->sizePolicy().verticalPolicy());
    if (auto* box = qobject_cast<QComboBox*>(control))
        connect(box, &QComboBox::currentIndexChanged, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    if (auto* line_ = qobject_cast<QLineEdit*>(control))
        connect(line_, &QLineEdit::textChanged, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
}

void ExportOptionsPanel::addSound(QVBoxLayout* column) {
    column->addWidget(titleLabel(tr("Sound")));
    for (const SoundFormat format : soundFormats()) {
        const auto name = formatName(format);
        m_format->addItem(QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size())),
                          static_cast<int>(format));
    }
    const auto [format, rate] = settings::exportSound();
    const auto last = formatOfId(format.toStdString()).value_or(SoundFormat::Wav24);
    m_format->setCurrentIndex(std::max(0, m_format->findData(static_cast<int>(last))));
    m_format->setObjectName(QStringLiteral("exportFormat"));
    for (const auto& [text, level] : {std::pair(tr("as it is mixed"), Level::AsMixed),
                                      {tr("peak at −1 dB"), Level::Peak},
                                      {tr("−16 LUFS"), Level::Lufs16},
                                      {tr("−18 LUFS"), Level::Lufs18},
                                      {tr("−23 LUFS"), Level::Lufs23}})
        m_level->addItem(text, static_cast<int>(level));
    m_level->setCurrentIndex(m_level->findData(static_cast<int>(Level::Lufs18)));
    m_level->setObjectName(QStringLiteral("exportLevel"));
    m_gain->addItem(tr("each file as asked"), true);
    m_gain->addItem(tr("parts keep their balance"), false);
    m_gain->setToolTip(
        tr("As asked: each file has that loudness. Balance: all files of a song have one gain, "
           "and the loudest is as loud as asked"));
    m_gain->setObjectName(QStringLiteral("exportGain"));
    m_stretch->addItem(tr("whole song"), WholeSong);
    m_stretch->addItem(tr("the loop"), TheLoop);
    m_stretch->addItem(tr("each section in a file"), EachSection);
    m_stretch->setToolTip(tr("Of sound and of MIDI files"));
    m_paces->setObjectName(QStringLiteral("exportPaces"));
    m_paces->setToolTip(tr("Percent of the song's tempo; several with commas between: 70, 85, 100"));
    m_countIn->setRange(0, 8);
    m_countIn->setSpecialValueText(tr("none"));
    m_countIn->setToolTip(
        tr("Bars that are counted before the song begins; sound and level of the count and the "
           "click are those set on Practice, beside the music's own level"));
    m_countIn->setObjectName(QStringLiteral("exportCountIn"));
    m_trim->setToolTip(tr("Begin with the first note; end where the last has died away"));
    m_trim->setObjectName(QStringLiteral("exportTrim"));
    row(column, tr("Format"), m_format);
    row(column, tr("Rate"), m_rate);
    row(column, tr("Loudness"), m_level);
    row(column, tr("Gain"), m_gain);
    row(column, tr("Paces"), m_paces);
    m_stretch->setObjectName(QStringLiteral("exportStretch"));
    row(column, tr("Range"), m_stretch);
    row(column, tr("Count-in"), m_countIn);
    auto* ticks = new QHBoxLayout;
    ticks->addWidget(m_trim);
    ticks->addWidget(m_click);
    column->addLayout(ticks);
    for (QCheckBox* box : {m_trim, m_click, m_playlists})
        connect(box, &QCheckBox::toggled, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    connect(m_countIn, &QSpinBox::valueChanged, this, [this] {
        if (!m_filling) Q_EMIT changed();
    });
    connect(m_format, &QComboBox::currentIndexChanged, this, &ExportOptionsPanel::refreshRates);
    refreshRates();
    if (const int at = m_rate->findData(rate); at >= 0) m_rate->setCurrentIndex(at);
}

void ExportOptionsPanel::rememberSound() const {
    const auto id = formatId(static_cast<SoundFormat>(m_format->currentData().toInt()));
    settings::setExportSound(QString::fromUtf8(id.data(), static_cast<qsizetype>(id.size())),
                             m_rate->currentData().toInt());
}

void ExportOptionsPanel::refreshRates() {
    const int before = m_rate->count() ? m_rate->currentData().toInt() : 48000;
    const QSignalBlocker quiet(m_rate);
    m_rate->clear();
    for (const int rate : ratesOf(static_cast<SoundFormat>(m_format->currentData().toInt())))
        m_rate->addItem(tr("%1 kHz").arg(rate / 1000.0), rate);
    const int at = m_rate->findData(before);
    m_rate->setCurrentIndex(at >= 0 ? at : m_rate->count() - 1);
}

void ExportOptionsPanel::addNames(QVBoxLayout* column) {
    column->addWidget(titleLabel(tr("Names")));
    m_names->setPlaceholderText(tr("{song} - {part} {mix}"));
    m_names->setToolTip(tr("May hold {set} {n} {song} {part} {mix} {pace}; a / makes a folder"));
    m_names->setObjectName(QStringLiteral("exportNames"));
    m_folders->addItem(tr("all in one"), static_cast<int>(Folders::None));
    m_folders->addItem(tr("one a song"), static_cast<int>(Folders::Song));
    m_folders->addItem(tr("one a part"), static_cast<int>(Folders::Part));
    row(column, tr("Pattern"), m_names);
    row(column, tr("Folders"), m_folders);
    row(column, tr("Folder"), m_folder);
    auto* choose = button(tr("Choose folder…"));
    connect(choose, &QPushButton::clicked, this, [this] {
        ask::forFolder(this, tr("Folder for the files"), m_folder->text(),
                       [this](const QString& folder) { setFolder(folder); });
    });
    auto* line = new QHBoxLayout;
    line->addWidget(m_playlists, 1);
    line->addWidget(choose);
    column->addLayout(line);
    m_playlists->setToolTip(tr("An M3U8 file for each folder"));
}

void ExportOptionsPanel::addMidi(QVBoxLayout* column) {
    column->addWidget(titleLabel(tr("MIDI files")));
    m_writtenIn->setToolTip(tr("Off: the file's own events, in the parts' tracks"));
    m_running->setToolTip(tr("Smaller files; a few old devices want it off"));
    m_folded->setToolTip(tr("Off: more than 16 channels are written with several ports"));
    m_writtenIn->setObjectName(QStringLiteral("writtenIn"));
    m_running->setObjectName(QStringLiteral("runningStatus"));
    m_folded->setObjectName(QStringLiteral("folded"));
    m_filePerPort->setToolTip(
        tr("For devices and programs that know one port: the first file has port 1, and so on"));
    m_filePerPort->setObjectName(QStringLiteral("filePerPort"));
    m_lost->setObjectName(QStringLiteral("notCarriedOver"));
    m_midiType->addItem(tr("a track for each part (1)"), false);
    m_midiType->addItem(tr("all on one track (0)"), true);
    m_midiType->setObjectName(QStringLiteral("midiType"));
    row(column, tr("Type"), m_midiType);
    m_notesOnly->setToolTip(
        tr("For another program that chooses the sounds: no programs, controllers or messages to devices"));
    m_notesOnly->setObjectName(QStringLiteral("notesOnly"));
    m_keepsPlace->setToolTip(tr("Off: what is written of a song begins at bar 1"));
    m_keepsPlace->setObjectName(QStringLiteral("keepsPlace"));
    for (QCheckBox* box : {m_notesOnly, m_keepsPlace}) column->addWidget(box);
    for (QCheckBox* box : {m_notesOnly, m_keepsPlace, m_filePerPort})
        connect(box, &QCheckBox::toggled, this, [this] {
            if (!m_filling) Q_EMIT changed();
        });
    for (QCheckBox* box : {m_writtenIn, m_running, m_folded}) {
        column->addWidget(box);
        connect(box, &QCheckBox::toggled, this, [this] {
            const MidiShape shape{m_writtenIn->isChecked(), m_running->isChecked(), m_folded->isChecked()};
            setMidiShape(shape);
        });
    }
    column->addWidget(m_filePerPort);
    column->addWidget(m_lost);
}

void ExportOptionsPanel::setMidiShape(const MidiShape& shape) {
    if (!m_forAll) {
        m_session.current.edit(tr("MIDI options"),
                               [shape](const Song& song) { return edits::setMidiShape(song, shape); });
        return;
    }
    SongSet set = m_session.current.set();
    for (Shared<Song>& song : set.songs) song = Shared<Song>(edits::setMidiShape(*song, shape));
    m_session.current.changeSet(tr("MIDI options of all songs"), std::move(set));
}

namespace {

/// The first three of some sentences, and how many more there are.
QString firstOf(const std::vector<Message>& messages) {
    constexpr std::size_t most = 3;
    QStringList said;
    for (std::size_t i = 0; i < std::min(messages.size(), most); ++i) said << sentence(messages[i]);
    if (messages.size() > most) said << ExportOptionsPanel::tr("… and %1 more.").arg(messages.size() - most);
    return said.join(QLatin1Char(' '));
}

} // namespace

void ExportOptionsPanel::refreshMidi() {
    const bool any = m_session.current.hasSong();
    for (QCheckBox* box : {m_writtenIn, m_running, m_folded}) box->setEnabled(any);
    const auto& songs = m_session.current.set().songs;
    m_filePerPort->setVisible(std::any_of(songs.begin(), songs.end(), [](const Shared<Song>& song) {
        return song->midi.folded ? channelsNeeded(*song) > 16 : portsOf(*song).size() > 1;
    }));
    m_filePerPort->setEnabled(any && !m_session.current.song().midi.folded);
    m_lost->hide();
    if (!any) return;
    const Song& song = m_session.current.song();
    const QSignalBlocker quietWritten(m_writtenIn), quietRunning(m_running), quietFolded(m_folded);
    m_writtenIn->setChecked(song.midi.writtenIn);
    m_running->setChecked(song.midi.runningStatus);
    m_folded->setChecked(song.midi.folded);
    const Catalogue& catalogue = m_session.sounds.catalogue();
    const Song& heard = m_session.sounds.heardSong(); // with the order of fonts that holds
    const auto matches = m_session.findings.derived()->matches(heard, catalogue);
    const auto lost = notCarriedOver(withHeardPrograms(heard, *matches, catalogue));
    const auto told = heardProgramsSaid(heard, *matches, catalogue);
    const auto folding = song.midi.folded ? std::vector<Message>{} : foldingSaid(song, false);
    if (lost.empty() && told.empty() && folding.empty()) return;
    QStringList lines;
    if (!folding.empty()) lines << sentence(folding.front());
    if (const QString first = firstOf(lost); !first.isEmpty()) lines << tr("Not written: %1").arg(first);
    if (const QString first = firstOf(told); !first.isEmpty())
        lines << tr("Written otherwise: %1").arg(first);
    m_lost->setText(lines.join(QLatin1Char('\n')));
    QStringList all;
    for (const auto* list : {&folding, &lost, &told})
        for (const Message& each : *list) all << sentence(each);
    m_lost->setToolTip(all.join(QLatin1Char('\n')));
    m_lost->show();
}

Recipe ExportOptionsPanel::recipe() const {
    Recipe recipe;
    recipe.full = false;
    recipe.format = static_cast<SoundFormat>(m_format->currentData().toInt());
    recipe.rate = m_rate->currentData().toInt();
    recipe.finish = {static_cast<Level>(m_level->currentData().toInt()),
                     m_gain->currentData().toBool(),
                     m_trim->isChecked(),
                     m_countIn->value(),
                     m_click->isChecked(),
                     settings::clicking().shape};
    recipe.paces.clear();
    for (const QString& text :
         m_paces->text().split(QRegularExpression(QStringLiteral("[,; %]+")), Qt::SkipEmptyParts))
        if (const double pace = text.toDouble(); pace >= 25 && pace <= 200) recipe.paces.push_back(pace);
    if (recipe.paces.empty()) recipe.paces = {100};
    recipe.sections = m_stretch->currentData().toInt() == EachSection;
    recipe.midiForm = {m_midiType->currentData().toBool(), m_keepsPlace->isChecked(),
                       m_notesOnly->isChecked(), m_filePerPort->isChecked()};
    recipe.names = m_names->text().trimmed().toStdString();
    recipe.folders = static_cast<Folders>(m_folders->currentData().toInt());
    recipe.playlists = m_playlists->isChecked();
    return recipe;
}

std::optional<std::pair<Tick, Tick>> ExportOptionsPanel::stretch() const {
    const int which = m_stretch->currentData().toInt();
    if (which >= FirstSection && m_session.current.hasSong()) {
        const Song& song = m_session.current.song();
        const auto section = static_cast<std::size_t>((which - FirstSection) / 2);
        if (section >= song.sections.size()) return std::nullopt;
        const Section& from = song.sections[section];
        return std::pair(from.start, (which - FirstSection) % 2 ? song.end : from.end);
    }
    const Loop& loop = m_session.transport.loop();
    if (which != TheLoop || loop.end <= loop.start) return std::nullopt;
    return std::pair(loop.start, loop.end);
}

void ExportOptionsPanel::refreshStretches() {
    QStringList wanted;
    if (!m_forAll && m_session.current.hasSong())
        for (const Section& section : m_session.current.song().sections) {
            const QString name = QString::fromStdString(section.name);
            wanted << tr("section %1").arg(name) << tr("from %1 on").arg(name);
        }
    QStringList there;
    for (int i = FirstSection; i < m_stretch->count(); ++i) there << m_stretch->itemText(i);
    if (there == wanted) return;
    const bool chosen = m_stretch->currentIndex() >= FirstSection;
    if (chosen) m_stretch->setCurrentIndex(m_stretch->findData(WholeSong));
    while (m_stretch->count() > FirstSection) m_stretch->removeItem(m_stretch->count() - 1);
    for (const QString& name : wanted) m_stretch->addItem(name, m_stretch->count());
}

void ExportOptionsPanel::setForAll(bool all) {
    m_forAll = all;
    const bool allowed = !all;
    refreshStretches();
    if (!allowed && m_stretch->currentData().toInt() == TheLoop)
        m_stretch->setCurrentIndex(m_stretch->findData(WholeSong));
    qobject_cast<QStandardItemModel*>(m_stretch->model())
        ->item(m_stretch->findData(TheLoop))
        ->setEnabled(allowed);
}

void ExportOptionsPanel::take(const Recipe& recipe) {
    m_filling = true;
    const auto choose = [](QComboBox* box, const QVariant& value) {
        if (const int at = box->findData(value); at >= 0) box->setCurrentIndex(at);
    };
    choose(m_format, static_cast<int>(recipe.format));
    refreshRates();
    choose(m_rate, recipe.rate);
    choose(m_level, static_cast<int>(recipe.finish.level));
    choose(m_gain, recipe.finish.gainOfEach);
    m_trim->setChecked(recipe.finish.trim);
    m_click->setChecked(recipe.finish.click);
    m_countIn->setValue(recipe.finish.countIn);
    QStringList paces;
    for (const double pace : recipe.paces) paces << paceText(pace);
    m_paces->setText(paces.join(QStringLiteral(", ")));
    choose(m_stretch, recipe.sections ? EachSection : WholeSong);
    choose(m_midiType, recipe.midiForm.singleTrack);
    m_keepsPlace->setChecked(recipe.midiForm.keepsPlace);
    m_notesOnly->setChecked(recipe.midiForm.notesOnly);
    m_filePerPort->setChecked(recipe.midiForm.filePerPort);
    m_names->setText(QString::fromStdString(recipe.names));
    choose(m_folders, static_cast<int>(recipe.folders));
    m_playlists->setChecked(recipe.playlists);
    m_filling = false;
    Q_EMIT changed();
}

std::filesystem::path ExportOptionsPanel::folder() const { return pathOf(m_folder->text()); }

void ExportOptionsPanel::setFolder(const QString& folder) {
    m_folder->setText(folder);
    settings::setExportFolder(folder);
}

} // namespace cobbleway
