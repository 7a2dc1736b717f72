/// Choosing among plug-ins: groups, words, what is suggested.
#include "support/support.h"

#include "song/match/pluginchoice.h"

using namespace support;

namespace {

PluginInfo effect(const std::string& name, PluginKind kind, int channels = 2, int controls = 4,
                  const std::string& maker = "Nave Audio") {
    PluginInfo info{"urn:" + name, name, maker};
    info.kind = kind;
    info.in = info.out = channels;
    info.controls = controls;
    return info;
}

/// Effects of an invented maker, one that ships, an instrument, and two that cannot be used.
Catalogue harbour() {
    std::vector<PluginInfo> all = {effect("Bell meter", PluginKind::Meter),
                                   effect("Chapel", PluginKind::Reverb, 2, 9),
                                   effect("Échoes of stone", PluginKind::Delay, 2, 3, "Old Coil"),
                                   effect("Hall for choirs", PluginKind::Reverb),
                                   effect("Mono room", PluginKind::Reverb, 1, 1),
                                   effect("Plate reverb", PluginKind::Reverb, 2, 12),
                                   effect("Rope", PluginKind::Other),
                                   effect("Tiny press", PluginKind::Compressor, 2, 1)};
    PluginInfo ours = effect("Evener", PluginKind::Compressor, 2, 6);
    ours.uri = "https://cobbleway.example/plugins#evener";
    all.push_back(ours);
    PluginInfo organ = effect("Quay organ", PluginKind::Other);
    organ.instrument = true;
    all.push_back(organ);
    std::sort(all.begin(), all.end(),
              [](const PluginInfo& a, const PluginInfo& b) { return a.name < b.name; });
    PluginInfo brokenOrgan = effect("Broken organ", PluginKind::Other);
    brokenOrgan.instrument = true;
    return Catalogue().withPlugins(all, {{effect("Broken hall", PluginKind::Reverb), {"plugin.crashed"}},
                                         {brokenOrgan, {"plugin.crashed"}}});
}

std::vector<std::string> names(int group, const std::string& search = {}, const PluginsKept& kept = {},
                               bool instruments = false) {
    const PluginChoices choices(harbour(), instruments);
    std::vector<std::string> found;
    for (const PluginChoice* choice : choices.in(group, search, kept)) found.push_back(choice->plugin.name);
    return found;
}

using Names = std::vector<std::string>;
constexpr int reverbs = static_cast<int>(PluginKind::Reverb);

} // namespace

class TestPluginChoice : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void groupsHoldWhatBelongs();
    void metersComeLast();
    void wordsAreFoundInNameMakerAndKind();
    void theBestHitComesFirst();
    void oneOfEachKindIsSuggested();
    void whatIsKeptAndUsedComesInOrder();
    void instrumentsAreApart();
};

void TestPluginChoice::groupsHoldWhatBelongs() {
    QCOMPARE(names(reverbs), (Names{"Chapel", "Hall for choirs", "Mono room", "Plate reverb"}));
    QCOMPARE(names(static_cast<int>(PluginKind::Pitch)), Names{});
    QCOMPARE(names(unusablePlugins), (Names{"Broken hall"}));
    QCOMPARE(names(allPlugins).size(), std::size_t{9});
    const PluginChoices choices(harbour(), false);
    QCOMPARE(choices.in(unusablePlugins, {}, {}).front()->why->id, std::string("plugin.crashed"));
    QVERIFY(!choices.in(reverbs, {}, {}).front()->why);
    QCOMPARE(pluginGroupName(reverbs), std::string("Reverb"));
    QCOMPARE(pluginGroupName(unusablePlugins), std::string("Cannot be used"));
}

void TestPluginChoice::metersComeLast() { QCOMPARE(names(allPlugins).back(), std::string("Bell meter")); }

void TestPluginChoice::wordsAreFoundInNameMakerAndKind() {
    QCOMPARE(names(allPlugins, "echoes"), (Names{"Échoes of stone"}));
    QCOMPARE(names(allPlugins, "OLD  coil"), (Names{"Échoes of stone"}));
    QCOMPARE(names(allPlugins, "reverb").size(), std::size_t{4}); // three by kind alone
    QCOMPARE(names(allPlugins, "reverb nave choirs"), (Names{"Hall for choirs"}));
    QCOMPARE(names(allPlugins, "hall lighthouse"), Names{});
    QCOMPARE(names(reverbs, "press"), Names{});
    QCOMPARE(names(unusablePlugins, "hall"), (Names{"Broken hall"}));
    QCOMPARE(names(allPlugins, "  ").size(), std::size_t{9});
}

void TestPluginChoice::theBestHitComesFirst() {
    // One that is called so, then one with a word that begins so, then those of the kind.
    QCOMPARE(names(allPlugins, "reverb"), (Names{"Plate reverb", "Chapel", "Hall for choirs", "Mono room"}));
    QCOMPARE(names(allPlugins, "ro"), (Names{"Rope", "Mono room"})); // "Mono room" by its second word
}

void TestPluginChoice::oneOfEachKindIsSuggested() {
    // Reverb: two channels, fewest controls. Compressor: ours. Delay: the only one. No meter, no other.
    QCOMPARE(names(suggestedPlugins), (Names{"Hall for choirs", "Evener", "Échoes of stone"}));
    PluginsKept kept;
    kept.lastUsed = {"urn:Mono room", "urn:Tiny press"};
    QCOMPARE(names(suggestedPlugins, {}, kept), (Names{"Mono room", "Tiny press", "Échoes of stone"}));
    kept.favourites = {"urn:Plate reverb"};
    QCOMPARE(names(suggestedPlugins, {}, kept), (Names{"Plate reverb", "Tiny press", "Échoes of stone"}));
    QCOMPARE(names(suggestedPlugins, "stone", kept), (Names{"Échoes of stone"}));
}

void TestPluginChoice::whatIsKeptAndUsedComesInOrder() {
    PluginsKept kept;
    kept.favourites = {"urn:Rope", "urn:gone", "urn:Chapel"};
    kept.lastUsed = {"urn:Tiny press", "urn:Broken hall"};
    QCOMPARE(names(favouritePlugins, {}, kept), (Names{"Rope", "Chapel"}));
    QCOMPARE(names(lastUsedPlugins, {}, kept), (Names{"Tiny press"}));
    QCOMPARE(names(favouritePlugins, "nave", kept), (Names{"Rope", "Chapel"}));
    QCOMPARE(names(favouritePlugins), Names{});
}

void TestPluginChoice::instrumentsAreApart() {
    QCOMPARE(names(allPlugins, {}, {}, true), (Names{"Quay organ"}));
    QCOMPARE(names(unusablePlugins, {}, {}, true), (Names{"Broken organ"}));
    QCOMPARE(names(suggestedPlugins, {}, {}, true), Names{});
    QCOMPARE(names(allPlugins, "other", {}, true), Names{}); // an instrument is of no kind
}

QTEST_GUILESS_MAIN(TestPluginChoice)
#include "tst_pluginchoice.moc"
