#include "app/session/pathreader.h"

#include "app/session/paths.h"
#include "app/session/settings.h"
#include "files/songfile.h"
#include "song/shape/tidy.h"

#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

constexpr int shownAtOnce = 16; // rows of songs that a window shows, about

} // namespace

void prepareFirst(const SongSet& set, const Prepare& prepare) {
    for (std::size_t i = 0; i < std::min<std::size_t>(shownAtOnce, set.songs.size()); ++i)
        prepare(*set.songs[i]);
}

PathReader::PathReader(Send send, Prepare prepare, std::stop_token stop)
    : m_send(std::move(send)), m_prepare(std::move(prepare)), m_stop(std::move(stop)),
      m_tidies(settings::tidiesOnOpening()) {}

ReadResult PathReader::read(const QStringList& paths) {
    m_holdsBack =
        std::any_of(paths.begin(), paths.end(), [](const QString& path) { return isProject(pathOf(path)); });
    for (const QString& path : paths) readPath(path);
    if (m_result.project)
        m_result.heldBack = std::move(m_read);
    else
        send();
    return std::move(m_result);
}

void PathReader::readPath(const QString& text) {
    const std::filesystem::path path = pathOf(text);
    std::error_code error;
    if (std::filesystem::is_directory(path, error)) return readFolder(path);
    if (!isProject(path)) return readOne(path);
    m_result.projectMark = markOf(path);
    auto set = openProject(path);
    if (!set) return m_result.errors.push_back(set.error());
    prepareFirst(set.value(), m_prepare);
    m_result.project = std::move(set.value());
    m_result.projectPath = text;
}

void PathReader::readFolder(const std::filesystem::path& folder) {
    const auto files = midiFilesIn(folder, &m_result.errors);
    if (files.empty())
        m_result.errors.push_back({{"error.no-midi-files"}, folder.string(), {"now.midi-endings"}});
    for (const auto& file : files)
        if (!m_stop.stop_requested()) readOne(file);
}

void PathReader::readOne(const std::filesystem::path& path) {
    auto song = openSong(path);
    if (!song) return m_result.errors.push_back(song.error());
    m_read.emplace_back(m_tidies ? edits::tidy(std::move(song.value())) : std::move(song.value()));
    if (m_result.songs + static_cast<int>(m_read.size()) <= shownAtOnce) m_prepare(*m_read.back());
    constexpr qint64 pause = 250; // milliseconds
    if (m_holdsBack) return;
    if (m_result.songs == 0 || m_sent.elapsed() > pause) send();
}

void PathReader::send() {
    if (m_read.empty()) return;
    const int before = m_result.songs;
    m_result.songs += static_cast<int>(m_read.size());
    m_send(std::exchange(m_read, {}), before);
    m_sent.start();
}

} // namespace cobbleway
