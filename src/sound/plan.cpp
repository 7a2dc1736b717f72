#include "sound/plan.h"

#include "midi/percussion.h"
#include "song/model/levels.h"
#include "song/model/songchange.h"
#include "sound/fontchannel.h"
#include "sound/plugininstrument.h"
#include "sound/slotdeal.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>
#include <numbers>
#include <set>
#include <utility>

namespace cobbleway {

Plan::Plan(std::size_t count, int hz, std::size_t more)
    : rate(hz), parts(count + more), mixed(count), samples((count + more) * 2 * maxFrames) {
    const auto silent = std::make_shared<const Schedule>();
    for (std::size_t i = 0; i < parts.size(); ++i) {
        parts[i].schedule = silent;
        blocks.push_back({&samples[i * 2 * maxFrames], &samples[(i * 2 + 1) * maxFrames]});
    }
}

void PlanPart::addSound(const InstrumentSound& sound) {
    sounds.push_back(sound);
    if (sound.instrument &&
        std::find(instruments.begin(), instruments.end(), sound.instrument) == instruments.end())
        instruments.push_back(sound.instrument);
}

int Plan::slotOf(PartId id) const {
    for (std::size_t slot = 0; id > 0 && slot < mixed; ++slot)
        if (parts[slot].id == id) return static_cast<int>(slot);
    return -1;
}

bool playsAsPlanned(const Plan& plan, const Song& song, const std::vector<PartMatch>& matches) {
    const Sides differ = differenceOf(plan.song, song);
    if (differ.has(Side::Notes | Side::Time | Side::Sounds | Side::File) || matches != plan.matches)
        return false;
    return std::equal(
        song.parts.begin(), song.parts.end(), plan.song.parts.begin(), plan.song.parts.end(),
        [](const Part& now, const Part& was) { return now.id == was.id && now.aside == was.aside; });
}

void Delay::run(const StereoBlock& block, int frames) {
    if (left.empty()) return;
    for (int f = 0; f < frames; ++f) {
        std::swap(block.left[f], left[at]);
        std::swap(block.right[f], right[at]);
        if (++at == left.size()) at = 0;
    }
}

void applyMix(Plan& plan, const Song& song) {
    plan.master = static_cast<float>(dbToGain(song.masterDb));
    plan.roomSeconds = static_cast<float>(song.roomSeconds);
    const MixGains gains(song);
    for (PlanPart& planned : plan.parts) {
        const Part* part = song.part(planned.id);
        if (!part) continue;
        planned.panShift = static_cast<int>(std::lround(part->mix.pan * panSpan));
        if (planned.layer >= 0) {
            const auto layer = static_cast<std::size_t>(planned.layer);
            if (layer < part->sound.layers.size())
                planned.layerGain = static_cast<float>(dbToGain(part->sound.layers[layer].levelDb));
            continue;
        }
        // The master volume follows the same law as a part's: 40·log10 (GM developer guidelines).
        const double gain = gains.of(*part) * song.masterVolume * song.masterVolume;
        planned.mix.gain = static_cast<float>(gain);
        planned.mix.send = static_cast<float>(song.room * part->mix.room);
        planned.mix.sendFirst = part->mix.roomBeforeLevel;
    }
}

namespace {

/// Makes one plan.
class Planner {
  public:
    Planner(const Song& song, const Catalogue& catalogue, const std::vector<PartMatch>& matches,
            InstrumentBank& bank, const Plan* before, Derived& derived)
        : m_song(song), m_catalogue(catalogue), m_matches(matches), m_bank(bank), m_before(before),
          m_derived(derived) {
        bank.leaveOut(catalogue.unreadableBundles());
        constexpr std::size_t liveStep = 8;
        m_slots =
            SlotDeal(song, before ? seatsOf(*before) : std::vector<Seat>{}, bank.isLive() ? liveStep : 1);
        if (!bank.isLive()) m_dealt = dealParts(song, catalogue, matches, derived, renderShares);
        m_dealt.keys.resize(
            std::min(m_dealt.keys.size(), maxSlots - m_slots.count())); // the others stay with their part
        m_plan = std::make_unique<Plan>(m_slots.parts(), bank.rate(),
                                        m_slots.count() - m_slots.parts() + m_dealt.keys.size());
    }

    std::unique_ptr<Plan> run() {
        m_plan->endFrame = endFrame(m_song, m_bank.rate());
        if (!m_bank.isLive()) setShares();
        for (std::size_t i = 0; i < m_song.parts.size(); ++i) {
            const Part& part = m_song.parts[i];
            const int slot = m_slots.slotOf(part.id);
            if (slot < 0) {
                noteAt(part.name, {{"error.too-many-parts", {{"most", maxSlots}}}, {}, {"now.fewer-parts"}});
                continue;
            }
            planPart(part, i, static_cast<std::size_t>(slot));
            for (std::size_t l = 0; l < part.sound.layers.size(); ++l)
                if (const int own = m_slots.slotOf(part.id, static_cast<int>(l)); own >= 0)
                    planLayer(part, i, l, static_cast<std::size_t>(own));
        }
        chokeDrums();
        for (std::size_t i = 0; i < m_dealt.keys.size(); ++i) planKeys(m_dealt.keys[i], firstOfKeys() + i);
        Error problem;
        m_plan->effects = m_bank.effects("mix", m_song.effects, &problem);
        noteAt(inWords({"mix.whole"}), problem);
        noteGone(inWords({"mix.whole"}), m_song.effects);
        if (m_plan->effects)
            m_plan->effectsForMix = [bank = &m_bank, effects = m_song.effects](std::size_t mix) {
                return bank->effects("mix " + std::to_string(mix), effects);
            };
        m_bank.forgetUnused();
        prepareSounds();
        alignLatencies();
        const bool sameBeats =
            m_before && m_before->song.tempo == m_song.tempo && m_before->song.end == m_song.end;
        m_plan->beats =
            sameBeats ? m_before->beats
                      : std::make_shared<const std::vector<Click>>(clicksOf(*m_song.tempo, 0, m_song.end, 1));
        m_plan->hasPlugins = hasPlugins();
        m_plan->song = m_song;
        m_plan->matches = m_matches;
        applyMix(*m_plan, m_song);
        return std::move(m_plan);
    }

  private:
    /// Whether all that a part's schedule is made of is as it was: its notes, their time, its sounds.
    [[nodiscard]] bool isAsBefore(const PlanPart& planned, const PlanPart* was, const Part& part,
                                  std::size_t index) const {
        if (!was || m_before->rate != m_bank.rate() || was->heard != planned.heard) return false;
        const Part* old = m_before->song.part(part.id);
        return old && old->source.drums == part.source.drums && old->sound == part.sound &&
               m_before->song.tempo == m_song.tempo && index < m_before->matches.size() &&
               m_before->matches[index] == m_matches[index];
    }

    [[nodiscard]] const PlanPart* oldAt(std::size_t slot, PartId id, int layer) const {
        if (!m_before || slot >= m_before->parts.size()) return nullptr;
        const PlanPart& old = m_before->parts[slot];
        return old.id == id && old.layer == layer ? &old : nullptr;
    }

    template <class Make>
    std::shared_ptr<const Schedule> share(const PlanPart* old, bool same, Make make) const {
        if (old && same) return old->schedule;
        Schedule schedule = make();
        return old && *old->schedule == schedule ? old->schedule
                                                 : std::make_shared<const Schedule>(std::move(schedule));
    }

    static std::vector<Seat> seatsOf(const Plan& plan) {
        std::vector<Seat> seats;
        for (const PlanPart& part : plan.parts) seats.push_back({part.id, part.layer});
        return seats;
    }

    void planPart(const Part& part, std::size_t index, std::size_t slot) {
        PlanPart& planned = m_plan->parts[slot];
        planned.id = part.id;
        const PlanPart* old = oldAt(slot, part.id, -1);
        planned.heard = m_derived.heard(m_song, part);
        planned.schedule = share(old, isAsBefore(planned, old, part, index), [&] {
            return scheduleOf(m_song, part, realisedEvents(m_song, part), m_matches[index], m_bank.rate());
        });
        for (const auto& sound : planned.schedule->sounds) {
            const bool main = part.sound.chosen && sound == m_matches[index].first().sound;
            planned.addSound(
                instrumentSoundOf(sound, main ? part.sound.settings : PluginSettings{}, part, slot));
        }
        Error problem;
        planned.effects = m_bank.effects(std::to_string(part.id), part.mix.effects, &problem);
        noteAt(part.name, problem);
        noteGone(part.name, part.mix.effects);
    }

    void planLayer(const Part& part, std::size_t index, std::size_t layer, std::size_t slot) {
        PlanPart& planned = m_plan->parts[slot];
        planned.id = part.id;
        planned.layer = static_cast<int>(layer);
        planned.under = m_slots.slotOf(part.id);
        const Match& match = m_matches[index].layers[layer];
        const PlanPart* old = oldAt(slot, part.id, planned.layer);
        planned.heard = m_derived.heard(m_song, part);
        planned.schedule = share(old, isAsBefore(planned, old, part, index), [&] {
            return scheduleOfLayer(m_song, part, realisedEvents(m_song, part), part.sound.layers[layer],
                                   match, m_bank.rate());
        });
        planned.addSound(instrumentSoundOf(match.sound, part.sound.layers[layer].settings, part, slot));
    }

    /// What another share plays of a part: the same, but for the keys.
    void planKeys(const Dealt::Keys& keys, std::size_t slot) {
        PlanPart& planned = m_plan->parts[slot];
        planned.id = m_song.parts[keys.part].id;
        planned.under = m_slots.slotOf(planned.id);
        PlanPart& part = m_plan->parts[static_cast<std::size_t>(planned.under)];
        planned.heard = part.heard;
        planned.schedule = part.schedule;
        planned.sounds = part.sounds;
        planned.instruments = part.instruments;
        planned.chokes = part.chokes;
        planned.keys = keys.keys;
        part.keys &= ~keys.keys;
    }

    /// A kit on several tracks is one kit: its exclusive drums stop each other (RP-003).
    void chokeDrums() {
        std::map<std::pair<int, int>, std::vector<PlanPart*>> kits;
        for (const Part& part : m_song.parts)
            if (const int slot = m_slots.slotOf(part.id); part.source.drums && !part.aside && slot >= 0)
                kits[{part.source.port, part.source.channel.value}].push_back(
                    &m_plan->parts[static_cast<std::size_t>(slot)]);
        for (const auto& [channel, parts] : kits) {
            if (parts.size() < 2) continue;
            std::vector<std::vector<Choke>> strikes;
            for (const PlanPart* part : parts) strikes.push_back(exclusiveStrikes(*part->schedule));
            for (std::size_t i = 0; i < parts.size(); ++i) {
                std::set<int> groups;
                for (const Choke& strike : strikes[i]) groups.insert(strike.group);
                for (std::size_t other = 0; other < parts.size(); ++other)
                    for (const Choke& strike : strikes[other])
                        if (other != i && groups.contains(strike.group)) parts[i]->chokes.push_back(strike);
                std::stable_sort(parts[i]->chokes.begin(), parts[i]->chokes.end(),
                                 [](const Choke& a, const Choke& b) { return a.frame < b.frame; });
            }
        }
    }

    static std::vector<Choke> exclusiveStrikes(const Schedule& schedule) {
        std::vector<Choke> strikes;
        for (const TimedEvent& event : schedule.events)
            if ((event.status & 0xF0) == 0x90 && event.data2 > 0)
                if (const int group = exclusiveGroup(Key{static_cast<std::uint8_t>(event.data1)}); group > 0)
                    strikes.push_back({event.frame, static_cast<std::uint8_t>(group)});
        return strikes;
    }

    InstrumentSound instrumentSoundOf(const std::optional<SoundRef>& sound, const PluginSettings& settings,
                                      const Part& part, std::size_t slot) {
        if (!sound) return {};
        Error problem;
        std::shared_ptr<Instrument> instrument;
        if (sound->kind == SoundKind::Plugin) {
            instrument = m_bank.plugin(sound->font, settings, static_cast<int>(slot), &problem);
            if (instrument) instrument->setShares(m_shares);
            problem.where = sound->name; // as people know it
            noteAt(part.name, std::exchange(problem, {}));
            noteGone(part.name, settings);
        } else if (sound->kind == SoundKind::Port) {
            const PortInfo* port = m_catalogue.port(sound->font);
            if (port) instrument = m_bank.port(*port, m_catalogue.font(houseFontId), lanes(), &problem);
        } else if (const SoundFont* font = m_catalogue.font(sound->font)) {
            instrument = m_bank.instrument(*font, lanes(), m_shares, &problem);
            if (!instrument && std::find(m_plan->unplayable.begin(), m_plan->unplayable.end(), font->id) ==
                                   m_plan->unplayable.end())
                m_plan->unplayable.push_back(font->id);
        }
        note(problem);
        auto& all = m_plan->instruments;
        if (instrument && std::find(all.begin(), all.end(), instrument) == all.end())
            all.push_back(instrument);
        return {instrument.get(), sound->bank, sound->program, sound->channel};
    }

    /// Notes files that a plug-in was given and that are not there.
    void noteGone(const std::string& place, const PluginSettings& settings) {
        std::error_code error;
        for (const auto& [parameter, path] : settings.files)
            if (!path.empty() && !std::filesystem::exists(path, error))
                noteAt(place, {{"error.plugin-file-gone"}, path, {"now.choose-file"}});
    }

    void noteGone(const std::string& place, const std::vector<Effect>& effects) {
        for (const Effect& effect : effects)
            if (effect.on) noteGone(place, effect.settings);
    }

    /// Notes what cannot be used of a part or of the mix.
    void noteAt(const std::string& place, Error problem) {
        problem.where = place + ", " + problem.where;
        note(problem);
    }

    void note(const Error& problem) {
        const auto same = [&](const Error& e) { return e.what == problem.what && e.where == problem.where; };
        if (!problem.what.empty() && std::none_of(m_plan->problems.begin(), m_plan->problems.end(), same))
            m_plan->problems.push_back(problem);
    }

    static void addNotes(PlayedNotes& notes, const Schedule& schedule) {
        bool soft = false; // the soft pedal is down
        for (const TimedEvent& event : schedule.events) {
            const auto data1 = static_cast<std::uint8_t>(event.data1),
                       data2 = static_cast<std::uint8_t>(event.data2);
            if ((event.status & 0xF0) == 0xB0 && data1 == cc::soft) soft = data2 >= 64;
            if ((event.status & 0xF0) == 0x90 && data2 > 0)
                notes.add(data1, soft ? FontChannel::softened(data2) : data2);
        }
    }

    /// Brings what the notes need that the plan before did not play.
    void prepareSounds() {
        std::map<std::tuple<Instrument*, int, int>, PlayedNotes> needed;
        for (std::size_t slot = 0; slot < m_plan->parts.size(); ++slot) {
            const PlanPart& lane = m_plan->parts[slot];
            const PlanPart* old =
                m_before && slot < m_before->parts.size() ? &m_before->parts[slot] : nullptr;
            if (old && old->schedule == lane.schedule && old->sounds == lane.sounds) continue;
            for (const InstrumentSound& sound : lane.sounds)
                if (sound.instrument)
                    addNotes(needed[{sound.instrument, sound.bank, sound.program}], *lane.schedule);
        }
        for (const auto& [sound, notes] : needed) {
            const auto [instrument, bank, program] = sound;
            instrument->prepare({instrument, bank, program, 0}, notes);
        }
    }

    /// Every lane waits for the latest one, with the effects of its part counted in.
    void alignLatencies() {
        const auto latencyOf = [&](const PlanPart& lane) {
            int latest = 0;
            for (const InstrumentSound& sound : lane.sounds)
                if (sound.instrument) latest = std::max(latest, sound.instrument->latency());
            const PlanPart& part =
                lane.under >= 0 ? m_plan->parts[static_cast<std::size_t>(lane.under)] : lane;
            return std::min(latest + (part.effects ? part.effects->latency() : 0), 4 * m_bank.rate());
        };
        int most = 0;
        for (const PlanPart& lane : m_plan->parts) most = std::max(most, latencyOf(lane));
        for (PlanPart& lane : m_plan->parts) {
            const auto late = static_cast<std::size_t>(most - latencyOf(lane));
            lane.delay.left.assign(late, 0.0F);
            lane.delay.right.assign(late, 0.0F);
        }
        m_plan->latency = most + (m_plan->effects ? m_plan->effects->latency() : 0);
    }

    [[nodiscard]] bool hasPlugins() const {
        const auto isPlugin = [](const auto& instrument) {
            return dynamic_cast<const PluginInstrument*>(instrument.get()) != nullptr;
        };
        return m_plan->effects ||
               std::any_of(m_plan->instruments.begin(), m_plan->instruments.end(), isPlugin) ||
               std::any_of(m_plan->parts.begin(), m_plan->parts.end(),
                           [](const PlanPart& part) { return part.effects != nullptr; });
    }

    [[nodiscard]] int lanes() const { return static_cast<int>(m_plan->parts.size()); }
    [[nodiscard]] std::size_t firstOfKeys() const { return m_plan->parts.size() - m_dealt.keys.size(); }

    /// Says which share renders which lane. A part's layers are in its share.
    void setShares() {
        const auto& shares = m_dealt.shares;
        const bool one = m_dealt.keys.empty() && std::all_of(shares.begin(), shares.end(), [](int share) {
                             return share == 0 || share == noShare;
                         });
        m_plan->shares = one ? 1 : renderShares;
        m_shares.resize(m_plan->parts.size(), noShare);
        for (std::size_t i = 0; i < shares.size(); ++i) {
            const Part& part = m_song.parts[i];
            for (int layer = -1; layer < static_cast<int>(part.sound.layers.size()); ++layer)
                if (const int slot = m_slots.slotOf(part.id, layer); slot >= 0)
                    m_shares[static_cast<std::size_t>(slot)] = shares[i];
        }
        for (std::size_t i = 0; i < m_dealt.keys.size(); ++i)
            m_shares[firstOfKeys() + i] = m_dealt.keys[i].share;
        for (std::size_t slot = 0; slot < m_shares.size(); ++slot) m_plan->parts[slot].share = m_shares[slot];
    }

    const Song& m_song;
    const Catalogue& m_catalogue;
    const std::vector<PartMatch>& m_matches;
    InstrumentBank& m_bank;
    const Plan* m_before;
    Derived& m_derived;
    SlotDeal m_slots;
    Dealt m_dealt;
    std::vector<std::uint8_t> m_shares; ///< by lane; empty where all is one share
    std::unique_ptr<Plan> m_plan;
};

} // namespace

std::unique_ptr<Plan> makePlan(const Song& song, const Catalogue& catalogue,
                               const std::vector<PartMatch>& matches, InstrumentBank& bank,
                               const Plan* before, Derived* derived) {
    Derived own;
    return Planner(song, catalogue, matches, bank, before, derived ? *derived : own).run();
}

} // namespace cobbleway
