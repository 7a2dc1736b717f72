#include "files/soundformat.h"

#include "files/soundlibrary.h"

#include <algorithm>

namespace cobbleway {
namespace {

struct Row {
    SoundFormat format;
    std::string_view name, id, ending;
    int code;
};

constexpr Row rows[] = {
    {SoundFormat::Wav16, "WAV, 16 bit", "wav16", ".wav", SF_FORMAT_WAV | SF_FORMAT_PCM_16},
    {SoundFormat::Wav24, "WAV, 24 bit", "wav24", ".wav", SF_FORMAT_WAV | SF_FORMAT_PCM_24},
    {SoundFormat::Wav32Float, "WAV, 32 bit float", "wav32f", ".wav", SF_FORMAT_WAV | SF_FORMAT_FLOAT},
    {SoundFormat::Flac, "FLAC", "flac", ".flac", SF_FORMAT_FLAC | SF_FORMAT_PCM_24},
    {SoundFormat::OggVorbis, "Ogg Vorbis", "ogg", ".ogg", SF_FORMAT_OGG | SF_FORMAT_VORBIS},
    {SoundFormat::Opus, "Opus", "opus", ".opus", SF_FORMAT_OGG | SF_FORMAT_OPUS},
    {SoundFormat::Mp3, "MP3", "mp3", ".mp3", SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III},
};

const Row& rowOf(SoundFormat format) { return rows[static_cast<std::size_t>(format)]; }

} // namespace

int libraryCode(SoundFormat format) { return rowOf(format).code; }

std::vector<SoundFormat> soundFormats() {
    std::vector<SoundFormat> there;
    for (const Row& row : rows) {
        SF_INFO info{};
        info.samplerate = 48000;
        info.channels = 2;
        info.format = row.code;
        if (sf_format_check(&info)) there.push_back(row.format);
    }
    return there;
}

std::string_view formatName(SoundFormat format) { return rowOf(format).name; }
std::string_view formatId(SoundFormat format) { return rowOf(format).id; }
std::string_view formatEnding(SoundFormat format) { return rowOf(format).ending; }

std::optional<SoundFormat> formatOfId(std::string_view id) {
    const auto at =
        std::find_if(std::begin(rows), std::end(rows), [&](const Row& row) { return row.id == id; });
    return at == std::end(rows) ? std::nullopt : std::optional(at->format);
}

bool isLossless(SoundFormat format) { return format <= SoundFormat::Flac; }

std::vector<int> ratesOf(SoundFormat format) {
    if (format == SoundFormat::Opus) return {48000};
    if (format == SoundFormat::Mp3) return {44100, 48000};
    return {44100, 48000, 96000};
}

} // namespace cobbleway
