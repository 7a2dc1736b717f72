/// Instruments of Debian's LV2 packages, as they are installed: each plays a note in its process. What is not
/// installed is passed over and said.
#include "support/support.h"

#include "files/pluginhost.h"
#include "sound/render.h"

#include <filesystem>
#include <lilv/lilv.h>
#include <lv2/core/lv2.h>

using namespace support;

namespace {

struct Known {
    const char* package;
    const char* uri;
    int key = 60;
    bool needsFile = false; ///< a sampler, silent without a sample
};

const Known known[] = {
    {"avldrums.lv2", "http://gareus.org/oss/lv2/avldrums#BlackPearl", 38},
    {"avldrums.lv2", "http://gareus.org/oss/lv2/avldrums#BlackPearlMulti", 38},
    {"avldrums.lv2", "http://gareus.org/oss/lv2/avldrums#RedZeppelin", 38},
    {"avldrums.lv2", "http://gareus.org/oss/lv2/avldrums#RedZeppelinMulti", 38},
    {"setbfree", "http://gareus.org/oss/lv2/b_synth"},
    {"synthv1-lv2", "http://synthv1.sourceforge.net/lv2"},
    {"padthv1-lv2", "http://padthv1.sourceforge.net/lv2"},
    {"samplv1-lv2", "http://samplv1.sourceforge.net/lv2", 60, true},
    {"drumkv1-lv2", "http://drumkv1.sourceforge.net/lv2", 36, true},
    {"calf-plugins", "http://calf.sourceforge.net/plugins/Monosynth"},
    {"calf-plugins", "http://calf.sourceforge.net/plugins/Organ"},
    {"calf-plugins", "http://calf.sourceforge.net/plugins/Wavetable"},
    {"calf-plugins", "http://calf.sourceforge.net/plugins/Fluidsynth", 60, true},
    {"mda-lv2", "http://drobilla.net/plugins/mda/DX10"},
    {"mda-lv2", "http://drobilla.net/plugins/mda/EPiano"},
    {"mda-lv2", "http://drobilla.net/plugins/mda/JX10"},
    {"mda-lv2", "http://drobilla.net/plugins/mda/Piano"},
};

/// The loudest of two seconds of a note, offline.
float loudestOf(PluginUnit& unit, int key) {
    float most = 0;
    unit.event(0x90, static_cast<std::uint8_t>(key), 110);
    for (int at = 0; at < 2 * rate; at += maxFrames) {
        std::array<float, maxFrames> left{}, right{};
        unit.run(left.data(), right.data(), maxFrames);
        for (const auto& side : {left, right})
            for (const float sample : side) most = std::max(most, std::abs(sample));
    }
    return most;
}

} // namespace

class TestInstruments : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        qputenv("COBBLEWAY_LV2_PATH", "/usr/lib/lv2");
        m_host = std::make_unique<PluginHost>(PLUGIN_HELPER, SHIPPED_PLUGINS,
                                              std::vector<std::filesystem::path>{});
        m_world = std::make_unique<PluginWorld>(std::filesystem::path(SHIPPED_PLUGINS));
    }
    void eachPlays_data() {
        QTest::addColumn<QString>("package");
        QTest::addColumn<QString>("uri");
        QTest::addColumn<int>("key");
        QTest::addColumn<bool>("needsFile");
        for (const Known& one : known)
            QTest::newRow(one.uri) << QString::fromLatin1(one.package) << QString::fromLatin1(one.uri)
                                   << one.key << one.needsFile;
    }
    void eachPlays();
    void noneIsMissingUntold();

  private:
    std::unique_ptr<PluginHost> m_host;
    std::unique_ptr<PluginWorld> m_world;
};

void TestInstruments::eachPlays() {
    QFETCH(QString, package);
    QFETCH(QString, uri);
    QFETCH(int, key);
    QFETCH(bool, needsFile);
    if (m_world->library(uri.toStdString()).empty())
        QSKIP(qPrintable(QStringLiteral("Debian's package %1 is not installed").arg(package)));
    auto unit = m_host->load(uri.toStdString(), {}, rate, true);
    QVERIFY2(unit.ok(), unit ? "" : unit.error().message().c_str());
    const float loudest = loudestOf(*unit.value(), key);
    QVERIFY(unit.value()->fault() == PluginFault::None || unit.value()->fault() == PluginFault::TooLoud);
    QVERIFY2(needsFile ? loudest < 1e-3F : loudest > 1e-3F, qPrintable(QString::number(double(loudest))));
}

/// Whatever describes itself as an instrument is in the list, and what cannot be used has a reason.
void TestInstruments::noneIsMissingUntold() {
    std::set<std::string> listed;
    for (const PluginFound& found : m_world->list()) {
        listed.insert(found.plugin.uri);
        if (found.unfit) QVERIFY(!inWords(*found.unfit).empty());
    }
    LilvWorld* other = lilv_world_new(); // as the library itself finds them
    lilv_world_load_all(other);
    LilvNode* kind = lilv_new_uri(other, LV2_CORE__InstrumentPlugin);
    LilvNode* type = lilv_new_uri(other, LILV_NS_RDF "type");
    int instruments = 0;
    const LilvPlugins* all = lilv_world_get_all_plugins(other);
    LILV_FOREACH(plugins, i, all) {
        const LilvNode* uri = lilv_plugin_get_uri(lilv_plugins_get(all, i));
        if (!lilv_world_ask(other, uri, type, kind)) continue;
        ++instruments;
        QVERIFY2(listed.contains(lilv_node_as_uri(uri)), lilv_node_as_uri(uri));
    }
    qInfo("%d instruments are installed", instruments);
    lilv_node_free(type);
    lilv_node_free(kind);
    lilv_world_free(other);
}

QTEST_MAIN(TestInstruments)
#include "tst_instruments.moc"
