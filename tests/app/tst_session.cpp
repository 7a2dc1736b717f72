/// The state behind the window, and the small controls.
#include "support/support.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/head.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "song/edits.h"

#include <QPainter>
#include <QSignalSpy>
#include <QStandardPaths>
#include <QToolButton>

using namespace support;

class TestSession : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase();
    void init();
    void playWaitsForItsSounds();
    void playingAnotherSongStopsTheFirst();
    void tryingIsDroppedWhenTheSongChanges();
    void sectionsAreSteppedThrough();
    void loopsAreTidied();
    void paceIsHeldInRange();
    void linesAreKeptUntilTheyChange();
    void removingSongsAndUndoing();
    void recentFilesAreTenAndUnlike();
    void factsLine();
    void wordsForNumbers();
    void keyboardPlaysByMouseAndKeys();
    void segmentsTellWhatIsChosen();
    void flowLayoutWraps();
    void notesPictureTurnsPages();
    void lanesAreDrawn();
    void theSongGoesOnWhenItsOutputHasGone();
    void aPluginThatGoesAstrayIsTold();

  private:
    void open(const QStringList& names);
    std::unique_ptr<Session> m_session;
};

void TestSession::initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setOrganizationName(QStringLiteral("cobbleway-session-tests"));
    loadFonts();
    applyTheme(ThemeChoice::Light);
}

void TestSession::init() {
    m_session = std::make_unique<Session>();
    QVERIFY(m_session->player().open("silent").ok());
}

void TestSession::open(const QStringList& names) {
    QStringList paths;
    for (const QString& name : names) paths << QStringLiteral(DEMO_FOLDER "/") + name;
    m_session->addPaths(paths);
    QTRY_COMPARE(static_cast<qsizetype>(m_session->set().songs.size()), names.size());
}

void TestSession::playWaitsForItsSounds() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->setCatalogue(fontsAt(HOUSE_FONT)); // its font is still to be loaded
    m_session->togglePlay();
    QVERIFY(m_session->isPlaying());
    QTRY_VERIFY_WITH_TIMEOUT(m_session->player().seconds() > 0.1, 10000);
    m_session->togglePlay();
    QVERIFY(!m_session->isPlaying());
}

void TestSession::playingAnotherSongStopsTheFirst() {
    QSignalSpy ready(m_session.get(), &Session::planReady);
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    QTRY_VERIFY(!ready.isEmpty());
    m_session->togglePlay();
    m_session->openSong(1);
    QVERIFY(!m_session->isPlaying());
    QTRY_COMPARE(m_session->place(), Tick{0});
    QCOMPARE(m_session->song().title, std::string("Tide Mill Reel"));
    m_session->openSong(7); // there is none
    QCOMPARE(m_session->songIndex(), 1);
}

void TestSession::tryingIsDroppedWhenTheSongChanges() {
    m_session->setCatalogue(fontsAt(HOUSE_FONT));
    open({QStringLiteral("lantern_quay.mid")});
    m_session->trySound({houseFontId, 0, 40, "Violin"});
    QVERIFY(m_session->isTrying());
    m_session->selectPart(3);
    QVERIFY(!m_session->isTrying());
    m_session->trySound({houseFontId, 0, 40, "Violin"});
    m_session->edit(QStringLiteral("Set level"),
                    [](const Song& song) { return edits::setLevel(song, 1, -3); });
    QVERIFY(!m_session->isTrying());
    QVERIFY(!m_session->song().part(3)->sound.chosen);
    m_session->trySound({houseFontId, 0, 40, "Violin"});
    m_session->keepTried();
    QCOMPARE(m_session->undoName(), QStringLiteral("Use Violin for Clarinets"));
}

void TestSession::sectionsAreSteppedThrough() {
    open({QStringLiteral("lantern_quay.mid")});
    const auto bar = [this] { return m_session->song().tempo->position(m_session->place()).bar; };
    for (const int wanted : {9, 25, 41, 57, 73}) {
        m_session->seekSection(1);
        QTRY_COMPARE(bar(), wanted);
    }
    m_session->seekSection(-1);
    QTRY_COMPARE(bar(), 57);
}

void TestSession::loopsAreTidied() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->setLoop({5000, 1000, true});
    QCOMPARE(m_session->loop().start, Tick{1000});
    QCOMPARE(m_session->loop().end, Tick{5000});
    m_session->setLoop({700, 700, true});
    QVERIFY(!m_session->loop().on);
}

void TestSession::paceIsHeldInRange() {
    QSignalSpy changed(m_session.get(), &Session::paceChanged);
    m_session->setPace(1000);
    QCOMPARE(m_session->pace(), 200);
    m_session->setPace(-4);
    QCOMPARE(m_session->pace(), 25);
    m_session->setPace(25);
    QCOMPARE(changed.size(), 2);
}

void TestSession::linesAreKeptUntilTheyChange() {
    open({QStringLiteral("lantern_quay.mid")});
    const auto before = m_session->heard(3);
    m_session->edit(QStringLiteral("x"), [](const Song& song) { return edits::setLevel(song, 1, -3); });
    QCOMPARE(m_session->heard(3), before); // another part's level changes nothing here
    const Key first = before->notes.front().key;
    m_session->edit(QStringLiteral("x"), [](const Song& song) { return edits::setOctaves(song, 3, 1); });
    QCOMPARE(m_session->heard(3)->notes.front().key.value, first.value + 12);
    QVERIFY(m_session->heard(99)->notes.empty());
}

void TestSession::removingSongsAndUndoing() {
    open({QStringLiteral("lantern_quay.mid"), QStringLiteral("TIDEMILL.MID")});
    m_session->openSong(1);
    m_session->removeSong(0);
    QCOMPARE(m_session->song().title, std::string("Tide Mill Reel"));
    m_session->removeSong(0);
    QVERIFY(!m_session->hasSong());
    m_session->undo();
    m_session->undo();
    QCOMPARE(m_session->set().songs.size(), std::size_t{2});
    m_session->setCatalogue(fontsAt(HOUSE_FONT));
    QCOMPARE(m_session->snagsOf(0)->size(), std::size_t{10});
    QCOMPARE(m_session->snagsOf(1)->size(), std::size_t{8});
}

void TestSession::recentFilesAreTenAndUnlike() {
    for (int i = 0; i < 14; ++i) settings::addRecent(QStringLiteral("/set%1.cobbleway").arg(i % 12));
    const QStringList recent = settings::recentFiles();
    QCOMPARE(recent.size(), 10);
    QCOMPARE(recent.first(), QStringLiteral("/set1.cobbleway"));
    QCOMPARE(QSet<QString>(recent.begin(), recent.end()).size(), 10);
}

void TestSession::factsLine() {
    QCOMPARE(factsText(demoSong("lantern_quay.mid")),
             QString::fromUtf8("type 0 · 10 parts · 2:55 · 80 bars · 4/4 · ♩ = 104–118 · GM"));
    QVERIFY(factsText(Builder().note(0, 0, 1, 60).song()).contains(QString::fromUtf8("1 part ·")));
}

void TestSession::wordsForNumbers() {
    QCOMPARE(cobbleway::timeText(75.9), QStringLiteral("1:15"));
    QCOMPARE(cobbleway::timeText(3725), QStringLiteral("1:02:05"));
    QCOMPARE(dbText(0), QStringLiteral("0 dB"));
    QCOMPARE(dbText(-12), QString::fromUtf8("−12 dB"));
    QCOMPARE(dbText(3.46), QStringLiteral("+3.5 dB"));
    QCOMPARE(dbText(-0.01), QStringLiteral("0 dB"));
}

void TestSession::keyboardPlaysByMouseAndKeys() {
    KeyboardPicture keyboard;
    keyboard.resize(520, 42);
    QSignalSpy pressed(&keyboard, &KeyboardPicture::pressed), released(&keyboard, &KeyboardPicture::released);
    QTest::mousePress(&keyboard, Qt::LeftButton, {}, QPoint(2, 38)); // the lowest white key: A0
    QTest::mouseRelease(&keyboard, Qt::LeftButton, {}, QPoint(2, 38));
    QCOMPARE(pressed.takeFirst().first().toInt(), 21);
    QCOMPARE(released.takeFirst().first().toInt(), 21);
    QTest::keyClick(&keyboard, Qt::Key_Right);
    QCOMPARE(keyboard.surfaceValue(), QStringLiteral("A#0"));
    QTest::keyPress(&keyboard, Qt::Key_Return);
    QCOMPARE(pressed.takeFirst().first().toInt(), 22);
    QTest::keyRelease(&keyboard, Qt::Key_Return);
    QCOMPARE(released.size(), 1);
}

void TestSession::segmentsTellWhatIsChosen() {
    Segments segments({QStringLiteral("Lead"), QStringLiteral("Back"), QStringLiteral("Off")},
                      QStringLiteral("Tuba"));
    segments.show();
    QSignalSpy chosen(&segments, &Segments::chosen);
    segments.setCurrent(1);
    QCOMPARE(chosen.size(), 0); // showing is not choosing
    auto buttons = segments.findChildren<QToolButton*>();
    QTest::mouseClick(buttons[2], Qt::LeftButton);
    QCOMPARE(segments.current(), 2);
    QCOMPARE(chosen.takeFirst().first().toInt(), 2);
    QCOMPARE(buttons[2]->accessibleName(), QStringLiteral("Tuba: Off"));
}

void TestSession::flowLayoutWraps() {
    QWidget box;
    auto* flow = new FlowLayout(4, &box);
    for (int i = 0; i < 6; ++i) {
        auto* piece = new QWidget;
        piece->setFixedSize(50, 20);
        flow->addWidget(piece);
    }
    QCOMPARE(flow->heightForWidth(1000), 20);
    QCOMPARE(flow->heightForWidth(160), 44); // three in a line
    QCOMPARE(flow->heightForWidth(50), 140); // one in a line
}

void TestSession::notesPictureTurnsPages() {
    open({QStringLiteral("lantern_quay.mid")});
    NotesPicture picture(*m_session);
    picture.resize(600, 300);
    picture.show();
    QTest::keyClick(&picture, Qt::Key_PageDown);
    QCOMPARE(picture.firstBar(), 9);
    QTest::keyClick(&picture, Qt::Key_Plus);
    QCOMPARE(picture.barCount(), 4);
    QTest::keyClick(&picture, Qt::Key_PageUp);
    QCOMPARE(picture.firstBar(), 5);
    m_session->seek(m_session->song().tempo->barStart(50));
    QTRY_VERIFY(picture.follow() || picture.firstBar() == 49);
    QCOMPARE(picture.firstBar(), 49);
    QVERIFY(picture.surfaceValue().startsWith(QStringLiteral("bars 49 to 52")));
}

void TestSession::lanesAreDrawn() {
    open({QStringLiteral("lantern_quay.mid")});
    for (const Part& part : m_session->song().parts) {
        QImage image(400, 40, QImage::Format_ARGB32);
        image.fill(Qt::white);
        QPainter painter(&image);

        paintLane(painter, QRectF(0, 0, 400, 40), *m_session->overview(part.id), *m_session->volume(part.id),
                  {0, m_session->song().end}, part.source.drums, partColour(part.colour));
        painter.end();
        int coloured = 0;
        for (int y = 0; y < 40; ++y)
            for (int x = 0; x < 400; ++x) coloured += image.pixelColor(x, y) != QColor(Qt::white);
        QVERIFY2(coloured > 60, part.name.c_str());
    }
}

namespace {

/// A device that was unplugged.
class GoneOutput final : public AudioOutput {
  public:
    [[nodiscard]] int rate() const override { return liveRate; }
    [[nodiscard]] long gaps() const override { return 0; }
    [[nodiscard]] double ahead() const override { return 0; }
    [[nodiscard]] bool isGone() const override { return true; }
};

} // namespace

void TestSession::theSongGoesOnWhenItsOutputHasGone() {
    open({QStringLiteral("lantern_quay.mid")});
    m_session->togglePlay();
    QTRY_VERIFY_WITH_TIMEOUT(m_session->player().seconds() > 0.1, 10000);
    QSignalSpy problems(m_session.get(), &Session::problem);
    m_session->player().use(std::make_unique<GoneOutput>());
    const double place = m_session->player().seconds();
    QTRY_COMPARE(problems.size(), 1);
    QVERIFY(problems.first().at(1).toString().contains(QStringLiteral("Play, Sound output")));
    QVERIFY(!m_session->player().outputIsGone());
    QTRY_VERIFY(m_session->player().seconds() > place + 0.1);
    QVERIFY(m_session->isPlaying());
}

void TestSession::aPluginThatGoesAstrayIsTold() {
    qputenv("COBBLEWAY_LV2_PATH", BAD_PLUGINS);
    m_session = std::make_unique<Session>();
    QVERIFY(m_session->player().open("silent").ok());
    const std::string noise = "urn:cobbleway:test:noise";
    open({QStringLiteral("lantern_quay.mid")});
    m_session->setCatalogue(fontsAt(HOUSE_FONT).withPlugins({{noise, "Test noise", "", true}}, {}));
    QSignalSpy problems(m_session.get(), &Session::problem);
    m_session->edit(QStringLiteral("Sound"), [&](const Song& song) {
        return edits::chooseSound(song, 1, {noise, 0, 0, "Test noise", SoundKind::Plugin, 0});
    });
    m_session->togglePlay();
    QTRY_COMPARE_WITH_TIMEOUT(problems.size(), 1, 10000);
    QVERIFY(problems.first().at(1).toString().contains(QStringLiteral("Lead cornet")));
    QTest::qWait(1200); // once
    QCOMPARE(problems.size(), 1);
}

QTEST_MAIN(TestSession)
#include "tst_session.moc"
