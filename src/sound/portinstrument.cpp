#include "sound/portinstrument.h"

#include "midi/event.h"

#include <algorithm>

namespace cobbleway {

PortInstrument::PortInstrument(std::unique_ptr<MidiSink> sink, int slots, int rate)
    : m_sink(std::move(sink)), m_slots(static_cast<std::size_t>(slots)), m_rate(rate),
      m_thread([this](const std::stop_token& stop) { sendLoop(stop); }) {}

PortInstrument::~PortInstrument() {
    m_thread.request_stop();
    m_thread.join();
    for (std::uint8_t channel = 0; channel < 16; ++channel) {
        if (!m_used[channel]) continue;
        const auto status = static_cast<std::uint8_t>(0xB0 | channel);
        for (const std::uint8_t number : {cc::sustain, cc::allNotesOff, cc::allSoundOff})
            m_sink->send(std::array<std::uint8_t, 3>{status, number, 0});
    }
}

void PortInstrument::sendLoop(const std::stop_token& stop) {
    // A millisecond is finer than what a MIDI cable takes to carry a chord.
    while (!stop.stop_requested()) {
        while (const auto message = m_queue.pop()) {
            std::this_thread::sleep_until(message->due);
            m_sink->send({message->bytes.data(), message->size});
        }
        if (m_lost.exchange(false)) endAll();
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    while (const auto message = m_queue.pop()) m_sink->send({message->bytes.data(), message->size});
}

/// Ends what sounds on the channels that were used.
void PortInstrument::endAll() {
    for (std::uint8_t channel = 0; channel < 16; ++channel)
        if (m_used[channel])
            m_sink->send(
                std::array<std::uint8_t, 3>{static_cast<std::uint8_t>(0xB0 | channel), cc::allNotesOff, 0});
}

void PortInstrument::put(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    const bool two = (status & 0xF0) == 0xC0 || (status & 0xF0) == 0xD0;
    if (!m_queue.push({m_heard, {status, data1, data2}, static_cast<std::uint8_t>(two ? 2 : 3)}))
        m_lost = true; // the end of a note may be among what is lost
}

void PortInstrument::play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    if (slot < 0 || static_cast<std::size_t>(slot) >= m_slots.size()) return;
    Slot& to = m_slots[static_cast<std::size_t>(slot)];
    const auto kind = static_cast<std::uint8_t>(status & 0xF0);
    const bool sound = kind == 0xC0 || (kind == 0xB0 && (data1 == cc::bankMsb || data1 == cc::bankLsb));
    if (to.channel < 0 || sound || kind == 0xF0) return; // device messages are not sent
    std::uint8_t& sounding = to.sounding[data1 & 0x7FU];
    if (kind == 0x90 && data2 > 0 && sounding < 255) ++sounding;
    if ((kind == 0x80 || (kind == 0x90 && data2 == 0)) && sounding > 0) --sounding;
    put(static_cast<std::uint8_t>(kind | to.channel), data1, data2);
}

void PortInstrument::choose(int slot, const InstrumentSound& sound) {
    if (slot < 0 || static_cast<std::size_t>(slot) >= m_slots.size()) return;
    const int channel = sound.channel & 0x0F;
    m_slots[static_cast<std::size_t>(slot)].channel = channel;
    m_used[static_cast<std::size_t>(channel)] = true;
    const auto control = static_cast<std::uint8_t>(0xB0 | channel);
    put(control, cc::bankMsb, static_cast<std::uint8_t>(sound.bank & 0x7F));
    put(control, cc::bankLsb, 0);
    put(static_cast<std::uint8_t>(0xC0 | channel), static_cast<std::uint8_t>(sound.program & 0x7F), 0);
}

void PortInstrument::release(int slot) {
    if (slot < 0 || static_cast<std::size_t>(slot) >= m_slots.size()) return;
    Slot& to = m_slots[static_cast<std::size_t>(slot)];
    if (to.channel < 0) return;
    put(static_cast<std::uint8_t>(0xB0 | to.channel), cc::sustain, 0);
    for (std::uint8_t key = 0; key < 128; ++key)
        if (to.sounding[key] > 0) put(static_cast<std::uint8_t>(0x80 | to.channel), key, 64);
    to.sounding.fill(0);
    put(static_cast<std::uint8_t>(0xB0 | to.channel), cc::allNotesOff, 0);
}

void PortInstrument::reset(int slot) {
    release(slot);
    if (slot < 0 || static_cast<std::size_t>(slot) >= m_slots.size()) return;
    const int channel = m_slots[static_cast<std::size_t>(slot)].channel;
    if (channel < 0) return;
    put(static_cast<std::uint8_t>(0xB0 | channel), cc::resetAll, 0); // RP-015: leaves volume and pan
    put(static_cast<std::uint8_t>(0xB0 | channel), cc::volume, 100);
    put(static_cast<std::uint8_t>(0xB0 | channel), cc::pan, 64);
    put(static_cast<std::uint8_t>(0xE0 | channel), 0, 64);
}

void PortInstrument::setAhead(double seconds) {
    const auto given = std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
    m_ahead = std::max<Clock::duration>(leastAhead, given);
}

void PortInstrument::render(std::span<const StereoBlock>, int frames) {
    // The next block is heard when this one ends; the two clocks are kept together slowly, since outputs ask
    // for blocks in bursts, and at once when the stream stood still or began anew.
    constexpr auto far = std::chrono::milliseconds(40);
    constexpr int slowly = 16;
    const auto off = Clock::now() + m_ahead.load(std::memory_order_relaxed) - m_heard;
    m_heard += std::chrono::abs(off) > far ? off : off / slowly;
    m_heard += std::chrono::nanoseconds(std::int64_t{1000000000} * frames / m_rate);
}

} // namespace cobbleway
