#include "files/soundexport.h"

#include "files/spool.h"
#include "song/model/levels.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <thread>

namespace cobbleway {
namespace {

/// One file on its way, until it is finished or has failed.
template <class Writer> struct Open {
    std::unique_ptr<Writer> writer; ///< null when it has failed
    Error error{{"error.not-finished"}, {}, {"now.try-again"}};
};

template <class Writer> bool anyOpen(const std::vector<Open<Writer>>& files) {
    return std::any_of(files.begin(), files.end(), [](const auto& f) { return f.writer != nullptr; });
}

SoundSpec specOf(const SoundFileOrder& order, int rate, bool measures, bool truePeak) {
    return {order.format, rate, order.tags, measures, truePeak};
}

/// Writes while it renders.
std::vector<Result<Measured>> writeAtOnce(Plan& plan, const std::vector<SoundFileOrder>& orders,
                                          const RenderOptions& options) {
    std::vector<Open<SoundWriter>> files(orders.size());
    std::vector<MixOrder> mixes;
    for (std::size_t i = 0; i < orders.size(); ++i) {
        files[i].error.where = orders[i].path.string();
        auto writer = SoundWriter::open(orders[i].path, specOf(orders[i], plan.rate, true, false));
        if (writer)
            files[i].writer = std::move(writer.value());
        else
            files[i].error = writer.error();
        if (!files[i].writer) continue;
        mixes.push_back({orders[i].levels, [file = &files[i], &files](std::span<const float> samples) {
                             if (!file->writer) return true; // the others go on
                             if (file->writer->write(samples)) return true;
                             file->error = file->writer->refusal();
                             file->writer.reset(); // leaves nothing
                             return anyOpen(files);
                         }});
    }
    const RenderEnd end = mixes.empty() ? RenderEnd::Stopped : renderMixes(plan, mixes, options);
    std::vector<Result<Measured>> results;
    for (auto& file : files) {
        if (file.writer && end == RenderEnd::Done) {
            results.push_back(file.writer->finish());
            continue;
        }
        if (file.writer && options.stop.stop_requested()) file.error.what = {"error.stopped"};
        results.emplace_back(file.error); // the writer is destroyed and leaves nothing
    }
    return results;
}

/// Keeps all mixes until they are known, then writes each with its gain between its ends.
class Finisher {
  public:
    Finisher(Plan& plan, const std::vector<SoundFileOrder>& orders, const RenderOptions& options,
             const Finish& finish, SpoolMemory& memory)
        : m_plan(plan), m_orders(orders), m_options(options), m_finish(finish), m_memory(memory),
          m_pace(std::clamp(options.pace, 25.0, 200.0) / 100), m_spools(orders.size()) {
        // What a click adds must not go past full scale either.
        if (clicks()) {
            ClickShape loudest = finish.clickShape;
            loudest.levelDb += mostAbove();
            m_highest = gainToDb(dbToGain(highestPeakDb) - std::min(0.5F, clickPeakOf(loudest)));
        }
    }

    std::vector<Result<Measured>> run() {
        if (keep() == RenderEnd::Done) {
            m_measured.resize(m_orders.size());
            if (m_finish.level != Level::AsMixed || clicks())
                eachFile(0.7, [this](std::size_t i) { m_measured[i] = measure(i); });
            findGains();
            findEnds();
            m_results.resize(m_orders.size());
            eachFile(0.85, [this](std::size_t i) { m_results[i] = write(i); });
        }
        std::vector<Result<Measured>> results;
        for (std::size_t i = 0; i < m_orders.size(); ++i) {
            auto& spool = m_spools[i];
            if (!m_results.empty() && m_results[i]) {
                results.push_back(*m_results[i]);
                continue;
            }
            if (spool.writer && m_options.stop.stop_requested()) spool.error.what = {"error.stopped"};
            results.emplace_back(spool.error);
        }
        return results;
    }

  private:
    [[nodiscard]] bool clicks() const { return m_finish.click || m_finish.countIn > 0; }

    /// By how much music can become louder than that beside which the click has its level, in dB.
    [[nodiscard]] double mostAbove() const {
        return std::max(0.0, aimOf(m_finish.level).value_or(aimedLufs) - aimedLufs);
    }

    /// The click beside a file's music, as loud as that is.
    [[nodiscard]] ClickShape clickOf(std::size_t i) const {
        ClickShape shape = m_finish.clickShape;
        const double lufs = m_measured[i].lufs;
        if (lufs <= -120) return shape;
        constexpr double quietest = -24; // it is still to be heard
        shape.levelDb +=
            std::clamp(lufs + gainToDb(static_cast<double>(m_gains[i])) - aimedLufs, quietest, mostAbove());
        return shape;
    }

    RenderEnd keep() {
        std::vector<MixOrder> mixes;
        for (std::size_t i = 0; i < m_orders.size(); ++i) {
            auto& file = m_spools[i];
            file.error.where = m_orders[i].path.string();
            if (auto problem = AtomicFile::refusalOf(m_orders[i].path)) {
                file.error = *problem;
                continue;
            }
            const auto folder = m_orders[i].path.parent_path();
            auto spool = Spool::open(folder.empty() ? "." : folder, m_memory);
            if (!spool) {
                file.error = spool.error();
                continue;
            }
            file.writer = std::move(spool.value());
            mixes.push_back({m_orders[i].levels, [this, &file](std::span<const float> samples) {
                                 if (!file.writer || file.writer->write(samples)) return true;
                                 file.error = {{"error.sound-room"}, file.error.where, {"now.check-room"}};
                                 file.writer.reset();
                                 return anyOpen(m_spools);
                             }});
        }
        if (mixes.empty()) return RenderEnd::Stopped;
        RenderOptions options = m_options;
        if (m_options.progress) options.progress = [this](double share) { m_options.progress(share * 0.7); };
        return renderMixes(m_plan, mixes, options);
    }

    [[nodiscard]] double gainFor(const Measured& measured) const {
        if (measured.peakDb <= -120) return 0;
        const double room = m_highest - measured.peakDb;
        if (m_finish.level == Level::AsMixed) return 0;
        if (m_finish.level == Level::Peak) return room;
        return measured.lufs <= -120 ? 0 : std::min(aimOf(m_finish.level).value_or(0) - measured.lufs, room);
    }

    /// What must be known of a mix before its gain is: its true peak, and how loud it is.
    Measured measure(std::size_t i) const {
        LoudnessMeter meter(m_plan.rate, true);
        const Spool& spool = *m_spools[i].writer;
        std::vector<float> samples(std::size_t{2} * readFrames);
        for (std::int64_t at = 0; at < spool.frames() && !m_options.stop.stop_requested();) {
            const std::size_t got = spool.read(at, samples);
            if (got == 0) break;
            meter.take(std::span(samples).first(2 * got));
            at += static_cast<std::int64_t>(got);
        }
        return meter.measured();
    }

    void findGains() {
        Measured loudest;
        for (const Measured& one : m_measured) {
            loudest.peakDb = std::max(loudest.peakDb, one.peakDb);
            loudest.lufs = std::max(loudest.lufs, one.lufs);
        }
        for (const Measured& own : m_measured)
            m_gains.push_back(static_cast<float>(dbToGain(gainFor(m_finish.gainOfEach ? own : loudest))));
    }

    /// The frame where what is kept begins, and what comes before it.
    void findStart() {
        const TempoMap& tempo = *m_plan.song.tempo;
        const auto place = [&](double seconds) { // of the song, in frames of the sound
            return static_cast<std::int64_t>(
                std::llround((seconds - m_options.from) / m_pace * static_cast<double>(m_plan.rate)));
        };
        Tick first = m_plan.song.end;
        const Tick from = tempo.tickAt(m_options.from);
        for (const PlanPart& part : m_plan.parts)
            if (part.heard)
                for (const Note& note : part.heard->notes)
                    if (note.end > from) first = std::min(first, std::max(from, note.start));
        Tick start = from;
        if (m_finish.trim) start = first;
        if (m_finish.trim && m_finish.countIn > 0)
            start = std::max(from, tempo.barStart(tempo.position(first).bar));
        m_begin = m_finish.trim ? std::max<std::int64_t>(0, place(tempo.seconds(start))) : 0;
        const double lead = static_cast<double>(m_begin) / m_plan.rate; // of the sound
        CountIn count;
        if (m_finish.countIn > 0) count = countInBefore(tempo, start, m_finish.countIn, m_pace);
        m_before = std::llround(count.seconds * m_plan.rate);
        m_clicks = divided(count.clicks, m_finish.clickShape.parts);
        if (!m_finish.click) return;
        const Tick end = std::min(m_plan.song.end,
                                  std::isfinite(m_options.to) ? tempo.tickAt(m_options.to) : m_plan.song.end);
        for (Click click : divided(clicksOf(tempo, from, end, m_pace), m_finish.clickShape.parts))
            if (click.seconds >= lead - 0.001) {
                click.seconds += count.seconds - lead;
                m_clicks.push_back(click);
            }
    }

    /// The frame after the last that is louder than −60 dBFS once it has its gain.
    [[nodiscard]] std::int64_t lastLoud(const Spool& spool, float gain) const {
        constexpr std::int64_t step = readFrames;
        const float least = 0.001F / std::max(gain, 1e-6F);
        std::vector<float> samples(2 * step);
        for (std::int64_t at = (spool.frames() - 1) / step * step; at >= 0; at -= step)
            for (std::size_t got = spool.read(at, samples); got-- > 0;)
                if (std::abs(samples[2 * got]) > least || std::abs(samples[2 * got + 1]) > least)
                    return at + static_cast<std::int64_t>(got) + 1;
        return 0;
    }

    void findEnds() {
        findStart();
        std::int64_t ofStems = 0;
        for (std::size_t i = 0; i < m_spools.size(); ++i) {
            const Spool* spool = m_spools[i].writer.get();
            std::int64_t end = spool ? spool->frames() : 0;
            if (spool && m_finish.trim) end = std::min(end, lastLoud(*spool, m_gains[i]) + fade());
            end = std::max(end, m_begin);
            if (m_orders[i].stem) ofStems = std::max(ofStems, end);
            m_ends.push_back(end);
        }
        for (std::size_t i = 0; i < m_ends.size(); ++i)
            if (m_orders[i].stem && m_spools[i].writer)
                m_ends[i] = std::min(ofStems, m_spools[i].writer->frames());
    }

    [[nodiscard]] std::int64_t fade() const { return m_plan.rate / 50; }

    /// Does a piece of work for every file that is open, on all threads that may; `done` of all work is
    /// behind.
    template <class Work> void eachFile(double done, Work work) {
        std::atomic<std::size_t> ready{0};
        const double share = 0.15 / static_cast<double>(m_orders.size());
        const auto caller = std::this_thread::get_id();
        forEachOn(m_options.workers, m_orders.size(), [&](std::size_t i) {
            if (m_spools[i].writer && !m_options.stop.stop_requested()) work(i);
            ++ready;
            if (m_options.progress && std::this_thread::get_id() == caller)
                m_options.progress(done + share * static_cast<double>(ready));
        });
    }

    Result<Measured> write(std::size_t i) const {
        const Spool& spool = *m_spools[i].writer;
        SoundSpec spec = specOf(m_orders[i], m_plan.rate, !isKnown(), !isKnown());
        for (SoundChapter& chapter : spec.tags.chapters) // trimmed and counted in, they begin elsewhere
            chapter.seconds =
                std::max(0.0, chapter.seconds + static_cast<double>(m_before - m_begin) / m_plan.rate);
        auto writer = SoundWriter::open(m_orders[i].path, spec);
        if (!writer) return writer.error();
        constexpr std::int64_t step = readFrames;
        const ClickShape click = clickOf(i);
        std::vector<float> samples;
        const std::int64_t all = m_before + m_ends[i] - m_begin;
        for (std::int64_t at = 0; at < all; at += step) { // frames of the file
            if (m_options.stop.stop_requested())
                return Error{{"error.stopped"}, m_orders[i].path.string(), {}};
            const std::int64_t count = std::min(step, all - at);
            samples.assign(static_cast<std::size_t>(2 * count), 0);
            const std::int64_t silent = std::clamp<std::int64_t>(m_before - at, 0, count);
            const auto sound = std::span(samples).subspan(static_cast<std::size_t>(2 * silent));
            spool.read(m_begin + at + silent - m_before, sound);
            for (float& sample : sound) sample *= m_gains[i];
            fadeOut(sound, all - (at + silent));
            addClicks(m_clicks, click, at, m_plan.rate, samples);
            if (!writer.value()->write(samples)) return writer.value()->refusal();
        }
        auto result = writer.value()->finish();
        if (!result || !isKnown()) return result;
        const double gain = gainToDb(static_cast<double>(m_gains[i]));
        const Measured& before = m_measured[i];
        return Measured{result.value().seconds, before.peakDb > -120 ? before.peakDb + gain : -120,
                        before.lufs > -120 ? before.lufs + gain : -120};
    }

    /// What was measured before it had its gain tells what is written: peak and loudness move by the gain,
    /// and the silence that is trimmed counts for neither (EBU R 128 leaves it out). Clicks add to both.
    [[nodiscard]] bool isKnown() const { return m_finish.level != Level::AsMixed && m_clicks.empty(); }

    /// `left`: how many frames of the file begin with these.
    void fadeOut(std::span<float> samples, std::int64_t left) const {
        if (!m_finish.trim) return;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            const std::int64_t toEnd = left - static_cast<std::int64_t>(i / 2);
            if (toEnd <= fade()) samples[i] *= static_cast<float>(toEnd - 1) / static_cast<float>(fade());
        }
    }

    static constexpr std::int64_t readFrames = 16384;
    Plan& m_plan;
    const std::vector<SoundFileOrder>& m_orders;
    const RenderOptions& m_options;
    const Finish& m_finish;
    SpoolMemory& m_memory;
    double m_pace, m_highest = highestPeakDb;
    std::vector<Open<Spool>> m_spools;
    std::vector<Measured> m_measured; ///< before the gain
    std::vector<float> m_gains;
    std::int64_t m_begin = 0, m_before = 0; ///< the first frame kept; frames before it
    std::vector<std::int64_t> m_ends;       ///< the frame after the last kept, by order
    std::vector<Click> m_clicks;            ///< in seconds of the file
    std::vector<std::optional<Result<Measured>>> m_results;
};

} // namespace

std::optional<double> aimOf(Level level) {
    switch (level) {
    case Level::Lufs16: return -16;
    case Level::Lufs18: return -18;
    case Level::Lufs23: return -23;
    case Level::AsMixed:
    case Level::Peak: break;
    }
    return std::nullopt;
}

Reached reachedBy(const Measured& written, const Finish& finish) {
    const auto aim = aimOf(finish.level);
    if (!aim) return Reached::AsAsked;
    if (written.lufs <= -120) return Reached::NotMeasured;
    constexpr double near = 0.5, isAtPeak = 0.3; // LU; dB, for what a lossy format changes
    if (std::abs(written.lufs - *aim) <= near) return Reached::AsAsked;
    const bool atPeak = written.peakDb >= highestPeakDb - isAtPeak;
    return finish.gainOfEach || atPeak ? Reached::HeldByPeak : Reached::KeepsBalance;
}

std::vector<Result<Measured>> writeSoundFiles(Plan& plan, const std::vector<SoundFileOrder>& orders,
                                              const RenderOptions& options, const Finish& finish,
                                              SpoolMemory* memory) {
    if (!finish.waits()) return writeAtOnce(plan, orders, options);
    SpoolMemory own(memory ? 0 : SpoolMemory::share());
    return Finisher(plan, orders, options, finish, memory ? *memory : own).run();
}

} // namespace cobbleway
