#include "files/soundtags.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <sys/stat.h>
#include <taglib/chapterframe.h>
#include <taglib/flacfile.h>
#include <taglib/id3v2tag.h>
#include <taglib/mpegfile.h>
#include <taglib/opusfile.h>
#include <taglib/tableofcontentsframe.h>
#include <taglib/textidentificationframe.h>
#include <taglib/tiostream.h>
#include <taglib/tpropertymap.h>
#include <taglib/vorbisfile.h>
#include <taglib/wavfile.h>
#include <taglib/xiphcomment.h>
#include <unistd.h>

namespace cobbleway {
namespace {

/// A file by its descriptor, which remembers that a write failed: TagLib's own stream does not tell.
class Stream final : public TagLib::IOStream {
  public:
    explicit Stream(int file) : m_file(file) {}
    [[nodiscard]] bool failed() const { return m_failed; }

    [[nodiscard]] TagLib::FileName name() const override { return ""; }
    TagLib::ByteVector readBlock(unsigned long length) override {
        const unsigned long left = static_cast<unsigned long>(std::max(0L, this->length() - m_at));
        TagLib::ByteVector bytes(static_cast<unsigned>(std::min(length, left)), 0);
        bytes.resize(static_cast<unsigned>(readAt(m_at, bytes.data(), bytes.size())));
        m_at += static_cast<long>(bytes.size());
        return bytes;
    }
    void writeBlock(const TagLib::ByteVector& data) override {
        writeAt(m_at, data.data(), data.size());
        m_at += static_cast<long>(data.size());
    }
    void insert(const TagLib::ByteVector& data, unsigned long start, unsigned long replace) override {
        move(static_cast<long>(start + replace), static_cast<long>(start + data.size()));
        writeAt(static_cast<long>(start), data.data(), data.size());
        m_at = static_cast<long>(start + data.size());
    }
    void removeBlock(unsigned long start, unsigned long count) override {
        move(static_cast<long>(start + count), static_cast<long>(start));
    }
    [[nodiscard]] bool readOnly() const override { return false; }
    [[nodiscard]] bool isOpen() const override { return true; }
    void seek(long offset, Position from) override {
        m_at = std::max(0L, offset + (from == Beginning ? 0 : from == Current ? m_at : length()));
    }
    [[nodiscard]] long tell() const override { return m_at; }
    long length() override {
        struct stat file {};
        return fstat(m_file, &file) == 0 ? static_cast<long>(file.st_size) : 0;
    }
    void truncate(long to) override { m_failed = m_failed || ftruncate(m_file, to) != 0; }

  private:
    std::size_t readAt(long at, char* to, std::size_t count) const {
        std::size_t done = 0;
        while (done < count) {
            const ssize_t got = pread(m_file, to + done, count - done, at + static_cast<long>(done));
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) break;
            done += static_cast<std::size_t>(got);
        }
        return done;
    }
    void writeAt(long at, const char* from, std::size_t count) {
        std::size_t done = 0;
        while (done < count && !m_failed) {
            const ssize_t put = pwrite(m_file, from + done, count - done, at + static_cast<long>(done));
            if (put < 0 && errno == EINTR) continue;
            m_failed = put <= 0;
            done += static_cast<std::size_t>(std::max<ssize_t>(0, put));
        }
    }
    /// Moves everything from one place on to another, piece by piece from the end that is free.
    void move(long from, long to) {
        const long end = length(), count = std::max(0L, end - from);
        if (from == to) return;
        std::vector<char> piece(1 << 20);
        for (long done = 0; done < count;) {
            const long size = std::min(static_cast<long>(piece.size()), count - done);
            const long at = to > from ? count - done - size : done;
            const std::size_t got = readAt(from + at, piece.data(), static_cast<std::size_t>(size));
            writeAt(to + at, piece.data(), got);
            done += size;
        }
        if (to < from) truncate(to + count);
    }
    int m_file;
    long m_at = 0;
    bool m_failed = false;
};

TagLib::String text(const std::string& utf8) { return {utf8, TagLib::String::UTF8}; }

TagLib::PropertyMap propertiesOf(const SoundTags& tags) {
    TagLib::PropertyMap map;
    const auto set = [&](const char* name, const std::string& value) {
        if (!value.empty()) map.replace(name, TagLib::StringList(text(value)));
    };
    set("TITLE", tags.title);
    set("ARTIST", tags.artist);
    set("ALBUM", tags.album);
    set("COMMENT", tags.comment);
    set("COPYRIGHT", tags.copyright);
    set("INITIALKEY", tags.key);
    set("LYRICS", tags.words);
    if (tags.track > 0) set("TRACKNUMBER", std::to_string(tags.track));
    if (tags.bpm > 0) set("BPM", std::to_string(tags.bpm));
    return map;
}

unsigned millisecondsOf(double seconds) { return static_cast<unsigned>(std::lround(seconds * 1000)); }

/// Chapters of ID3v2 with their names, in a table of contents (ID3v2 Chapter Frame Addendum 1.0; from
/// memory).
void addChapters(TagLib::ID3v2::Tag& tag, const std::vector<SoundChapter>& chapters, double seconds) {
    using namespace TagLib::ID3v2;
    constexpr unsigned noOffset = 0xFFFFFFFF;
    TagLib::ByteVectorList ids;
    for (std::size_t i = 0; i < chapters.size(); ++i) {
        const TagLib::ByteVector id(("chp" + std::to_string(i)).c_str());
        const double end = i + 1 < chapters.size() ? chapters[i + 1].seconds : seconds;
        auto* frame = new ChapterFrame(id, millisecondsOf(chapters[i].seconds), millisecondsOf(end), noOffset,
                                       noOffset);
        auto* title = new TextIdentificationFrame("TIT2", TagLib::String::UTF8);
        title->setText(text(chapters[i].title));
        frame->addEmbeddedFrame(title);
        tag.addFrame(frame); // which owns it
        ids.append(id);
    }
    if (ids.isEmpty()) return;
    auto* table = new TableOfContentsFrame("toc", ids);
    table->setIsTopLevel(true);
    table->setIsOrdered(true);
    tag.addFrame(table);
}

/// "CHAPTER001=00:01:30.250" and "CHAPTER001NAME=Verse".
void addChapters(TagLib::PropertyMap& map, const std::vector<SoundChapter>& chapters) {
    for (std::size_t i = 0; i < std::min<std::size_t>(chapters.size(), 999); ++i) {
        const unsigned ms = millisecondsOf(chapters[i].seconds);
        std::array<char, 32> name{}, time{};
        std::snprintf(name.data(), name.size(), "CHAPTER%03zu", i + 1);
        std::snprintf(time.data(), time.size(), "%02u:%02u:%02u.%03u", ms / 3600000, ms / 60000 % 60,
                      ms / 1000 % 60, ms % 1000);
        map.replace(name.data(), TagLib::StringList(TagLib::String(time.data())));
        map.replace(TagLib::String(name.data()) + "NAME", TagLib::StringList(text(chapters[i].title)));
    }
}

void append(std::string& out, std::uint32_t value) {
    for (int shift = 0; shift < 32; shift += 8) out += static_cast<char>(value >> shift);
}

void appendChunk(std::string& out, const char* name, const std::string& bytes) {
    out += name;
    append(out, static_cast<std::uint32_t>(bytes.size()));
    out += bytes;
    if (bytes.size() % 2) out += '\0';
}

/// Cue points, and the labels that name them, at the end of a RIFF file.
void addCues(Stream& stream, const std::vector<SoundChapter>& chapters, int rate) {
    if (chapters.empty()) return;
    std::string cues, labels = "adtl", chunks;
    append(cues, static_cast<std::uint32_t>(chapters.size()));
    for (std::size_t i = 0; i < chapters.size(); ++i) {
        const auto frame = static_cast<std::uint32_t>(std::lround(chapters[i].seconds * rate));
        const auto id = static_cast<std::uint32_t>(i + 1);
        append(cues, id);
        append(cues, frame); // place in the play order
        cues += "data";
        append(cues, 0);
        append(cues, 0);
        append(cues, frame);
        std::string label;
        append(label, id);
        appendChunk(labels, "labl", label + chapters[i].title + '\0');
    }
    appendChunk(chunks, "cue ", cues);
    appendChunk(chunks, "LIST", labels);
    const long end = stream.length() + stream.length() % 2;
    stream.seek(end, TagLib::IOStream::Beginning);
    stream.writeBlock({chunks.data(), static_cast<unsigned>(chunks.size())});
    std::string size;
    append(size, static_cast<std::uint32_t>(end + static_cast<long>(chunks.size()) - 8));
    stream.seek(4, TagLib::IOStream::Beginning);
    stream.writeBlock({size.data(), static_cast<unsigned>(size.size())});
}

/// FLAC, Ogg Vorbis and Opus.
template <class File> bool tagComments(File&& file, const SoundTags& tags) {
    TagLib::PropertyMap map = propertiesOf(tags);
    addChapters(map, tags.chapters);
    file.setProperties(map);
    return file.save();
}

bool tagMp3(Stream& stream, const SoundTags& tags, double seconds) {
    TagLib::MPEG::File file(&stream, TagLib::ID3v2::FrameFactory::instance(), false);
    file.ID3v2Tag(true)->setProperties(propertiesOf(tags));
    addChapters(*file.ID3v2Tag(), tags.chapters, seconds);
    return file.save(TagLib::MPEG::File::ID3v2, TagLib::File::StripOthers, TagLib::ID3v2::v4,
                     TagLib::File::DoNotDuplicate);
}

bool tagWav(Stream& stream, const SoundTags& tags, int rate) {
    bool saved = false;
    {
        TagLib::RIFF::WAV::File file(&stream, false);
        file.ID3v2Tag()->setProperties(propertiesOf(tags));
        file.InfoTag()->setProperties(propertiesOf(tags));
        if (tags.track > 0) // TagLib says it as IPRT, which few others read
            file.InfoTag()->setFieldText("ITRK", TagLib::String::number(tags.track));
        saved = file.save(TagLib::RIFF::WAV::File::AllTags, TagLib::File::StripNone, TagLib::ID3v2::v4);
    }
    addCues(stream, tags.chapters, rate);
    return saved;
}

} // namespace

bool writeTags(int descriptor, SoundFormat format, const SoundTags& tags, double seconds, int rate) {
    if (tags == SoundTags{}) return true;
    Stream stream(descriptor);
    const auto tagged = [&] {
        switch (format) {
        case SoundFormat::Flac:
            return tagComments(TagLib::FLAC::File(&stream, TagLib::ID3v2::FrameFactory::instance(), false),
                               tags);
        case SoundFormat::OggVorbis: return tagComments(TagLib::Ogg::Vorbis::File(&stream, false), tags);
        case SoundFormat::Opus: return tagComments(TagLib::Ogg::Opus::File(&stream, false), tags);
        case SoundFormat::Mp3: return tagMp3(stream, tags, seconds);
        case SoundFormat::Wav16:
        case SoundFormat::Wav24:
        case SoundFormat::Wav32Float: break;
        }
        return tagWav(stream, tags, rate);
    }();
    return tagged && !stream.failed();
}

} // namespace cobbleway
