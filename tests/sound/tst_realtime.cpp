/// The audio thread neither allocates nor locks, whatever happens; ten thousand live actions at random.
#include "sound/render.h"
#include "support/support.h"

#include "files/pluginhost.h"
#include "song/shape/edits.h"
#include "sound/midisink.h"
#include "sound/player.h"

#include <atomic>
#include <dlfcn.h>
#include <pthread.h>
#include <random>

namespace {

thread_local bool watched = false; ///< whether this thread is in a callback of the audio output
std::atomic<int> allocations{0}, locks{0};

} // namespace

#ifndef COBBLEWAY_SANITIZED
// The C library's own entry points, under which every allocation and lock of the process passes.
extern "C" {
void* __libc_malloc(std::size_t);
void* __libc_calloc(std::size_t, std::size_t);
void* __libc_realloc(void*, std::size_t);
void __libc_free(void*);

void* malloc(std::size_t size) {
    if (watched) ++allocations;
    return __libc_malloc(size);
}
void* calloc(std::size_t count, std::size_t size) {
    if (watched) ++allocations;
    return __libc_calloc(count, size);
}
void* realloc(void* old, std::size_t size) {
    if (watched) ++allocations;
    return __libc_realloc(old, size);
}
void free(void* memory) {
    if (watched && memory) ++allocations;
    __libc_free(memory);
}
int pthread_mutex_lock(pthread_mutex_t* mutex) {
    using Lock = int (*)(pthread_mutex_t*);
    static const Lock real = reinterpret_cast<Lock>(dlsym(RTLD_NEXT, "pthread_mutex_lock"));
    if (watched) ++locks;
    return real(mutex);
}
}
#endif

using namespace support;

namespace {

/// Pulls a block as an output would, watched.
void pull(Player& player, std::vector<float>& block) {
    watched = true;
    player.process(block.data(), liveFrames);
    watched = false;
}

Catalogue catalogue() {
    PluginWorld world(SHIPPED_PLUGINS);
    return scanFonts({HOUSE_FONT, {}, {TEST_FONT}}, houseFontId)
        .withPlugins(world.usable(), {})
        .withPorts(midiOutputs());
}

/// The demo song with something of everything: a plug-in, a layer, effects, the stand-in module.
Song fullSong() {
    Song song = demoSong("lantern_quay.mid");
    song = edits::chooseSound(
        song, 2, {"https://cobbleway.example/plugins#quayreed", 0, 0, "Reed", SoundKind::Plugin, 0});
    song = edits::chooseSound(song, 4, {standInPort, 0, 73, "Module", SoundKind::Port, 0});
    song = edits::addLayer(song, 1, {houseFontId, 0, 72, "Piccolo"});
    song = edits::setEffects(song, 3, {{"https://cobbleway.example/plugins#tilt", "Tilt", {}, true}});
    return edits::setEffects(song, 0, {{"https://cobbleway.example/plugins#evener", "Evener", {}, true}});
}

} // namespace

class TestRealtime : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void theWatchSeesWhatItIsFor();
    void playingNeitherAllocatesNorLocks();
    void soundsChangeWithoutAClick();
    void aTriedSoundIsHeardWithinATenthOfASecond();
    void tenThousandActions();
};

void TestRealtime::theWatchSeesWhatItIsFor() {
#ifdef COBBLEWAY_SANITIZED
    QSKIP("the sanitizer has the allocator");
#endif
    allocations = locks = 0;
    pthread_mutex_t mutex = PTHREAD_MUTEX_INITIALIZER;
    watched = true;
    static void* volatile seen = nullptr; // so that no compiler leaves it out
    seen = ::operator new(100);
    ::operator delete(seen);
    pthread_mutex_lock(&mutex);
    watched = false;
    pthread_mutex_unlock(&mutex);
    QCOMPARE(allocations.load(), 2);
    QCOMPARE(locks.load(), 1);
}

void TestRealtime::playingNeitherAllocatesNorLocks() {
    const Catalogue all = catalogue();
    BankOptions options{.slotStep = 16, .live = true, .pluginBundle = SHIPPED_PLUGINS};
    options.makePlugins = [](const auto& leftOut) { // as in the window
        return std::make_shared<PluginHost>(PLUGIN_HELPER, SHIPPED_PLUGINS, leftOut);
    };
    InstrumentBank bank(liveRate, options);
    Player player;
    Song song = fullSong();
    std::shared_ptr<Plan> plan = makePlan(song, all, matchSong(song, all), bank);
    player.setPlan(plan);
    player.play();
    std::vector<float> block(2 * liveFrames);
    float most = 0;
    allocations = locks = 0;
    for (int i = 0; i < 1500; ++i) { // eight seconds
        pull(player, block);
        most = std::max(most, peak(block));
        if (i % 100 == 50) player.seek(i / 20.0);
        if (i % 100 == 70) player.audition(1, Key{60}, Velocity{90});
        if (i % 100 == 75) player.audition(1, Key{60}, Velocity{0});
        if (i == 600) player.setPace(80);
        if (i == 700) player.setLoop(2, 3);
        if (i % 250 == 200) { // another sound, swapped in
            song = edits::chooseSound(song, 1, {houseFontId, 0, i % 128, "Any"});
            plan = makePlan(song, all, matchSong(song, all), bank, plan.get());
            player.setPlan(plan);
        }
    }
    QVERIFY(most > 0.02F);
    QCOMPARE(allocations.load(), 0);
    QCOMPARE(locks.load(), 0);
}

void TestRealtime::soundsChangeWithoutAClick() {
    // A held tone gives way to another font, to a plug-in and back: no sample jumps further than the tones
    // themselves do, and the other part, a tone apart in frequency, never stops.
    const Catalogue all = catalogue();
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = SHIPPED_PLUGINS});
    const std::string test = all.fonts()[1]->id;
    Song song = Builder().program(0, 0, 0).note(0, 0, 9, 45).program(1, 0, 0).note(1, 0, 9, 69).song();
    song.room = 0;
    song = edits::chooseSound(edits::chooseSound(song, 1, {test, 0, 0, "Tone"}), 2, {test, 0, 0, "Tone"});
    Player player;
    std::shared_ptr<Plan> plan = makePlan(song, all, matchSong(song, all), bank);
    player.setPlan(plan);
    player.play();
    std::vector<float> block(2 * liveFrames), sound;
    const auto run = [&](double seconds) {
        const std::size_t from = sound.size() / 2;
        for (double t = 0; t < seconds; t += double(liveFrames) / liveRate) {
            player.process(block.data(), liveFrames);
            sound.insert(sound.end(), block.begin(), block.end());
        }
        float jump = 0;
        for (std::size_t f = from + 1; f < sound.size() / 2; ++f)
            jump = std::max(jump, std::abs(sound[2 * f] - sound[2 * f - 2]));
        return jump;
    };
    (void)run(0.5);
    const float usual = run(1);
    const SoundRef others[] = {
        {houseFontId, 0, 19, "Organ"},
        {"https://cobbleway.example/plugins#quayreed", 0, 0, "Reed", SoundKind::Plugin, 0},
        {test, 0, 0, "Tone"}};
    for (const SoundRef& other : others) {
        song = edits::chooseSound(song, 1, other);
        plan = makePlan(song, all, matchSong(song, all), bank, plan.get());
        player.setPlan(plan);
        const float jump = run(0.4);
        QVERIFY2(jump < 4 * usual, qPrintable(QStringLiteral("%1 against %2").arg(jump).arg(usual)));
        const auto recent = std::vector<float>(sound.end() - 2 * 12000, sound.end());
        std::vector<float> mono;
        for (std::size_t i = 0; i < recent.size(); i += 2) mono.push_back(recent[i]);
        QVERIFY(strength(mono, keyHz(69)) > 0.01); // the other part goes on
    }
}

void TestRealtime::aTriedSoundIsHeardWithinATenthOfASecond() {
    // In blocks, not by the clock: from the block that takes the plan on, the new tone stands within 100 ms.
    const Catalogue all = catalogue();
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = SHIPPED_PLUGINS});
    const std::string test = all.fonts()[1]->id;
    Song song = Builder().program(0, 0, 0).note(0, 0, 9, 57).song();
    song.room = 0;
    song = edits::chooseSound(song, 1, {test, 0, 0, "Tone"});
    Player player;
    std::shared_ptr<Plan> plan = makePlan(song, all, matchSong(song, all), bank);
    player.setPlan(plan);
    player.play();
    std::vector<float> block(2 * liveFrames);
    for (int i = 0; i < 100; ++i) player.process(block.data(), liveFrames);
    song = edits::chooseSound(song, 1, {test, 0, 1, "Tone"});
    plan = makePlan(song, all, matchSong(song, all), bank, plan.get());
    player.setPlan(plan);
    std::vector<float> mono;
    for (int i = 0; i < 18; ++i) { // 96 ms
        player.process(block.data(), liveFrames);
        for (std::size_t f = 0; f < liveFrames; ++f) mono.push_back(block[2 * f]);
    }
    mono.erase(mono.begin(), mono.begin() + 2400); // what is heard by the end
    QVERIFY(strength(mono, keyHz(57) * 2) > 0.1 * strength(mono, keyHz(57)));
}

void TestRealtime::tenThousandActions() {
    // With the silent output running beside: plans, seeks, notes, levels in any order. The thread sanitizer
    // watches this in its build.
    const Catalogue all = catalogue();
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = SHIPPED_PLUGINS});
    Player player;
    QVERIFY(player.open("silent").ok());
    Song song = fullSong();
    std::shared_ptr<Plan> plan = makePlan(song, all, matchSong(song, all), bank);
    player.setPlan(plan);
    player.play();
    std::mt19937 random(4);
    const auto number = [&](int from, int to) {
        return from + static_cast<int>(random() % static_cast<unsigned>(to - from + 1));
    };
    for (int i = 0; i < 10000; ++i) {
        const PartId part = number(1, 10);
        switch (number(0, i % 40 == 0 ? 9 : 7)) {
        case 0: player.seek(number(0, 150)); break;
        case 1:
            player.audition(part, Key{static_cast<std::uint8_t>(number(20, 100))},
                            Velocity{static_cast<std::uint8_t>(number(0, 127))});
            break;
        case 2: player.setPace(number(25, 200)); break;
        case 3: player.setLoop(number(0, 60), number(0, 60)); break;
        case 4: number(0, 3) ? player.play() : player.stop(); break;
        case 5:
            player.takeLive(std::array<std::uint8_t, 3>{static_cast<std::uint8_t>(number(0x80, 0xEF)),
                                                        static_cast<std::uint8_t>(number(0, 127)),
                                                        static_cast<std::uint8_t>(number(0, 127))});
            break;
        case 6: player.setLivePart(number(0, 11)); break;
        case 7:
            song = edits::setLevel(edits::setMuted(song, part, number(0, 1) == 1), part, number(-30, 6));
            applyMix(*plan, song);
            break;
        default:
            song =
                number(0, 1)
                    ? edits::chooseSound(song, part, {houseFontId, 0, number(0, 127), "Any"})
                    : edits::removeLayer(edits::addLayer(song, part, {houseFontId, 0, number(0, 127), "Any"}),
                                         part, static_cast<std::size_t>(number(0, 2)));
            plan = makePlan(song, all, matchSong(song, all), bank, plan.get());
            player.setPlan(plan);
        }
        player.collect();
        (void)player.partPeak(part);
    }
    player.play();
    QTRY_VERIFY(player.seconds() >= 0);
}

QTEST_GUILESS_MAIN(TestRealtime)
#include "tst_realtime.moc"
