#include "sound/render.h"
#include "support/support.h"

#include "song/shape/edits.h"
#include "song/shape/splits.h"
#include "sound/engine.h"
#include "sound/queue.h"
#include "sound/slotdeal.h"

#include <random>
#include <set>
#include <thread>

using namespace support;

namespace {

/// An instrument that only writes down what it is sent, as an instrument's state would be.
class Notebook final : public Instrument {
  public:
    void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override {
        states[slot].take({0, status, data1, data2});
    }
    void choose(int slot, const InstrumentSound& sound) override {
        chosen[slot] = {sound.bank, sound.program};
    }
    void release(int slot) override { states[slot].velocity.fill(0); }
    void reset(int slot) override { states[slot] = LaneState(); }
    void render(std::span<const StereoBlock> out, int frames) override {
        for (std::size_t slot = 0; slot < out.size(); ++slot)
            for (int f = 0; f < frames; ++f) out[slot].left[f] += 1;
        rendered += frames;
    }
    std::map<int, LaneState> states;
    std::map<int, std::pair<int, int>> chosen;
    std::int64_t rendered = 0;
};

std::shared_ptr<const Schedule> randomSchedule(std::mt19937& random, bool drums = false) {
    Schedule schedule;
    schedule.drums = drums;
    schedule.sounds = {SoundRef{"x", 0, 1, ""}, SoundRef{"x", 0, 2, ""}, SoundRef{"x", 0, 3, ""},
                       SoundRef{"x", 0, 4, ""}};
    std::int64_t frame = 0;
    for (int i = 0; i < 600; ++i) {
        frame += random() % 2000;
        const auto key = static_cast<std::uint8_t>(random() % 128),
                   value = static_cast<std::uint8_t>(random() % 128);
        switch (random() % 8) {
        case 0: schedule.events.push_back({frame, 0xC0, static_cast<std::uint8_t>(random() % 4), 0}); break;
        case 1: schedule.events.push_back({frame, 0xE0, key, value}); break;
        case 2:
            schedule.events.push_back({frame, 0xB0,
                                       static_cast<std::uint8_t>(random() % 3   ? 7
                                                                 : random() % 2 ? 10
                                                                                : 64),
                                       value});
            break;
        case 3: schedule.events.push_back({frame, 0x80, static_cast<std::uint8_t>(key % 12), 0}); break;
        case 4:
            schedule.events.push_back(
                {frame, 0xB0, static_cast<std::uint8_t>(random() % 9 ? 11 : 121), value});
            break;
        default: schedule.events.push_back({frame, 0x90, static_cast<std::uint8_t>(key % 12), value});
        }
    }
    return std::make_shared<const Schedule>(std::move(schedule));
}

using Notebooks = std::vector<std::shared_ptr<Notebook>>;

/// A schedule's sounds go to the notebooks in turn.
std::unique_ptr<Plan> planOf(const Notebooks& notebooks,
                             std::vector<std::shared_ptr<const Schedule>> schedules) {
    auto plan = std::make_unique<Plan>(schedules.size(), rate);
    plan->instruments.assign(notebooks.begin(), notebooks.end());
    for (std::size_t i = 0; i < schedules.size(); ++i) {
        plan->parts[i].id = static_cast<PartId>(i) + 1;
        plan->parts[i].schedule = schedules[i];
        for (std::size_t s = 0; s < schedules[i]->sounds.size(); ++s) {
            const auto& sound = schedules[i]->sounds[s];
            plan->parts[i].addSound({notebooks[s % notebooks.size()].get(), sound->bank, sound->program});
        }
        if (!schedules[i]->events.empty())
            plan->endFrame = std::max(plan->endFrame, schedules[i]->events.back().frame + rate);
    }
    return plan;
}

std::unique_ptr<Plan> planOf(const std::shared_ptr<Notebook>& notebook,
                             std::vector<std::shared_ptr<const Schedule>> schedules) {
    return planOf(Notebooks{notebook}, std::move(schedules));
}

Notebooks someNotebooks() {
    return {std::make_shared<Notebook>(), std::make_shared<Notebook>(), std::make_shared<Notebook>()};
}

/// The keys that sound in any of them.
std::set<std::size_t> keysIn(const Notebooks& notebooks) {
    std::set<std::size_t> keys;
    for (const auto& notebook : notebooks)
        for (std::size_t key = 0; key < 128; ++key)
            if (notebook->states[0].velocity[key] > 0) keys.insert(key);
    return keys;
}

bool sameState(const LaneState& a, const LaneState& b, bool notes) {
    const auto controller = [](const LaneState& s, std::size_t n) { return s.controllers[n]; };
    for (const std::size_t n : {std::size_t{7}, std::size_t{10}, std::size_t{11}, std::size_t{64}})
        if (controller(a, n) != controller(b, n)) return false;
    for (std::size_t key = 0; notes && key < 128; ++key)
        if ((a.velocity[key] > 0) != (b.velocity[key] > 0)) return false;
    return a.bend == b.bend;
}

} // namespace

class TestEngine : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aSeekLeavesWhatPlayingThereLeaves();
    void statesAreMarkedOnTheWay();
    void aPartsPanShiftsTheControllers();
    void drumsAreNotStruckAgain();
    void partsThatAreTheSameGoOnUntouched();
    void eventsKeepTheirPlaceAtAnyPace();
    void neverRendersPastTheStop();
    void mixerGlidesAndSums();
    void roomIsLinearAndDiesAway();
    void queueKeepsOrderBetweenThreads();
    void planPutsEachPartInItsSlot();
    void slotsAreDealtOnceAndKept();
    void roundsOfSplittingTakeNoSlots();
    void layersKeepTheirSlots();
    void partsBeyondTheMostAreTold();
    void delaysGoOverToTheNextPlan();
    void anInstrumentIsToldOnce();
    void levelsAndNamesNeedNoNewPlan();
};

void TestEngine::aSeekLeavesWhatPlayingThereLeaves() {
    std::mt19937 random(21);
    for (int round = 0; round < 40; ++round) {
        const auto schedule = randomSchedule(random);
        const double place = static_cast<double>(random() % 500000);
        const Notebooks played = someNotebooks(), sought = someNotebooks();
        const auto planA = planOf(played, {schedule}), planB = planOf(sought, {schedule});
        planA->parts[0].panShift = planB->parts[0].panShift = static_cast<int>(random() % 40) - 20;
        Lanes a, b;
        a.swap(planA.get());
        a.seek(0);
        while (a.frame() + blockFrames < place) a.render(blockFrames, 1, 1e18);
        b.swap(planB.get());
        b.seek(a.frame());
        // What is told to all is the same in all; a note that was held through a change of sound is taken up
        // in the sound that holds.
        for (std::size_t i = 0; i < played.size(); ++i)
            QVERIFY(sameState(played[i]->states[0], sought[i]->states[0], false));
        QCOMPARE(keysIn(sought), keysIn(played));
        std::uint8_t sound = 0;
        for (const TimedEvent& event : schedule->events)
            if (event.status == 0xC0 && static_cast<double>(event.frame) < a.frame() - blockFrames)
                sound = event.data1;
        const auto holds = static_cast<std::size_t>(sound % 3);
        QCOMPARE(played[holds]->chosen[0], sought[holds]->chosen[0]);
        a.swap(nullptr);
        b.swap(nullptr);
    }
}

void TestEngine::statesAreMarkedOnTheWay() {
    // Of a long schedule the state at any event is what taking all events before it gives.
    std::mt19937 random(23);
    Schedule schedule;
    while (schedule.events.size() < 5 * Schedule::markStep) {
        const auto more = randomSchedule(random);
        const std::int64_t from = schedule.events.empty() ? 0 : schedule.events.back().frame;
        for (TimedEvent event : more->events) {
            event.frame += from;
            schedule.events.push_back(event);
        }
    }
    schedule.setMarks();
    QCOMPARE(schedule.marks.size(), (schedule.events.size() - 1) / Schedule::markStep);
    LaneState state;
    for (std::size_t i = 0; i < schedule.events.size(); ++i) {
        if (i % 97 == 0 || i % Schedule::markStep < 2) QVERIFY(schedule.stateBefore(i) == state);
        state.take(schedule.events[i]);
    }
    QVERIFY(schedule.stateBefore(schedule.events.size()) == state);
    const auto frame = static_cast<double>(schedule.events[3 * Schedule::markStep].frame);
    const std::size_t first = schedule.firstAt(frame);
    QVERIFY(static_cast<double>(schedule.events[first].frame) >= frame);
    QVERIFY(first == 0 || static_cast<double>(schedule.events[first - 1].frame) < frame);
}

/// A part's own pan moves each value of the controller, at once and from then on; what the song says stays
/// known.
void TestEngine::aPartsPanShiftsTheControllers() {
    Schedule schedule;
    schedule.sounds = {SoundRef{"x", 0, 0, ""}, SoundRef{"x", 0, 1, ""}};
    schedule.events = {{10000, 0xB0, 10, 30}, {20000, 0xB0, 10, 120}, {30000, 0xB0, 121, 0}};
    const Notebooks notebooks = {std::make_shared<Notebook>(), std::make_shared<Notebook>()};
    const auto plan = planOf(notebooks, {std::make_shared<const Schedule>(schedule)});
    Lanes lanes;
    lanes.swap(plan.get());
    lanes.seek(0);
    const auto panAt = [&](double frame) {
        while (lanes.frame() < frame) lanes.render(blockFrames, 1, 1e18);
        const int pan = notebooks[0]->states[0].controllers[10];
        return notebooks[1]->states[0].controllers[10] == pan ? pan : -2;
    };
    QCOMPARE(panAt(5000), -1); // nothing was said
    plan->parts[0].panShift = 20;
    QCOMPARE(panAt(6000), 84);
    QCOMPARE(panAt(11000), 50);
    plan->parts[0].panShift = -40;
    QCOMPARE(panAt(12000), 0); // no further than the end
    QCOMPARE(panAt(21000), 80);
    plan->parts[0].panShift = 0;
    QCOMPARE(panAt(22000), 120);
    QCOMPARE(panAt(31000), 120); // RP-015: a reset leaves it
    plan->parts[0].panShift = 5;
    lanes.seek(15000);
    QCOMPARE(int(notebooks[0]->states[0].controllers[10]), 35);
    lanes.seek(0);
    QCOMPARE(int(notebooks[1]->states[0].controllers[10]), 69);
    lanes.swap(nullptr);
}

void TestEngine::drumsAreNotStruckAgain() {
    std::mt19937 random(22);
    const auto notebook = std::make_shared<Notebook>();
    const auto plan = planOf(notebook, {randomSchedule(random, true)});
    Lanes lanes;
    lanes.swap(plan.get());
    lanes.seek(300000);
    for (const auto velocity : notebook->states[0].velocity) QCOMPARE(int(velocity), 0);
    lanes.swap(nullptr);
}

void TestEngine::partsThatAreTheSameGoOnUntouched() {
    std::mt19937 random(23);
    const auto notebook = std::make_shared<Notebook>();
    const auto keep = randomSchedule(random), old = randomSchedule(random), fresh = randomSchedule(random);
    const auto before = planOf(notebook, {keep, old}), after = planOf(notebook, {keep, fresh});
    Lanes lanes;
    lanes.swap(before.get());
    lanes.seek(0);
    while (lanes.frame() < 200000) lanes.render(maxFrames, 1, 1e18);
    notebook->states[0].controllers[1] = 99; // a mark that a reset would wipe out
    QCOMPARE(lanes.swap(after.get()), before.get());
    QCOMPARE(int(notebook->states[0].controllers[1]), 99);
    const auto direct = std::make_shared<Notebook>();
    const auto plan = planOf(direct, {keep, fresh});
    Lanes other;
    other.swap(plan.get());
    other.seek(lanes.frame());
    QVERIFY(sameState(notebook->states[1], direct->states[1], true));
    lanes.swap(nullptr);
    other.swap(nullptr);
}

void TestEngine::eventsKeepTheirPlaceAtAnyPace() {
    for (const double pace : {0.25, 1.0, 2.0}) {
        Schedule schedule;
        schedule.sounds = {SoundRef{"x", 0, 0, ""}};
        for (int i = 1; i <= 20; ++i)
            schedule.events.push_back({i * 5000, 0xB0, 1, static_cast<std::uint8_t>(i)});
        const auto notebook = std::make_shared<Notebook>();
        const auto plan = planOf(notebook, {std::make_shared<const Schedule>(schedule)});
        Lanes lanes;
        lanes.swap(plan.get());
        lanes.seek(0);
        int last = -1;
        while (lanes.frame() < 110000) {
            const std::int64_t from = notebook->rendered;
            lanes.render(maxFrames, pace, 1e18);
            const int now = notebook->states[0].controllers[1];
            if (now == last || now < 0) continue;
            // Taken at the nearest block: at most 32 frames of output early or late.
            const double wanted = now * 5000 / pace;
            QVERIFY(wanted >= static_cast<double>(from) - blockFrames / 2 - 1 &&
                    wanted <= static_cast<double>(from) + 2 * blockFrames);
            last = now;
        }
        QCOMPARE(last, 20);
        lanes.swap(nullptr);
    }
}

void TestEngine::neverRendersPastTheStop() {
    std::mt19937 random(24);
    const auto notebook = std::make_shared<Notebook>();
    const auto plan = planOf(notebook, {randomSchedule(random)});
    Lanes lanes;
    lanes.swap(plan.get());
    lanes.seek(0);
    while (lanes.frame() < 100001) lanes.render(maxFrames, 1.37, 100001);
    QCOMPARE(lanes.frame(), 100001.0);
    lanes.swap(nullptr);
}

void TestEngine::mixerGlidesAndSums() {
    Mixer mixer(2, rate);
    std::vector<float> a(256, 1.0F), b(256, 0.5F), left(256), right(256);
    const StereoBlock blocks[] = {{a.data(), a.data()}, {b.data(), b.data()}};
    mixer.setLevel(0, {1, 0, false}, true);
    mixer.setLevel(1, {2, 0, false}, true);
    mixer.mix(blocks, 256, left.data(), right.data());
    QCOMPARE(left[100], 2.0F);
    QCOMPARE(right[100], 2.0F);
    mixer.setLevel(0, {0, 0, false}, false);
    std::fill(left.begin(), left.end(), 0.0F);
    mixer.mix(blocks, 256, left.data(), right.data());
    QVERIFY(left[0] > 1.95F && left[255] < 1.02F);
    for (int f = 1; f < 256; ++f)
        QVERIFY(std::abs(left[static_cast<std::size_t>(f)] - left[static_cast<std::size_t>(f) - 1]) < 0.005F);
}

void TestEngine::roomIsLinearAndDiesAway() {
    std::mt19937 random(25);
    Room a(rate), b(rate), sum(rate);
    std::vector<float> inA(rate), inB(rate), inSum(rate), outA(rate), outB(rate), outSum(rate), silent(rate),
        waste(rate);
    for (int f = 0; f < 4800; ++f) {
        inA[static_cast<std::size_t>(f)] = static_cast<float>(random() % 2000) / 1000 - 1;
        inB[static_cast<std::size_t>(f)] = static_cast<float>(random() % 2000) / 1000 - 1;
        inSum[static_cast<std::size_t>(f)] =
            inA[static_cast<std::size_t>(f)] + inB[static_cast<std::size_t>(f)];
    }
    a.process(inA.data(), inB.data(), outA.data(), waste.data(), rate);
    b.process(inB.data(), inA.data(), outB.data(), waste.data(), rate);
    sum.process(inSum.data(), inSum.data(), outSum.data(), waste.data(), rate);
    float most = 0;
    for (std::size_t f = 0; f < outSum.size(); ++f)
        most = std::max(most, std::abs(outSum[f] - outA[f] - outB[f]));
    QVERIFY(most < 1e-4F);
    QVERIFY(peak(outSum) > 0.1F);
    std::vector<float> tail(rate);
    for (int second = 0; second < 4; ++second) {
        std::fill(tail.begin(), tail.end(), 0.0F);
        sum.process(silent.data(), silent.data(), tail.data(), waste.data(), rate);
    }
    QVERIFY(peak(tail) < 1e-5F);
}

void TestEngine::queueKeepsOrderBetweenThreads() {
    static SpscQueue<int, 64> queue;
    constexpr int many = 200000;
    std::jthread writer([] {
        for (int i = 0; i < many;)
            if (queue.push(i)) ++i;
    });
    for (int wanted = 0; wanted < many;) {
        const auto got = queue.pop();
        if (!got) continue;
        QCOMPARE(*got, wanted);
        ++wanted;
    }
    QVERIFY(!queue.pop());
}

void TestEngine::planPutsEachPartInItsSlot() {
    Song song = demoSong("lantern_quay.mid");
    const Catalogue fonts = testFont();
    InstrumentBank bank(rate);
    const auto plan = makePlan(song, fonts, matchSong(song, fonts), bank);
    QCOMPARE(plan->parts.size(), std::size_t{10});
    for (const PlanPart& part : plan->parts)
        QVERIFY(!part.schedule->events.empty() && part.sounds.size() == part.schedule->sounds.size());
    QVERIFY(plan->parts[9].schedule->drums);
    std::swap(song.parts[0], song.parts[9]); // reordering moves no slot
    const auto again = makePlan(song, fonts, matchSong(song, fonts), bank, plan.get());
    for (std::size_t i = 0; i < 10; ++i)
        QVERIFY(again->parts[i].schedule ==
                plan->parts[i].schedule); // shared, so that nothing is interrupted
    QCOMPARE(plan->instruments.size(), std::size_t{1});
}

namespace {

std::vector<int> slotsOf(const SlotDeal& deal, std::initializer_list<Seat> seats) {
    std::vector<int> slots;
    for (const Seat& seat : seats) slots.push_back(deal.slotOf(seat.part, seat.layer));
    return slots;
}

Song songOfParts(std::initializer_list<std::pair<PartId, int>> partsAndLayers) {
    Song song;
    for (const auto& [id, layers] : partsAndLayers) {
        Part part;
        part.id = id;
        part.sound.layers.resize(static_cast<std::size_t>(layers));
        song.parts.push_back(part);
    }
    return song;
}

} // namespace

void TestEngine::slotsAreDealtOnceAndKept() {
    const SlotDeal first(songOfParts({{510, 1}, {3, 0}, {7, 2}}), {}, 1);
    QCOMPARE(slotsOf(first, {{3, -1}, {7, -1}, {510, -1}, {7, 0}, {7, 1}, {510, 0}}),
             (std::vector{0, 1, 2, 3, 4, 5}));
    QCOMPARE(first.parts(), std::size_t{3});
    QCOMPARE(first.count(), std::size_t{6});
    QCOMPARE(first.slotOf(4), -1);
    QCOMPARE(first.slotOf(3, 0), -1);
    // Part 3 went and 900 came: who is still there keeps the place, and nobody sits down on who may still
    // ring.
    const std::vector<Seat> before = {{3, -1}, {7, -1}, {510, -1}, {}, {7, 0}, {7, 1}, {510, 0}};
    const SlotDeal next(songOfParts({{900, 0}, {7, 2}, {510, 0}}), before, 4);
    QCOMPARE(slotsOf(next, {{7, -1}, {510, -1}, {900, -1}, {7, 0}, {7, 1}}), (std::vector{1, 2, 3, 4, 5}));
    QCOMPARE(next.parts(), std::size_t{4});
    QCOMPARE(next.count(), std::size_t{8});
    // No more than there can be, the first by their ids.
    Song many;
    for (PartId id = maxSlots + 5; id > 0; --id) {
        many.parts.emplace_back();
        many.parts.back().id = id;
    }
    const SlotDeal most(many, {}, 8);
    QCOMPARE(most.slotOf(maxSlots), maxSlots - 1);
    QCOMPARE(most.slotOf(maxSlots + 1), -1);
    QCOMPARE(most.count(), std::size_t{maxSlots});
    QCOMPARE(SlotDeal(Song{}, {}, 1).count(), std::size_t{1});
}

/// A hundred rounds of taking a part apart and joining it again, each with a plan of its own: no more slots
/// than parts, and who was there all the time never moves.
void TestEngine::roundsOfSplittingTakeNoSlots() {
    Song song = demoSong("lantern_quay.mid");
    const PartId part = song.parts[2].id, other = song.parts[5].id;
    const Catalogue fonts = testFont();
    InstrumentBank bank(rate);
    auto plan = makePlan(song, fonts, matchSong(song, fonts), bank);
    const int place = plan->slotOf(other);
    for (int round = 0; round < 100; ++round) {
        Song fresh = song;
        for (int i = 0; i < 5 * round; ++i) (void)fresh.takeId(); // as if more had been done meanwhile
        const Song apart = edits::split(fresh, part, splitByPitch(song, *song.part(part), Key{64}));
        QVERIFY(apart.parts.size() > song.parts.size());
        plan = makePlan(apart, fonts, matchSong(apart, fonts), bank, plan.get());
        QCOMPARE(plan->slotOf(other), place);
        plan = makePlan(song, fonts, matchSong(song, fonts), bank, plan.get());
        QVERIFY(plan->parts.size() <= song.parts.size() + 4);
        QCOMPARE(plan->slotOf(other), place);
    }
}

/// Live plans have room for layers to come; a layer keeps its slot when another part gets one.
void TestEngine::layersKeepTheirSlots() {
    Song song = demoSong("lantern_quay.mid");
    const Catalogue fonts = testFont();
    InstrumentBank bank(rate, {.slotStep = 16, .live = true, .pluginBundle = {}});
    song = edits::addLayer(song, 5, {houseFontId, 0, 3, "Tone"});
    const auto first = makePlan(song, fonts, matchSong(song, fonts), bank);
    const Song more = edits::addLayer(song, 2, {houseFontId, 0, 4, "Tone"});
    const auto second = makePlan(more, fonts, matchSong(more, fonts), bank, first.get());
    int layers = 0;
    for (std::size_t slot = first->mixed; slot < first->parts.size(); ++slot) {
        if (first->parts[slot].id == 0) continue;
        ++layers;
        QCOMPARE(second->parts[slot].id, 5);
        QCOMPARE(second->parts[slot].under, second->slotOf(5));
        QVERIFY(second->parts[slot].schedule == first->parts[slot].schedule);
    }
    QCOMPARE(layers, 1);
    QVERIFY(first->parts.size() > first->mixed + 1); // some are free
    Lanes lanes;
    lanes.swap(first.get());
    float most = 0;
    for (int i = 0; i < 200; ++i) {
        if (i == 100) lanes.swap(second.get());
        const int frames = lanes.render(maxFrames, 1, 60 * rate);
        for (const StereoBlock& block : lanes.plan()->mixedBlocks())
            for (int f = 0; f < frames; ++f) most = std::max(most, std::abs(block.left[f]));
    }
    QVERIFY(most > 0.001F && most < 10);
    lanes.swap(nullptr);
}

/// A song of more parts than can sound says which are silent.
void TestEngine::partsBeyondTheMostAreTold() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 1, 60).song();
    const Part one = song.parts[0];
    for (PartId id = 2; id <= maxSlots + 1; ++id) {
        song.parts.push_back(one);
        song.parts.back().id = id;
        song.parts.back().name = "Part " + std::to_string(id);
    }
    const Catalogue fonts; // without fonts it takes no memory
    InstrumentBank bank(rate);
    const auto plan = makePlan(song, fonts, matchSong(song, fonts), bank);
    QCOMPARE(plan->parts.size(), std::size_t{maxSlots});
    QCOMPARE(plan->problems.size(), std::size_t{1});
    QVERIFY(plan->problems[0].where.starts_with("Part 4097"));
    QVERIFY(inWords(plan->problems[0].what).find("4096") != std::string::npos);
}

/// What a lane holds back and where its level is do not begin anew with the next plan.
void TestEngine::delaysGoOverToTheNextPlan() {
    auto notebook = std::make_shared<Notebook>();
    const auto silent = std::make_shared<const Schedule>();
    const auto made = [&](float layerGain) {
        auto plan = planOf(notebook, {silent, silent});
        for (PlanPart& part : plan->parts) {
            part.delay.left.assign(1500, 0.0F);
            part.delay.right.assign(1500, 0.0F);
        }
        plan->endFrame = 10 * rate;
        plan->parts[1].layerGain = layerGain;
        return plan;
    };
    const auto first = made(1), second = made(0.5F);
    Lanes lanes;
    lanes.swap(first.get());
    for (int i = 0; i < 40; ++i) lanes.render(64, 1, 10 * rate); // the instrument gives 1 in every slot
    QCOMPARE(first->blocks[0].left[63], 1.0F);
    lanes.swap(second.get());
    lanes.render(64, 1, 10 * rate);
    for (int f = 0; f < 64; ++f) QVERIFY(second->blocks[0].left[f] == 1 && second->blocks[1].left[f] == 1);
    // Another part in the same slot takes nothing over.
    const auto third = made(1);
    third->parts[0].id = 77;
    lanes.swap(third.get());
    lanes.render(64, 1, 10 * rate);
    QCOMPARE(third->blocks[0].left[0], 0.0F);
    QCOMPARE(third->blocks[1].left[0], 1.0F);
}

/// Sounds A, B and A of one instrument: a controller reaches it once.
void TestEngine::anInstrumentIsToldOnce() {
    class Counting final : public Instrument {
      public:
        void play(int, std::uint8_t status, std::uint8_t, std::uint8_t) override { told += status == 0xB0; }
        void choose(int, const InstrumentSound&) override {}
        void release(int) override {}
        void reset(int) override {}
        void render(std::span<const StereoBlock>, int) override {}
        int told = 0;
    };
    const auto a = std::make_shared<Counting>(), b = std::make_shared<Counting>();
    Schedule schedule;
    schedule.sounds = {SoundRef{"a", 0, 1, ""}, SoundRef{"b", 0, 1, ""}, SoundRef{"a", 0, 2, ""}};
    for (int i = 0; i < 10; ++i) schedule.events.push_back({100 * (i + 1), 0xB0, 96, 0}); // data increment
    Plan plan(1, rate);
    plan.instruments = {a, b};
    plan.parts[0].id = 1;
    plan.parts[0].schedule = std::make_shared<const Schedule>(schedule);
    for (Instrument* instrument : {static_cast<Instrument*>(a.get()), static_cast<Instrument*>(b.get()),
                                   static_cast<Instrument*>(a.get())})
        plan.parts[0].addSound({instrument, 0, 1});
    plan.endFrame = rate;
    Lanes lanes;
    lanes.swap(&plan);
    const int before = a->told;
    for (int i = 0; i < 30; ++i) lanes.render(64, 1, rate);
    QCOMPARE(a->told - before, 10);
    QCOMPARE(a->told, b->told);
    lanes.swap(nullptr);
}

/// Levels and names go into the plan that plays; all else makes another.
void TestEngine::levelsAndNamesNeedNoNewPlan() {
    const Song song = demoSong("lantern_quay.mid");
    const Catalogue fonts = testFont();
    InstrumentBank bank(rate);
    const auto plan = makePlan(song, fonts, matchSong(song, fonts), bank);
    const auto stays = [&](const Song& other) {
        return playsAsPlanned(*plan, other, matchSong(other, fonts));
    };
    QVERIFY(stays(song));
    QVERIFY(stays(edits::setLevel(song, 2, -6)));
    QVERIFY(stays(edits::setMuted(song, 2, true)));
    QVERIFY(stays(edits::setPan(song, 3, 0.5)));
    Song named = song;
    named.parts[4].colour = (named.parts[4].colour + 1) % 12;
    QVERIFY(stays(named));
    Song aside = song;
    aside.parts[1].aside = true;
    QVERIFY(!stays(aside));
    QVERIFY(!stays(edits::chooseSound(song, 2, {houseFontId, 0, 9, "Other"})));
    QVERIFY(!stays(edits::setSemitones(song, 2, 12)));
    Song fewer = song;
    fewer.parts.pop_back();
    QVERIFY(!stays(fewer));
    QVERIFY(!playsAsPlanned(*plan, song, matchSong(song, Catalogue()))); // its sounds are gone
}

QTEST_APPLESS_MAIN(TestEngine)
#include "tst_engine.moc"
