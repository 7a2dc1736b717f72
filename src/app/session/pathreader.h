/// Reads the files and folders that a person opened, beside the interface.
#pragma once
#include "files/filemark.h"
#include "files/project.h"

#include <QElapsedTimer>
#include <QString>
#include <QStringList>
#include <functional>
#include <optional>
#include <stop_token>
#include <vector>

namespace cobbleway {

/// What reading files gave, beside the songs that were sent on the way.
struct ReadResult {
    std::vector<Error> errors;
    std::optional<SongSet> project;
    QString projectPath;
    FileMark projectMark;
    int songs = 0;                      ///< that were sent
    std::vector<Shared<Song>> heldBack; ///< those that came with a project: they go into it
};

/// What is worked out of a song that was read before it is shown, so that showing it waits for nothing.
using Prepare = std::function<void(const Song&)>;
/// The same of the songs of a set that are seen first.
void prepareFirst(const SongSet& set, const Prepare& prepare);

/// Reads files and folders, and sends songs on as they come: the first at once, others a quarter of a second
/// apart.
class PathReader {
  public:
    /// `before` songs were sent before these.
    using Send = std::function<void(std::vector<Shared<Song>>, int before)>;
    PathReader(Send send, Prepare prepare, std::stop_token stop);
    ReadResult read(const QStringList& paths);

  private:
    void readPath(const QString& text);
    void readFolder(const std::filesystem::path& folder);
    void readOne(const std::filesystem::path& path);
    void send();

    Send m_send;
    Prepare m_prepare;
    std::stop_token m_stop;
    ReadResult m_result;
    std::vector<Shared<Song>> m_read; ///< not sent yet
    QElapsedTimer m_sent;
    bool m_holdsBack = false;
    bool m_tidies;
};

} // namespace cobbleway
