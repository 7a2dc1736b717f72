#include "support/fontbytes.h"
#include "support/support.h"

#include "files/atomicfile.h"
#include "files/samplecache.h"
#include "font/fontvoices.h"
#include "sound/fontinstrument.h"
#include "sound/fontsamples.h"
#include "sound/synthfont.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>
#include <fluidsynth.h>
#include <sndfile.h>

using namespace support;

namespace {

constexpr int fontRate = 44100;

/// A synthesiser with a font, read by libfluidsynth or by us.
class Played {
  public:
    explicit Played(const std::filesystem::path& font, std::shared_ptr<FontSamples> ours = nullptr) {
        // Decoding all of a compressed font takes ten seconds. What is not compressed is read whole: in part,
        // libfluidsynth lets samples last 46 values too long.
        fluid_settings_setint(m_settings.get(), "synth.dynamic-sample-loading",
                              font.extension() == ".sf3" ? 1 : 0);
        fluid_settings_setint(m_settings.get(), "synth.threadsafe-api", 0);
        fluid_settings_setint(m_settings.get(), "synth.reverb.active", 0);
        fluid_settings_setint(m_settings.get(), "synth.chorus.active", 0);
        fluid_settings_setnum(m_settings.get(), "synth.sample-rate", fontRate);
        fluid_settings_setint(m_settings.get(), "synth.lock-memory", 0);
        m_synth.reset(new_fluid_synth(m_settings.get()));
        if (ours)
            m_font = SynthFont::addTo(m_synth.get(), std::move(ours), nullptr)->id();
        else
            m_font = fluid_synth_sfload(m_synth.get(), font.c_str(), 0);
    }
    /// A note as it sounds from silence, with controllers moved while it sounds: left and right in turn.
    std::vector<float> note(int bank, int program, int key, int velocity) {
        fluid_synth_system_reset(m_synth.get());
        fluid_synth_program_select(m_synth.get(), 0, m_font, bank, program);
        fluid_synth_noteon(m_synth.get(), 0, key, velocity);
        std::vector<float> sound;
        write(sound, 4000);
        fluid_synth_cc(m_synth.get(), 0, 1, 90);
        fluid_synth_channel_pressure(m_synth.get(), 0, 70);
        fluid_synth_pitch_bend(m_synth.get(), 0, 10000);
        write(sound, 5000);
        fluid_synth_noteoff(m_synth.get(), 0, key);
        write(sound, 5000);
        return sound;
    }
    [[nodiscard]] fluid_sfont_t* font() const { return fluid_synth_get_sfont_by_id(m_synth.get(), m_font); }

  private:
    void write(std::vector<float>& sound, int frames) {
        const std::size_t had = sound.size();
        sound.resize(had + static_cast<std::size_t>(frames) * 2);
        fluid_synth_write_float(m_synth.get(), frames, sound.data() + had, 0, 2, sound.data() + had, 1, 2);
    }
    FluidSettings m_settings{new_fluid_settings()};
    FluidSynth m_synth;
    int m_font = FLUID_FAILED;
};

float peakOf(const std::vector<float>& sound) {
    float most = 0;
    for (const float value : sound) most = std::max(most, std::abs(value));
    return most;
}

float farthest(const std::vector<float>& a, const std::vector<float>& b) {
    float most = 0;
    for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, std::abs(a[i] - b[i]));
    return most;
}

/// Values as an Ogg Vorbis stream, by libsndfile.
Bytes compressed(std::span<const std::int16_t> values) {
    QTemporaryDir folder;
    const std::string path = folder.filePath(QStringLiteral("sample.ogg")).toStdString();
    SF_INFO info{0, fontRate, 1, SF_FORMAT_OGG | SF_FORMAT_VORBIS, 0, 0};
    SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
    if (!file) return {};
    sf_writef_short(file, values.data(), static_cast<sf_count_t>(values.size()));
    sf_close(file);
    return readFile(path).value();
}

void put32(Bytes& at, std::size_t place, std::size_t value) {
    for (std::size_t i = 0; i < 4; ++i) at[place + i] = static_cast<std::uint8_t>(value >> (8 * i));
}

/// The font with its samples compressed, as SF3 files are (common practice, no source): their places count
/// bytes, their loops values from the sample's own start.
Bytes compressedFont(const Bytes& font) {
    const auto lists = fontlists::listsOf(font);
    Bytes streams, headers(lists->samples.bytes.begin(), lists->samples.bytes.end());
    for (std::size_t i = 0; i + 1 < lists->samples.count(); ++i) {
        const std::size_t at = i * 46;
        const auto place = [&](std::size_t field) {
            return fontlists::little32(lists->samples.at(i).subspan(field));
        };
        const std::size_t start = place(20), end = place(24);
        std::vector<std::int16_t> values(end - start);
        std::memcpy(values.data(), lists->sampleData.data() + start * 2, values.size() * 2);
        const Bytes stream = compressed(values);
        put32(headers, at + 20, streams.size());
        streams.insert(streams.end(), stream.begin(), stream.end());
        put32(headers, at + 24, streams.size());
        put32(headers, at + 28, place(28) - start);
        put32(headers, at + 32, place(32) - start);
        headers[at + 44] |= 0x10;
    }
    return withChunk(withChunk(font, "sdta", "smpl", streams, true), "pdta", "shdr", headers, true);
}

/// Counts what is decoded.
class CountingCache final : public SampleCache {
  public:
    std::optional<std::vector<std::int16_t>> load(const std::string&, unsigned) override {
        return std::nullopt;
    }
    void keep(const std::string&, unsigned sample, std::span<const std::int16_t>) override {
        const std::lock_guard hold(m_lock);
        kept.insert(sample);
    }
    std::set<unsigned> kept;

  private:
    std::mutex m_lock;
};

float heard(Instrument& instrument) {
    std::array<float, maxFrames> left{}, right{};
    const StereoBlock block{left.data(), right.data()};
    instrument.render({&block, 1}, maxFrames);
    return *std::max_element(left.begin(), left.end());
}

} // namespace

class TestSynthFont : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase();
    void theComparisonHearsSmallFaults();
    void soundsAsTheLibrarysOwnReader_data();
    void soundsAsTheLibrarysOwnReader();
    void onlyWhatIsPlayedIsDecoded();
    void liveNotesWaitForNothing();
    void decodedSamplesAreKept();
    void aDamagedSampleIsSilentAndTheOthersPlay();
    void anOddLoopIsHeldWithinItsSample();

  private:
    [[nodiscard]] std::filesystem::path packed() const { return path("packed.sf3"); }
    [[nodiscard]] std::filesystem::path path(const char* name) const {
        return m_folder.filePath(QString::fromUtf8(name)).toStdString();
    }
    QTemporaryDir m_folder;
};

void TestSynthFont::initTestCase() {
    const Bytes font = compressedFont(fileBytes(TEST_FONT));
    QVERIFY(!font.empty());
    QVERIFY(writeFile(packed(), font));
}

void TestSynthFont::theComparisonHearsSmallFaults() {
    // A velocity, a bend, a key more: each is heard by the measure that the test below uses.
    Played font(TEST_FONT);
    const auto sound = font.note(0, 0, 60, 100);
    QVERIFY(peakOf(sound) > 0.01F);
    QVERIFY(farthest(sound, font.note(0, 0, 60, 101)) > 1e-4F);
    QVERIFY(farthest(sound, font.note(0, 0, 61, 100)) > 1e-2F);
}

void TestSynthFont::soundsAsTheLibrarysOwnReader_data() {
    QTest::addColumn<QString>("file");
    QTest::newRow("test font") << QStringLiteral(TEST_FONT);
    QTest::newRow("test font, compressed") << QString::fromStdString(packed().string());
    QTest::newRow("house font") << QStringLiteral(HOUSE_FONT);
    for (const char* folder : {"/usr/share/sounds/sf2", "/usr/share/sounds/sf3"}) {
        const QDir dir(QString::fromUtf8(folder));
        for (const QFileInfo& info :
             dir.entryInfoList({QStringLiteral("*.sf2"), QStringLiteral("*.sf3")}, QDir::Files))
            if (!info.fileName().startsWith(QLatin1String("default"))) // another name of one of them
                QTest::newRow(qPrintable(info.fileName())) << info.filePath();
    }
}

/// libfluidsynth's reader is the judge, for every soundfont that the machine has.
void TestSynthFont::soundsAsTheLibrarysOwnReader() {
    QFETCH(QString, file);
    const std::filesystem::path font = file.toStdString();
    const auto samples = FontSamples::of(font, nullptr);
    QVERIFY(samples);
    const auto& presets = samples.value()->voices().presets;
    Played theirs(font), ours(font, samples.value());
    const bool large = std::filesystem::file_size(font) > 30'000'000; // of such the first and some others
    const std::size_t step = std::max<std::size_t>(1, presets.size() / (large ? 8 : 24));
    int sounding = 0;
    for (std::size_t p = 0; p < presets.size(); p += step) {
        const auto& preset = presets[p];
        std::set<int> keys{21, 60, 96};
        if (!preset.voices.empty()) keys.insert(preset.voices[preset.voices.size() / 2].keys.lowest);
        for (const int key : keys)
            for (const int velocity : {35, 110}) {
                const auto expected = theirs.note(preset.bank, preset.program, key, velocity);
                const auto got = ours.note(preset.bank, preset.program, key, velocity);
                const float off = farthest(expected, got);
                QVERIFY2(off == 0, qPrintable(QStringLiteral("%1:%2 %3 key %4 velocity %5: %6")
                                                  .arg(preset.bank)
                                                  .arg(preset.program)
                                                  .arg(QString::fromStdString(preset.name))
                                                  .arg(key)
                                                  .arg(velocity)
                                                  .arg(static_cast<double>(off))));
                sounding += peakOf(expected) > 1e-3F;
            }
    }
    QVERIFY(sounding > 0);
}

void TestSynthFont::onlyWhatIsPlayedIsDecoded() {
    const auto cache = std::make_shared<CountingCache>();
    auto instrument = loadFontInstrument(packed(), 1, fontRate, {.cache = cache});
    QVERIFY(instrument);
    QVERIFY(cache->kept.empty());
    PlayedNotes notes;
    notes.add(60, 100);
    instrument.value()->prepare({nullptr, 0, 0, 0}, notes);
    const auto voices = readFontVoices(packed());
    std::set<unsigned> expected;
    for (const auto& voice : voices.value().find(0, 0)->voices)
        if (voice.sounds(60, 100)) expected.insert(voice.sample);
    QVERIFY(!expected.empty() && expected.size() < voices.value().samples.size());
    QCOMPARE(cache->kept, expected);
    instrument.value()->choose(0, {nullptr, 0, 0, 0});
    instrument.value()->play(0, 0x90, 60, 100);
    QVERIFY(heard(*instrument.value()) > 1e-3F);
    QCOMPARE(cache->kept, expected);
    // What nobody prepared is decoded when it plays.
    instrument.value()->choose(0, {nullptr, kitBank, 0, 0});
    instrument.value()->play(0, 0x90, 38, 100);
    QVERIFY(heard(*instrument.value()) > 1e-3F);
    QVERIFY(cache->kept.size() > expected.size());
}

void TestSynthFont::liveNotesWaitForNothing() {
    const auto strike = [](Instrument& instrument) {
        instrument.reset(0);
        instrument.play(0, 0x90, 60, 100);
        return heard(instrument);
    };
    auto instrument = loadFontInstrument(packed(), 1, fontRate, {.live = true});
    QVERIFY(instrument);
    instrument.value()->choose(0, {nullptr, 0, 0, 0});
    // A note without its sample is silent and asks for the whole sound; then any note of it sounds.
    (void)strike(*instrument.value());
    QTRY_VERIFY(strike(*instrument.value()) > 1e-3F);
    // Where any note is expected nobody has to strike first.
    auto other = loadFontInstrument(packed(), 1, fontRate, {.live = true});
    other.value()->expectAny({nullptr, kitBank, 0, 0});
    other.value()->choose(0, {nullptr, kitBank, 0, 0});
    QTRY_VERIFY([&] {
        other.value()->reset(0);
        other.value()->play(0, 0x90, 38, 100);
        return heard(*other.value()) > 1e-3F;
    }());
    // A sound that the font has not brings nothing and harms nothing.
    other.value()->expectAny({nullptr, 99, 99, 0});
    PlayedNotes notes;
    notes.add(60, 100);
    other.value()->prepare({nullptr, 99, 99, 0}, notes);
}

void TestSynthFont::decodedSamplesAreKept() {
    const std::filesystem::path folder = path("cache");
    std::vector<std::int16_t> values(1001);
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = static_cast<std::int16_t>(i * 37);
    FolderSampleCache cache(folder);
    QVERIFY(!cache.load("a font", 3));
    cache.keep("a font", 3, values);
    QCOMPARE(cache.load("a font", 3), std::optional(values));
    QVERIFY(!cache.load("a font", 4) && !cache.load("another font", 3));
    using std::filesystem::perms;
    QVERIFY((std::filesystem::status(folder).permissions() & perms(0777)) == perms(0700));
    // One bit that the disk has lost, a file cut short, one that is empty: decoded again.
    const std::filesystem::path file = std::filesystem::directory_iterator(folder)->path();
    const Bytes whole = fileBytes(QString::fromStdString(file.string()));
    Bytes bent = whole;
    bent[500] ^= 4;
    for (const Bytes& damaged : {bent, Bytes(whole.begin(), whole.end() - 2), Bytes()}) {
        QVERIFY(writeFile(file, damaged));
        QVERIFY(!cache.load("a font", 3));
    }
    // When there are too many, those go that were used least lately.
    FolderSampleCache small(folder, 5 * (values.size() * 2 + 100));
    for (unsigned i = 0; i < 10; ++i) {
        small.keep("many", i, values);
        for (const auto& entry : std::filesystem::directory_iterator(folder)) // a day more for those before
            std::filesystem::last_write_time(entry, entry.last_write_time() - std::chrono::hours(24));
    }
    QVERIFY(small.load("many", 0)); // used now
    small.sweep();
    QVERIFY(small.load("many", 0) && small.load("many", 9) && !small.load("many", 1));
    // Where nothing can be written nothing is kept, and nothing said.
    FolderSampleCache nowhere(std::filesystem::path(TEST_FONT) / "folder"); // a file is no folder
    nowhere.keep("a font", 1, values);
    QVERIFY(!nowhere.load("a font", 1));
}

void TestSynthFont::aDamagedSampleIsSilentAndTheOthersPlay() {
    Bytes font = fileBytes(QString::fromStdString(packed().string()));
    const auto voices = readFontVoices(packed());
    const auto& preset = *voices.value().find(0, 0);
    const auto on = [&](int key) {
        return std::find_if(preset.voices.begin(), preset.voices.end(),
                            [&](const auto& voice) { return voice.sounds(key, 100); });
    };
    const unsigned hurt = on(60)->sample;
    const FontSample& sample = voices.value().samples[hurt];
    std::fill_n(font.begin() + static_cast<std::ptrdiff_t>(sample.offset), sample.bytes, std::uint8_t{0x55});
    const auto file = path("hurt.sf3");
    QVERIFY(writeFile(file, font));
    auto instrument = loadFontInstrument(file, 1, fontRate);
    QVERIFY(instrument);
    const auto sounds = [&](int bank, int key) {
        instrument.value()->reset(0);
        for (int i = 0; i < 200; ++i) (void)heard(*instrument.value());
        instrument.value()->choose(0, {nullptr, bank, 0, 0});
        instrument.value()->play(0, 0x90, static_cast<std::uint8_t>(key), 100);
        return heard(*instrument.value()) > 1e-3F;
    };
    QVERIFY(!sounds(0, 60));
    QVERIFY(sounds(kitBank, 38));
}

/// SF3 fonts whose loops lie anywhere: libfluidsynth reads where they point without looking.
void TestSynthFont::anOddLoopIsHeldWithinItsSample() {
    const Bytes font = fileBytes(QString::fromStdString(packed().string()));
    const auto lists = fontlists::listsOf(font);
    for (const auto& [start, end] : {std::pair{0xFFFFFFF0U, 0xFFFFFFFFU},
                                     {100U, 0x7FFFFFFFU},
                                     {900U, 100U},
                                     {0U, 0U},
                                     {0x80000000U, 4U}}) {
        Bytes headers(lists->samples.bytes.begin(), lists->samples.bytes.end());
        for (std::size_t at = 0; at + 46 < headers.size(); at += 46) {
            put32(headers, at + 28, start);
            put32(headers, at + 32, end);
        }
        const auto file = path("loops.sf3");
        QVERIFY(writeFile(file, withChunk(font, "pdta", "shdr", headers, true)));
        auto instrument = loadFontInstrument(file, 1, fontRate);
        QVERIFY(instrument);
        const FontVoices voices = readFontVoices(file).value();
        for (const auto& preset : voices.presets) {
            instrument.value()->choose(0, {nullptr, preset.bank, preset.program, 0});
            for (const int key : {0, 60, 127})
                instrument.value()->play(0, 0x90, static_cast<std::uint8_t>(key), 127);
            for (int i = 0; i < 50; ++i) QVERIFY(std::isfinite(heard(*instrument.value())));
        }
    }
}

QTEST_GUILESS_MAIN(TestSynthFont)
#include "tst_synthfont.moc"
