/// What an edit costs, in the whole window: a fader step (aims: 2 ms in a song of 3 900 notes, 4 ms in one of
/// a million) and a part that is transposed among a million notes (aim: 40 ms until it is painted). Processor
/// time of the interface's thread, the middle of many; beside it one walk over all the notes, as a measure of
/// the machine.
#include "windowbench.h"

#include "song/shape/edits.h"

using namespace bench;

namespace {

void measure(const char* what, const QString& path, double aimFader, double aimNotes) {
    Window open;
    Session& session = open.session;
    if (!open.open({path}) || !settled([&] { return session.planner.isPlanned(); })) return;
    open.window.showPage(Step::Sounds);
    const PartId part = session.current.song().parts[1].id;
    const auto edit = [&](const std::function<Song(const Song&)>& change) {
        session.current.edit(QStringLiteral("Bench"), change);
        QCoreApplication::processEvents(); // paints what has changed
    };
    for (int i = 0; i < 3; ++i) edit([&](const Song& s) { return edits::setLevel(s, part, -1.0 * i); });
    const double fader = middle(
        40, [&](int i) { edit([&](const Song& s) { return edits::setLevel(s, part, -0.25 * (i % 40)); }); });
    const double notes = middle(
        9, [&](int i) { edit([&](const Song& s) { return edits::setSemitones(s, part, 1 + i % 5); }); });
    std::size_t walked = 0;
    const double walk = middle(5, [&](int) {
        for (const Part& p : session.current.song().parts)
            for (const EventRef ref : *p.source.events)
                walked += session.current.song().event(ref).isNoteOn();
    });
    std::printf(
        "%s: a fader step %.2f ms until painted (aim %.0f), %.2f walks over all notes; a part transposed "
        "%.1f ms (aim %.0f), %.1f walks; a walk over %zu notes %.2f ms\n",
        what, fader, aimFader, fader / walk, notes, aimNotes, notes / walk, walked / 5, walk);
    settled([&] { return session.planner.isPlanned(); });
}

} // namespace

int main(int count, char** words) {
    const Stage stage(count, words);
    measure("3 900 notes", QString::fromStdString((shippedFile("demo") / "lantern_quay.mid").string()), 2,
            40);
    const QString path = stage.folder.filePath(QStringLiteral("million.mid"));
    if (!writeFile(path.toStdString(), bytesOf(1'000'000)).ok()) return 1;
    measure("1 000 000 notes", path, 4, 40);
    return 0;
}
