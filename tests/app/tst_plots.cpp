/// The small pictures: histogram, steps, lanes and their zoom.
#include "app/drive.h"

#include "app/pages/eventsview.h"
#include "app/pages/partspage.h"
#include "app/widgets/painting.h"
#include "app/widgets/plots.h"

#include <QImage>
#include <QPainter>
#include <QTableView>
#include <random>

using namespace support;

namespace {

/// How many dots of a picture are not its ground.
int dots(const QImage& image) {
    int count = 0;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) count += qAlpha(image.pixel(x, y)) > 0;
    return count;
}

QImage lane(const HeardPart& line, LaneRange range, bool drums = false,
            const std::vector<ControlPoint>& volume = {}) {
    QImage image(400, 40, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    QPainter painter(&image);
    paintLane(painter, QRectF(4, 2, 392, 36), Overview(std::make_shared<const HeardPart>(line)), volume,
              range, drums, Qt::red);
    return image;
}

HeardPart lineOf(std::initializer_list<Note> notes) { return {notes, {}}; }

} // namespace

class TestPlots : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { prepareApplication(); }
    void histogramByKeysAndMouse();
    void histogramTellsAScreenReader();
    void stepsAreDrawnBeforeAndAfter();
    void notesStandWhereTheySound();
    void higherNotesStandHigher();
    void onlyTheShownStretchIsDrawn();
    void thousandsOfNotesAreDrawnToo();
    void louderPebblesAreLarger();
    void volumeIsACurve();
    void nothingToDrawDrawsNothing();
    void zoomStaysWithinTheSong();
    void zoomStartsAnewWithAnotherSong();
    void eventsOfTheSelectedPartFollow();
};

void TestPlots::histogramByKeysAndMouse() {
    PitchHistogram histogram;
    histogram.resize(500, 140);
    histogram.show();
    QSignalSpy moved(&histogram, &PitchHistogram::cutChanged);
    histogram.setCut(60); // as it is
    QCOMPARE(moved.count(), 0);
    QTest::keyClick(&histogram, Qt::Key_Right);
    QCOMPARE(histogram.cut(), 61);
    QTest::keyClick(&histogram, Qt::Key_Left);
    QTest::keyClick(&histogram, Qt::Key_Left);
    QCOMPARE(histogram.cut(), 59);
    QTest::keyClick(&histogram, Qt::Key_Home);
    QCOMPARE(histogram.cut(), 22);
    QTest::keyClick(&histogram, Qt::Key_End);
    QCOMPARE(histogram.cut(), 108);
    QCOMPARE(moved.count(), 5);
    QTest::mousePress(&histogram, Qt::LeftButton, {}, QPoint(4, 50));
    QVERIFY(histogram.cut() <= 22);
    QTest::mouseMove(&histogram, QPoint(490, 50));
    histogram.setCut(9999);
    QCOMPARE(histogram.cut(), 127);
    histogram.setCut(-5);
    QCOMPARE(histogram.cut(), 1);
}

void TestPlots::histogramTellsAScreenReader() {
    PitchHistogram histogram;
    histogram.setCut(60);
    QCOMPARE(histogram.surfaceValue(), QStringLiteral("cut below C4"));
    QVERIFY(!histogram.accessibleName().isEmpty());
}

void TestPlots::stepsAreDrawnBeforeAndAfter() {
    StepsPicture picture(QStringLiteral("Volume"));
    picture.resize(300, 90);
    const QImage empty = picture.grab().toImage();
    picture.setPoints({{0, 100}, {5, 20}}, {}, 10, 0, 127);
    const QImage before = picture.grab().toImage();
    picture.setPoints({{0, 100}, {5, 20}}, {{0, 60}}, 10, 0, 127);
    const QImage both = picture.grab().toImage();
    QVERIFY(empty != before && before != both);
    picture.setPoints({{0, 5000}}, {{-3, -9}}, 0, 7, 7); // nonsense is held at the edges
    picture.grab();
    picture.setSummary(QStringLiteral("two steps"));
    QCOMPARE(picture.surfaceValue(), QStringLiteral("two steps"));
}

void TestPlots::notesStandWhereTheySound() {
    const QImage image = lane(lineOf({{500, 700, Key{60}, Velocity{90}}}), {0, 1000});
    int left = 400, right = 0;
    for (int y = 0; y < 40; ++y)
        for (int x = 0; x < 400; ++x)
            if (qAlpha(image.pixel(x, y)) > 127) {
                left = std::min(left, x);
                right = std::max(right, x);
            }
    QVERIFY2(std::abs(left - 200) <= 1, qPrintable(QString::number(left)));   // the middle of 392, from 4 on
    QVERIFY2(std::abs(right - 277) <= 2, qPrintable(QString::number(right))); // seven tenths
}

void TestPlots::higherNotesStandHigher() {
    const QImage image =
        lane(lineOf({{0, 400, Key{40}, Velocity{90}}, {600, 1000, Key{80}, Velocity{90}}}), {0, 1000});
    const auto rowOf = [&](int x) {
        for (int y = 0; y < 40; ++y)
            if (qAlpha(image.pixel(x, y)) > 127) return y;
        return -1;
    };
    QVERIFY(rowOf(80) > rowOf(320) + 15);
}

void TestPlots::onlyTheShownStretchIsDrawn() {
    const HeardPart line = lineOf({{0, 90, Key{60}, Velocity{90}}, {5000, 5900, Key{60}, Velocity{90}}});
    QVERIFY(dots(lane(line, {1000, 4000})) == 0);
    QVERIFY(dots(lane(line, {4900, 6000})) > dots(lane(line, {0, 10000})));
}

void TestPlots::thousandsOfNotesAreDrawnToo() {
    HeardPart line;
    std::mt19937 random(3);
    for (int i = 0; i < 60000; ++i)
        line.notes.push_back(
            {i * 10, i * 10 + 40, Key{static_cast<std::uint8_t>(30 + random() % 60)}, Velocity{80}});
    const int thick = dots(lane(line, {0, 600000})), near = dots(lane(line, {0, 6000})),
              nearest = dots(lane(line, {0, 600}));
    QVERIFY2(thick > 8000, qPrintable(QString::number(thick)));
    QVERIFY(near > 1000 && nearest > 100);
}

void TestPlots::louderPebblesAreLarger() {
    const auto hit = [](int velocity) {
        return dots(lane(lineOf({{500, 510, Key{38}, Velocity{static_cast<std::uint8_t>(velocity)}}}),
                         {0, 1000}, true));
    };
    QVERIFY(hit(127) > hit(20));
    // Its length says nothing.
    QCOMPARE(dots(lane(lineOf({{500, 510, Key{38}, Velocity{90}}}), {0, 1000}, true)),
             dots(lane(lineOf({{500, 512, Key{38}, Velocity{90}}}), {0, 1000}, true)));
}

void TestPlots::volumeIsACurve() {
    const HeardPart line = lineOf({{0, 1000, Key{60}, Velocity{90}}});
    QVERIFY(dots(lane(line, {0, 1000}, false, {{0, 127}, {500, 10}})) > dots(lane(line, {0, 1000})) + 200);
}

void TestPlots::nothingToDrawDrawsNothing() {
    QCOMPARE(dots(lane({}, {0, 1000})), 0);
    QCOMPARE(dots(lane(lineOf({{0, 10, Key{60}, Velocity{90}}}), {5, 5})), 0);
}

void TestPlots::zoomStaysWithinTheSong() {
    Driver driver;
    QVERIFY(driver.ok() && driver.openDemo("lantern_quay.mid"));
    LaneZoom* zoom = driver.window().partsPage()->zoom();
    const Tick end = driver.song().end;
    std::mt19937 random(5);
    for (int i = 0; i < 500; ++i) {
        if (random() % 2)
            zoom->zoom(0.3 + static_cast<double>(random() % 40) / 10,
                       static_cast<double>(random() % 11) / 10);
        else
            zoom->scroll(static_cast<double>(random() % 21) / 10 - 1);
        const LaneRange shown = zoom->range();
        QVERIFY(shown.from >= 0 && shown.to > shown.from && shown.to <= end + 1);
    }
    zoom->showAll();
    QCOMPARE(zoom->range(), (LaneRange{0, end}));
}

void TestPlots::zoomStartsAnewWithAnotherSong() {
    Driver driver;
    QVERIFY(driver.ok() && driver.openDemo("lantern_quay.mid") && driver.openDemo("TIDEMILL.MID"));
    driver.session().current.showSong(0);
    driver.act("zoomIn");
    QVERIFY(driver.window().partsPage()->zoom()->isZoomed());
    driver.session().current.showSong(1);
    QVERIFY(!driver.window().partsPage()->zoom()->isZoomed());
}

void TestPlots::eventsOfTheSelectedPartFollow() {
    Driver driver;
    QVERIFY(driver.ok() && driver.openDemo("lantern_quay.mid"));
    driver.act("events");
    auto* view = driver.window().partsPage()->events();
    QTRY_VERIFY(view->isVisible());
    QVERIFY(driver.select("Tuba"));
    const auto tuba = driver.session().current.part()->source.events->size();
    QCOMPARE(static_cast<std::size_t>(view->model()->rowCount()), tuba);
    QVERIFY(driver.select("Drums"));
    QVERIFY(static_cast<std::size_t>(view->model()->rowCount()) ==
                driver.session().current.part()->source.events->size() &&
            view->model()->all() != tuba);
    // Drum notes have their names.
    bool named = false;
    for (int row = 0; row < 40; ++row)
        named =
            named ||
            view->model()->index(row, EventsModel::What).data().toString().contains(QStringLiteral("Drum"));
    QVERIFY(named);
    // What cannot be changed is not offered for it.
    QVERIFY(!(view->model()->index(0, EventsModel::Place).flags() & Qt::ItemIsEditable));
    QVERIFY(!view->model()->setData(view->model()->index(0, EventsModel::Place), 5, Qt::EditRole));
    QVERIFY(!view->model()->setData(view->model()->index(0, EventsModel::Value), QStringLiteral("loud"),
                                    Qt::EditRole));
}

QTEST_MAIN(TestPlots)
#include "tst_plots.moc"
