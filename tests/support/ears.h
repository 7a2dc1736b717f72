/// How tests listen: pitch, loudness, onsets, differences. tst_ears.cpp tells how well they do.
#pragma once
#include <algorithm>
#include <cmath>
#include <complex>
#include <cstddef>
#include <numbers>
#include <vector>

namespace support {

inline constexpr int rate = 48000;

/// One channel of interleaved stereo between two times in seconds.
inline std::vector<float> cut(const std::vector<float>& stereo, int side, double from, double to) {
    std::vector<float> mono;
    for (auto f = static_cast<std::size_t>(from * rate);
         f < static_cast<std::size_t>(to * rate) && 2 * f + 1 < stereo.size(); ++f)
        mono.push_back(stereo[2 * f + static_cast<std::size_t>(side)]);
    return mono;
}
inline double rms(const std::vector<float>& mono) {
    double sum = 0;
    for (const float v : mono) sum += double(v) * v;
    return mono.empty() ? 0 : std::sqrt(sum / static_cast<double>(mono.size()));
}
inline double db(double a, double b) { return 20 * std::log10(a / b); }
inline float peak(const std::vector<float>& samples) {
    float most = 0;
    for (const float v : samples) most = std::max(most, std::abs(v));
    return most;
}
/// One frequency of `count` samples from `first` on, as a single bin of a Fourier transform (Hann window).
inline std::complex<double> bin(const std::vector<float>& mono, double hz, std::size_t first,
                                std::size_t count) {
    const double turn = -2 * std::numbers::pi * hz / rate, slide = 2 * std::numbers::pi / double(count);
    const std::complex<double> step = std::polar(1.0, turn), slideStep = std::polar(1.0, slide);
    std::complex<double> at = std::polar(1.0, turn * double(first)), window = 1, sum = 0;
    for (std::size_t i = 0; i < count; ++i, at *= step, window *= slideStep)
        sum += (0.5 - 0.5 * window.real()) * double(mono[first + i]) * at;
    return sum / double(std::max<std::size_t>(1, count));
}
/// Strength of one frequency.
inline double strength(const std::vector<float>& mono, double hz) {
    return std::abs(bin(mono, hz, 0, mono.size()));
}
/// The lowest tone within an octave and a bit of `guess` that is not much softer than the loudest there, in
/// the first `count` samples, to some tenths of rate / count.
inline double lowestTone(const std::vector<float>& mono, double guess, std::size_t count) {
    const double step = rate / (4.0 * double(count)), least = guess / 2.2;
    std::vector<double> found;
    for (double hz = least; hz < guess * 2.2; hz += step) found.push_back(std::abs(bin(mono, hz, 0, count)));
    const double loudest = *std::max_element(found.begin(), found.end());
    for (std::size_t i = 1; i + 1 < found.size(); ++i) {
        const double before = found[i - 1], here = found[i], after = found[i + 1];
        if (here < 0.3 * loudest || here < before || here < after) continue;
        const double bend = before - 2 * here + after;
        return least + step * (double(i) + (bend < 0 ? 0.5 * (before - after) / bend : 0));
    }
    return guess;
}
/// Frequency of the tone that sounds, as long as that is within an octave of `guess`: first its peak in forty
/// periods, then the turn of its phase from one window to the next, in windows that grow, so that no turn is
/// taken for another.
inline double frequencyOf(const std::vector<float>& mono, double guess) {
    const auto first =
        std::min(mono.size(), static_cast<std::size_t>(std::clamp(40 / guess, 0.05, 0.25) * rate));
    if (first < 2) return guess;
    double hz = lowestTone(mono, guess, first);
    const std::size_t most = mono.size() / 2;
    for (std::size_t hop = first / 2;; hop = std::min(most, 2 * hop)) {
        const double turn = std::arg(bin(mono, hz, hop, hop) * std::conj(bin(mono, hz, 0, hop)));
        hz += turn / (2 * std::numbers::pi) * rate / double(hop);
        if (hop == most) return hz;
    }
}
inline double cents(double hz, double wanted) { return 1200 * std::log2(hz / wanted); }
inline double keyHz(int key) { return 440 * std::pow(2.0, (key - 69) / 12.0); } // ISO 16: A4 = 440 Hz

/// Loudness of one channel of interleaved stereo between two times in seconds, as its RMS.
inline double level(const std::vector<float>& stereo, double from, double to, int side = 0) {
    return rms(cut(stereo, side, from, to));
}
/// The loudest fifth of a second, as its RMS, to a twentieth of a second.
inline double loudest(const std::vector<float>& mono) {
    double most = 0;
    for (std::size_t from = 0; from + 9600 <= mono.size(); from += 2400) {
        const auto begin = mono.begin() + static_cast<std::ptrdiff_t>(from);
        most = std::max(most, rms(std::vector<float>(begin, begin + 9600)));
    }
    return most;
}
/// The first time in seconds at which interleaved stereo is louder than `least`; −1 for never.
inline double firstLoud(const std::vector<float>& stereo, int samplesPerSecond, float least = 0.001F) {
    for (std::size_t i = 0; i < stereo.size(); ++i)
        if (std::abs(stereo[i]) > least) return static_cast<double>(i / 2) / samplesPerSecond;
    return -1;
}
/// Where a click begins in mono sound that has nothing else, in seconds: clicks are 65 ms apart at least.
inline std::vector<double> onsetsOf(const std::vector<float>& mono) {
    std::vector<double> found;
    double last = -1;
    for (std::size_t i = 0; i < mono.size(); ++i) {
        const double at = static_cast<double>(i) / rate;
        if (std::abs(mono[i]) > 0.01F && at > last + 0.065) found.push_back(last = at);
    }
    return found;
}
/// The sum of some sounds less another; what is longer counts to its end.
inline std::vector<float> rest(const std::vector<std::vector<float>>& plus, const std::vector<float>& minus) {
    std::size_t most = minus.size();
    for (const auto& one : plus) most = std::max(most, one.size());
    std::vector<double> sum(most);
    for (std::size_t i = 0; i < minus.size(); ++i) sum[i] = -double(minus[i]);
    for (const auto& one : plus)
        for (std::size_t i = 0; i < one.size(); ++i) sum[i] += double(one[i]);
    return {sum.begin(), sum.end()};
}
inline float greatestDifference(const std::vector<float>& a, const std::vector<float>& b) {
    return peak(rest({a}, b));
}
/// How far below full scale the difference of sums of sounds is at most, in dB.
inline double nullOf(const std::vector<std::vector<float>>& plus, const std::vector<float>& minus) {
    return db(std::max(double(peak(rest(plus, minus))), 1e-9), 1);
}
/// How loud what differs between two renderings is, against the louder of them. libfluidsynth fades a voice
/// in from the place in the stereo field that it had last, for 64 frames, so that a note's first millisecond
/// depends on the notes before it.
inline double difference(const std::vector<float>& a, const std::vector<float>& b) {
    return rms(rest({a}, b)) / std::max({rms(a), rms(b), 1e-6});
}
/// Which harmonics of a key stand out: the program of the test font that is heard.
inline int programHeard(const std::vector<float>& mono, int key) {
    const double one = strength(mono, keyHz(key));
    int code = 0;
    for (int bit = 0; bit < 7; ++bit)
        if (strength(mono, keyHz(key) * (bit + 2)) > one * 0.15) code |= 1 << bit;
    return code;
}

} // namespace support
