#include "sound/audiooutput.h"

#include "sound/outputwatch.h"
#include "sound/ratebridge.h"
#include "sound/silencealsa.h"
#include "sound/urgent.h"

#include <RtAudio.h>
#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <csignal>
#include <optional>
#include <thread>

namespace cobbleway {
namespace {

double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

constexpr double blockSeconds = static_cast<double>(liveFrames) / liveRate;

/// Takes blocks as a device does: a few are held ready, one leaves each 5.3 ms, and when none is there it
/// has run dry and begins anew.
class SilentOutput final : public AudioOutput {
  public:
    SilentOutput(AudioCallback callback, HeldBlocks held)
        : m_before(static_cast<int>(held) - 1),
          m_thread(
              [this, callback = std::move(callback)](const std::stop_token& stop) { run(callback, stop); }) {}
    [[nodiscard]] int rate() const override { return liveRate; }
    [[nodiscard]] std::string id() const override { return "silent"; }
    [[nodiscard]] bool isSilent() const override { return true; }
    [[nodiscard]] long gaps() const override { return m_gaps.load(); }
    [[nodiscard]] double ahead() const override { return m_before * blockSeconds; }
    void rest(bool resting) override { m_resting = resting; }

  private:
    void run(const AudioCallback& callback, const std::stop_token& stop) {
        using Clock = std::chrono::steady_clock;
        constexpr auto period = std::chrono::nanoseconds(std::int64_t{1000000000} * liveFrames / liveRate);
        runUrgently();
        std::array<float, std::size_t{2} * liveFrames> block{};
        const auto ahead = m_before * period;
        auto heard = Clock::now() + ahead; // when the block that is made next begins to be heard
        while (!stop.stop_requested()) {
            callback(block.data(), liveFrames);
            if (m_resting) { // it looks whether there is something to do, and begins anew
                constexpr auto seldom = std::chrono::milliseconds(50);
                std::this_thread::sleep_for(seldom);
                heard = Clock::now() + ahead;
                continue;
            }
            if (const auto ready = Clock::now(); ready > heard) {
                ++m_gaps;
                heard = ready;
            }
            heard += period;
            std::this_thread::sleep_until(heard - ahead);
        }
    }
    int m_before; ///< blocks that are heard before the one that is asked for
    std::atomic<long> m_gaps{0};
    std::atomic<bool> m_resting{false};
    std::jthread m_thread; // last, so that it ends first
};

/// A device of a server, by the server's number for it.
struct Device {
    unsigned number = 0;
    RtAudio::DeviceInfo info;
};

/// What a server can play to.
std::vector<Device> devicesOf(RtAudio& audio) {
    std::vector<Device> devices;
    for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
        RtAudio::DeviceInfo info = audio.getDeviceInfo(i);
        if (!info.probed || info.outputChannels < 2) continue;
        devices.push_back({i, std::move(info)});
    }
    return devices;
}

class DeviceOutput final : public AudioOutput {
  public:
    /// `device`: its name; empty for the standard one.
    DeviceOutput(const char* server, std::string device, RtAudio::Api api, AudioCallback callback,
                 HeldBlocks held)
        : m_server(server), m_device(std::move(device)), m_held(static_cast<unsigned>(held)), m_audio(api),
          m_callback(std::move(callback)) {
        m_audio.showWarnings(false);
    }
    ~DeviceOutput() override {
        if (m_audio.isStreamOpen()) m_audio.closeStream();
    }
    DeviceOutput(const DeviceOutput&) = delete;
    DeviceOutput& operator=(const DeviceOutput&) = delete;

    bool start() {
        try {
            if (!chooseDevice()) return false;
            RtAudio::StreamParameters where;
            where.deviceId = m_number;
            where.nChannels = 2;
            RtAudio::StreamOptions options;
            options.streamName = "Cobbleway";
            options.flags = RTAUDIO_SCHEDULE_REALTIME;
            options.numberOfBuffers = m_held;
            unsigned frames = liveFrames;
            m_audio.openStream(&where, nullptr, RTAUDIO_FLOAT32, static_cast<unsigned>(m_rate), &frames,
                               &DeviceOutput::fill, this, &options);
            m_audio.startStream();
            // Some servers tell nothing of it: then what was asked for is taken to be held.
            const double stated = static_cast<double>(m_audio.getStreamLatency()) / m_rate;
            m_ahead = stated > 0 ? stated : (options.numberOfBuffers - 1.0) * frames / m_rate;
            return true;
        } catch (const RtAudioError&) { // the library's way to say no; it goes no further
            return false;
        }
    }
    [[nodiscard]] int rate() const override { return m_rate; }
    [[nodiscard]] std::string id() const override {
        return m_device.empty() ? m_server : m_server + ":" + m_device;
    }
    [[nodiscard]] std::string name() const override { return m_name; }
    [[nodiscard]] long gaps() const override { return m_gaps.load(); }
    [[nodiscard]] double ahead() const override { return m_ahead; }
    [[nodiscard]] bool isGone() const override { return m_watch && m_watch->isGone(now()); }

  private:
    /// False when the device is not there.
    bool chooseDevice() {
        const auto devices = devicesOf(m_audio);
        const unsigned standard = m_audio.getDefaultOutputDevice();
        auto at = std::find_if(devices.begin(), devices.end(), [&](const Device& d) {
            return m_device.empty() ? d.number == standard : d.info.name == m_device;
        });
        if (at == devices.end() && m_device.empty()) at = devices.begin(); // the server names none
        if (at == devices.end()) return false;
        m_number = at->number;
        m_name = at->info.name;
        const auto& rates = at->info.sampleRates;
        const bool takesOurs = std::find(rates.begin(), rates.end(), unsigned{liveRate}) != rates.end();
        if (!takesOurs && at->info.preferredSampleRate > 0)
            m_rate = static_cast<int>(at->info.preferredSampleRate);
        if (m_rate != liveRate) m_bridge.emplace(m_callback, m_rate);
        m_watch.emplace(m_rate, now());
        return !m_bridge || m_bridge->isThere();
    }
    static int fill(void* out, void*, unsigned frames, double, RtAudioStreamStatus status, void* device) {
        auto& self = *static_cast<DeviceOutput*>(device);
        if (!self.m_watch->asked(static_cast<int>(frames), now())) {
            // Nobody hears it. To end the stream from here would throw in the library's thread.
            std::fill_n(static_cast<float*>(out), std::size_t{2} * frames, 0.0F);
            std::this_thread::sleep_for(std::chrono::milliseconds(5));
            return 0;
        }
        if (status & RTAUDIO_OUTPUT_UNDERFLOW) ++self.m_gaps;
        if (self.m_bridge)
            self.m_bridge->fill(static_cast<float*>(out), static_cast<int>(frames));
        else
            self.m_callback(static_cast<float*>(out), static_cast<int>(frames));
        return 0;
    }
    std::string m_server, m_device, m_name;
    unsigned m_number = 0; ///< the server's, of the device
    int m_rate = liveRate;
    std::optional<OutputWatch> m_watch;
    std::optional<RateBridge> m_bridge; ///< where the device has another rate
    std::atomic<long> m_gaps{0};
    unsigned m_held;
    double m_ahead = 0;
    RtAudio m_audio;
    AudioCallback m_callback;
};

struct Backend {
    const char* id;
    const char* name;
    RtAudio::Api api;
};
constexpr std::array backends = {Backend{"pulse", "PulseAudio", RtAudio::LINUX_PULSE},
                                 Backend{"jack", "JACK", RtAudio::UNIX_JACK},
                                 Backend{"alsa", "ALSA", RtAudio::LINUX_ALSA}};

bool isBuiltIn(RtAudio::Api api) {
    std::vector<RtAudio::Api> apis;
    RtAudio::getCompiledApi(apis);
    return std::find(apis.begin(), apis.end(), api) != apis.end();
}

/// `device`: its name; empty for the standard one.
std::unique_ptr<AudioOutput> tryBackend(const Backend& backend, const std::string& device,
                                        const AudioCallback& callback, HeldBlocks held) {
    if (!isBuiltIn(backend.api)) return nullptr;
    auto output = std::make_unique<DeviceOutput>(backend.id, device, backend.api, callback, held);
    return output->start() ? std::move(output) : nullptr;
}

} // namespace

namespace {

std::vector<OutputInfo> outputsWith(bool devices) {
    std::vector<OutputInfo> outputs = {{"auto", "Chosen automatically"}};
    for (const Backend& backend : backends) {
        if (!isBuiltIn(backend.api)) continue;
        outputs.push_back({backend.id, backend.name + std::string(": standard device")});
        if (!devices) continue;
        RtAudio audio(backend.api);
        audio.showWarnings(false);
        for (const Device& device : devicesOf(audio)) {
            if (device.info.name == "default") continue; // ALSA's name for its standard device
            outputs.push_back(
                {backend.id + (":" + device.info.name), backend.name + (": " + device.info.name)});
        }
    }
    outputs.push_back({"silent", "Silent output"});
    return outputs;
}

} // namespace

std::vector<OutputInfo> audioOutputs() { return outputsWith(false); }

std::vector<OutputInfo> audioDevices() {
    silenceAlsa();
    try {
        return outputsWith(true);
    } catch (const RtAudioError&) { // a server that went while it was asked
        return outputsWith(false);
    }
}

Result<std::unique_ptr<AudioOutput>> openOutput(const std::string& id, AudioCallback callback,
                                                HeldBlocks held) {
    silenceAlsa();
    std::signal(SIGPIPE, SIG_IGN); // a server that ends while it is told something must not end the program
    const auto colon = id.find(':');
    const std::string server = id.substr(0, colon);
    const std::string device = colon == std::string::npos ? std::string() : id.substr(colon + 1);
    for (const Backend& backend : backends)
        if (id == "auto" || server == backend.id)
            if (auto output = tryBackend(backend, device, callback, held)) return output;
    if (id != "auto" && id != "silent") return Error{{"error.output-open"}, id, {"now.other-output"}};
    return std::unique_ptr<AudioOutput>(std::make_unique<SilentOutput>(std::move(callback), held));
}

} // namespace cobbleway
