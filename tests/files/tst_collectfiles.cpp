/// Files that plug-ins were given: kept with a set, found again where it has been moved, collected beside it.
#include "support/support.h"

#include "files/collectfiles.h"
#include "files/pluginhost.h"
#include "song/shape/edits.h"
#include "song/shape/pluginfiles.h"
#include "sound/render.h"

#include <filesystem>
#include <fstream>

using namespace support;
namespace fs = std::filesystem;

namespace {

const std::string filed = "urn:cobbleway:test:filed", parameter = filed + "#file";

void write(const fs::path& path, const std::string& text) {
    fs::create_directories(path.parent_path());
    std::ofstream(path, std::ios::binary) << text;
}

PluginSettings given(const fs::path& path) {
    PluginSettings settings;
    settings.files[parameter] = path.string();
    return settings;
}

/// One part that plays the plug-in with that file, an effect with another, and one on the mix.
Song songWith(const fs::path& sound, const fs::path& onPart, const fs::path& onMix) {
    Song song = Builder().program(0, 0, 0).note(0, 0, 1.5, 57, 110).song();
    song = edits::chooseSound(song, 1, {filed, 0, 0, "Filed", SoundKind::Plugin, 0});
    song = edits::setSettings(song, 1, given(sound));
    song = edits::setEffects(song, 1, {{"urn:any", "Any", given(onPart), false}});
    return edits::setEffects(song, 0, {{"urn:any", "Any", given(onMix), false}});
}

SongSet setOf(const Song& song) {
    SongSet set;
    set.songs.emplace_back(song);
    return set;
}

std::string soundFileOf(const SongSet& set) {
    return set.songs[0]->parts[0].sound.settings.files.at(parameter);
}

QStringList filesIn(const fs::path& folder) {
    return QDir(QString::fromStdString(folder.string())).entryList(QDir::Files, QDir::Name);
}

} // namespace

class TestCollectFiles : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        m_folder = std::make_unique<QTemporaryDir>();
        fs::create_directories(at("set"));
    }
    void filesOfAStateAreSeen();
    void aSetThatMovesTakesItsFilesAlong();
    void aFileIsFoundByWhatItIs();
    void anotherFileInItsPlaceIsNotTaken();
    void oneThatIsGoneStaysAndIsTold();
    void whatIsRememberedOfGoneFilesStays();
    void allAreCollected();
    void whatCannotBeCollectedIsTold();
    void collectedTheySoundTheSame();

  private:
    [[nodiscard]] fs::path at(const std::string& name) const {
        return fs::path(m_folder->path().toStdString()) / name;
    }
    std::unique_ptr<QTemporaryDir> m_folder;
};

void TestCollectFiles::filesOfAStateAreSeen() {
    PluginSettings settings = given("/a/kick.wav");
    // As liblilv writes a path in a state (RFC 8089, percent-encoded as RFC 3986 says).
    settings.state = "<urn:x> a <http://lv2plug.in/ns/ext/presets#Preset> ;\n"
                     "<urn:p> <file:///home/gr%C3%B6%C3%9Fe%20d/a%2fb.wav> , \"<\" , <file://host/no.wav> .";
    QVERIFY((pluginFilesOf(settings) == std::set<std::string>{
                                            "/a/kick.wav",
                                            "/home/größe d/a/b.wav",
                                        }));
    const auto moved = withFilesAt(
        settings, {{"/home/größe d/a/b.wav", "/neu/AZ Ä 100%.wav"}, {"/a/kick.wav", "/b/kick.wav"}});
    QCOMPARE(moved.files.at(parameter), std::string("/b/kick.wav"));
    QCOMPARE(moved.state, std::string("<urn:x> a <http://lv2plug.in/ns/ext/presets#Preset> ;\n"
                                      "<urn:p> <file:///neu/AZ%20%C3%84%20100%25.wav> , \"<\" , "
                                      "<file://host/no.wav> ."));
    QVERIFY((pluginFilesOf(moved) == std::set<std::string>{"/b/kick.wav", "/neu/AZ Ä 100%.wav"}));
    QVERIFY(withFilesAt(settings, {{"/elsewhere", "/x"}}) == settings);
    for (const char* broken : {"<file:///a", "<", "", "file:///a>", "<file:///%zz%4>"}) {
        PluginSettings odd;
        odd.state = broken;
        QVERIFY(withFilesAt(odd, {{"/x", "/y"}}) == odd);
    }
}

void TestCollectFiles::aSetThatMovesTakesItsFilesAlong() {
    write(at("old/set/samples/kick.wav"), "kick");
    write(at("old/beside.wav"), "beside");
    const SongSet set =
        setOf(songWith(at("old/set/samples/kick.wav"), at("old/beside.wav"), at("old/set/samples/kick.wav")));
    QVERIFY(saveProject(rememberFiles(set), at("old/set/Lanterns.cobbleway")).ok());
    fs::rename(at("old"), at("new"));
    const auto read = openProject(at("new/set/Lanterns.cobbleway"));
    QVERIFY(read.ok());
    QCOMPARE(soundFileOf(read.value()), at("new/set/samples/kick.wav").string());
    const Song& song = *read.value().songs[0];
    QCOMPARE(song.parts[0].mix.effects[0].settings.files.at(parameter), at("new/beside.wav").string());
    QCOMPARE(song.effects[0].settings.files.at(parameter), at("new/set/samples/kick.wav").string());
    QCOMPARE(read.value().files.size(), std::size_t{2});
    QVERIFY(rememberFiles(read.value()).files[0].path == read.value().files[0].path);
}

void TestCollectFiles::aFileIsFoundByWhatItIs() {
    write(at("away/kick.wav"), std::string(200000, 'k'));
    QVERIFY(
        saveProject(rememberFiles(setOf(songWith(at("away/kick.wav"), "", ""))), at("set/a.cobbleway")).ok());
    // One of that name and size that differs at its end, then the one that it is, deeper.
    fs::remove_all(at("away"));
    write(at("set/one/kick.wav"), std::string(199999, 'k') + "x");
    write(at("set/two/deep/kick.wav"), std::string(200000, 'k'));
    write(at("set/.hidden/kick.wav"), std::string(200000, 'k'));
    const auto read = openProject(at("set/a.cobbleway"));
    QVERIFY(read.ok());
    QCOMPARE(soundFileOf(read.value()), at("set/two/deep/kick.wav").string());
    // No deeper than six folders.
    fs::remove_all(at("set/two"));
    write(at("set/1/2/3/4/5/6/7/kick.wav"), std::string(200000, 'k'));
    QCOMPARE(soundFileOf(openProject(at("set/a.cobbleway")).value()), at("away/kick.wav").string());
}

void TestCollectFiles::anotherFileInItsPlaceIsNotTaken() {
    write(at("kick.wav"), "mine");
    QVERIFY(saveProject(rememberFiles(setOf(songWith(at("kick.wav"), "", ""))), at("set/a.cobbleway")).ok());
    write(at("set/kick.wav"), "mine");
    QCOMPARE(soundFileOf(openProject(at("set/a.cobbleway")).value()), at("kick.wav").string());
    write(at("kick.wav"), "another's");
    QCOMPARE(soundFileOf(openProject(at("set/a.cobbleway")).value()), at("set/kick.wav").string());
    fs::remove(at("set/kick.wav")); // then what is there is better than nothing
    QCOMPARE(soundFileOf(openProject(at("set/a.cobbleway")).value()), at("kick.wav").string());
}

void TestCollectFiles::oneThatIsGoneStaysAndIsTold() {
    const Song song = songWith(at("gone.wav"), "", "");
    InstrumentBank bank(rate, {.slotStep = 1, .live = false, .pluginBundle = ODD_PLUGINS});
    const Catalogue all = testFont().withPlugins({{filed, "Filed", "", true}}, {});
    const auto toldOf = [&] {
        const auto plan = makePlan(song, all, matchSong(song, all), bank);
        std::vector<std::string> told;
        for (const Error& problem : problemsOf(*plan)) told.push_back(problem.where);
        return told;
    };
    QCOMPARE(toldOf(), (std::vector<std::string>{song.parts[0].name + ", " + at("gone.wav").string()}));
    write(at("gone.wav"), "5");
    QVERIFY(toldOf().empty());
}

void TestCollectFiles::whatIsRememberedOfGoneFilesStays() {
    write(at("kick.wav"), "kick");
    const SongSet set = rememberFiles(setOf(songWith(at("kick.wav"), "", "")));
    QCOMPARE(set.files.size(), std::size_t{1});
    QCOMPARE(set.files[0].size, std::uint64_t{4});
    fs::remove(at("kick.wav"));
    QVERIFY(rememberFiles(set).files == set.files);
    QVERIFY(parseProject(projectText(set), "x").value().files == set.files);
    SongSet without = set;
    without.songs.clear();
    QVERIFY(rememberFiles(without).files.empty());
}

void TestCollectFiles::allAreCollected() {
    write(at("one/kick.wav"), "first");
    write(at("two/kick.wav"), "second");
    write(at("three/kick.wav"), "first"); // the same once more
    write(at("synth.lv2/own.wav"), "its own");
    SongSet set = setOf(songWith(at("one/kick.wav"), at("two/kick.wav"), at("three/kick.wav")));
    set.songs.emplace_back(songWith(at("synth.lv2/own.wav"), at("set/Quay files/there.wav"), ""));
    write(at("set/Quay files/there.wav"), "there");
    auto made = collectFiles(set, at("set/Quay.cobbleway"));
    QVERIFY(made.ok() && made.value().left.empty());
    QCOMPARE(made.value().files, 3);
    QCOMPARE(made.value().folder, at("set/Quay files"));
    QCOMPARE(
        filesIn(at("set/Quay files")),
        (QStringList{QStringLiteral("kick 2.wav"), QStringLiteral("kick.wav"), QStringLiteral("there.wav")}));
    const auto bytesOf = [](const std::string& path) {
        std::ifstream file(path);
        return std::string(std::istreambuf_iterator<char>(file), {});
    };
    const Song& song = *made.value().set.songs[0];
    QCOMPARE(bytesOf(soundFileOf(made.value().set)), std::string("first"));
    QCOMPARE(bytesOf(song.parts[0].mix.effects[0].settings.files.at(parameter)), std::string("second"));
    QCOMPARE(song.effects[0].settings.files.at(parameter), soundFileOf(made.value().set));
    QVERIFY(made.value().set.songs[1] == set.songs[1]);
    QCOMPARE(collectFiles(made.value().set, at("set/Quay.cobbleway")).value().files, 0);
    QCOMPARE(bytesOf(at("one/kick.wav").string()), std::string("first")); // where it was it stays
}

void TestCollectFiles::whatCannotBeCollectedIsTold() {
    write(at("kick.wav"), "kick");
    const SongSet set = setOf(songWith(at("gone.wav"), at("kick.wav"), ""));
    auto made = collectFiles(set, at("set/a.cobbleway"));
    QVERIFY(made.ok());
    QCOMPARE(made.value().files, 1);
    QCOMPARE(made.value().left.size(), std::size_t{1});
    QCOMPARE(made.value().left[0].where, at("gone.wav").string());
    QCOMPARE(soundFileOf(made.value().set), at("gone.wav").string());
    write(at("full/a files"), "in the way"); // no folder can be made there
    QVERIFY(!collectFiles(set, at("full/a.cobbleway")).ok());
}

/// The plug-in gives as much as its file says; it finds it in the new place, in a process that may read only
/// what it was given.
void TestCollectFiles::collectedTheySoundTheSame() {
    qputenv("COBBLEWAY_LV2_PATH", fs::path(ODD_PLUGINS).parent_path().c_str());
    write(at("away/5.txt"), "5");
    SongSet set = setOf(songWith(at("away/5.txt"), "", ""));
    const Catalogue all = testFont().withPlugins({{filed, "Filed", "", true}}, {});
    const auto sound = [&](const SongSet& of) {
        BankOptions options{.slotStep = 1, .live = false, .pluginBundle = SHIPPED_PLUGINS};
        options.makePlugins = [](const auto&) {
            return std::make_shared<PluginHost>(PLUGIN_HELPER, SHIPPED_PLUGINS,
                                                std::vector<std::filesystem::path>{});
        };
        return renderToMemory(*of.songs[0], all, rate, {}, options);
    };
    const auto before = sound(set);
    QVERIFY(*std::max_element(before.begin(), before.end()) > 0.1F);
    const auto made = collectFiles(set, at("set/a.cobbleway"));
    QVERIFY(made.ok());
    QVERIFY(saveProject(rememberFiles(made.value().set), at("set/a.cobbleway")).ok());
    fs::remove_all(at("away"));
    fs::rename(at("set"), at("carried"));
    const auto read = openProject(at("carried/a.cobbleway"));
    QVERIFY(read.ok());
    QVERIFY(sound(read.value()) == before);
}

QTEST_GUILESS_MAIN(TestCollectFiles)
#include "tst_collectfiles.moc"
