/// Text of MIDI files: finding its encoding, decoding it, keeping it clean.
#include "support/support.h"

#include "midi/text.h"
#include "song/heard/lyrics.h"

#include <QStringEncoder>
#include <random>

using namespace support;

class TestText : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void controlCharactersAreDropped_data();
    void controlCharactersAreDropped();
    void utf8IsMadeValid_data();
    void utf8IsMadeValid();
    void everyKnownEncodingReadsItsOwn_data();
    void everyKnownEncodingReadsItsOwn();
    void unknownEncodingsAreReadAsWestern();
    void languageCodesTell_data();
    void languageCodesTell();
    void wideTextIsFound_data();
    void wideTextIsFound();
    void blanksStayWhereLyricsNeedThem();
    void anyBytesGiveValidText();
};

void TestText::controlCharactersAreDropped_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("text");
    QTest::newRow("a closing zero") << QByteArray("Quay\0", 5) << "Quay";
    QTest::newRow("blanks around") << QByteArray("  Quay \r\n") << "Quay";
    QTest::newRow("a bell and an escape") << QByteArray("Qu\x07"
                                                        "a\x1By")
                                          << "Quay";
    QTest::newRow("delete") << QByteArray("Quay\x7F") << "Quay";
    QTest::newRow("lines within stay") << QByteArray("Quay\nside") << "Quay\nside";
    QTest::newRow("nothing but controls") << QByteArray("\x01\x02\x03") << "";
}

void TestText::controlCharactersAreDropped() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, text);
    QCOMPARE(QString::fromStdString(toUtf8(
                 std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())), "UTF-8")),
             text);
}

void TestText::utf8IsMadeValid_data() {
    // RFC 3629: what is no UTF-8 is replaced by U+FFFD.
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("text");
    QTest::newRow("valid") << QByteArray("H\xC3\xA4"
                                         "fen")
                           << "Häfen";
    QTest::newRow("a lone continuation") << QByteArray("a\x80"
                                                       "b")
                                         << "a\uFFFDb";
    QTest::newRow("cut short") << QByteArray("a\xC3") << "a\uFFFD";
    QTest::newRow("longer than need be") << QByteArray("\xC0\xAF") << "\uFFFD\uFFFD";
    QTest::newRow("a surrogate") << QByteArray("\xED\xA0\x80") << "\uFFFD\uFFFD\uFFFD";
    QTest::newRow("past the last letter") << QByteArray("\xF5\x80\x80\x80") << "\uFFFD\uFFFD\uFFFD\uFFFD";
}

void TestText::utf8IsMadeValid() {
    QFETCH(QByteArray, bytes);
    QFETCH(QString, text);
    QCOMPARE(QString::fromStdString(validUtf8(bytes.toStdString())), text);
}

void TestText::everyKnownEncodingReadsItsOwn_data() {
    QTest::addColumn<QString>("encoding");
    QTest::addColumn<QByteArray>("bytes");
    QTest::addColumn<QString>("text");
    // Code charts of the encodings (Unicode Consortium's mapping tables; from memory).
    QTest::newRow("UTF-8") << "UTF-8" << QByteArray("\xC3\xB6") << "ö";
    QTest::newRow("WINDOWS-1252") << "WINDOWS-1252" << QByteArray("\xF6\x80") << "ö€";
    QTest::newRow("WINDOWS-1250") << "WINDOWS-1250" << QByteArray("\xF8\x9E") << "řž";
    QTest::newRow("WINDOWS-1251") << "WINDOWS-1251" << QByteArray("\xCF\xF0") << "Пр";
    QTest::newRow("WINDOWS-1253") << "WINDOWS-1253" << QByteArray("\xE1\xE2") << "αβ";
    QTest::newRow("WINDOWS-1254") << "WINDOWS-1254" << QByteArray("\xF0\xFE") << "ğş";
    QTest::newRow("WINDOWS-1257") << "WINDOWS-1257" << QByteArray("\xE0\xFE") << "ąž";
    QTest::newRow("ISO-8859-1") << "ISO-8859-1" << QByteArray("\xE9") << "é";
    QTest::newRow("ISO-8859-2") << "ISO-8859-2" << QByteArray("\xB9") << "š";
    QTest::newRow("ISO-8859-5") << "ISO-8859-5" << QByteArray("\xBF") << "П";
    QTest::newRow("ISO-8859-7") << "ISO-8859-7" << QByteArray("\xE1") << "α";
    QTest::newRow("ISO-8859-15") << "ISO-8859-15" << QByteArray("\xA4") << "€";
    QTest::newRow("KOI8-R") << "KOI8-R" << QByteArray("\xF0\xD2") << "Пр";
    QTest::newRow("KOI8-U") << "KOI8-U" << QByteArray("\xA4") << "є";
    QTest::newRow("IBM437") << "IBM437" << QByteArray("\x94") << "ö";
    QTest::newRow("IBM850") << "IBM850" << QByteArray("\x94\x9B") << "öø";
    QTest::newRow("IBM866") << "IBM866" << QByteArray("\x8F\xE0") << "Пр";
    QTest::newRow("MACINTOSH") << "MACINTOSH" << QByteArray("\x9A") << "ö";
    QTest::newRow("SHIFT_JIS") << "SHIFT_JIS" << QByteArray("\x8D\x60") << "港";
    QTest::newRow("EUC-JP") << "EUC-JP" << QByteArray("\xB9\xC1") << "港";
    QTest::newRow("EUC-KR") << "EUC-KR" << QByteArray("\xB0\xA1") << "가";
    QTest::newRow("GB18030") << "GB18030" << QByteArray("\xB8\xDB") << "港";
    QTest::newRow("BIG5") << "BIG5" << QByteArray("\xB4\xE4") << "港";
    QTest::newRow("UTF-16LE") << "UTF-16LE" << QByteArray("\xF6\x00", 2) << "ö";
    QTest::newRow("UTF-16BE") << "UTF-16BE" << QByteArray("\x00\xF6", 2) << "ö";
}

void TestText::everyKnownEncodingReadsItsOwn() {
    QFETCH(QString, encoding);
    QFETCH(QByteArray, bytes);
    QFETCH(QString, text);
    const auto& known = knownEncodings();
    QVERIFY(std::find(known.begin(), known.end(), encoding.toStdString()) != known.end());
    QCOMPARE(QString::fromStdString(
                 toUtf8(std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())),
                        encoding.toStdString())),
             text);
}

void TestText::unknownEncodingsAreReadAsWestern() {
    QCOMPARE(QString::fromStdString(toUtf8("\xF6", "no-such-encoding")), QStringLiteral("ö"));
    QCOMPARE(QString::fromStdString(toUtf8("plain", "no-such-encoding")), QStringLiteral("plain"));
}

void TestText::languageCodesTell_data() {
    // RP-026: a code in braces before the text of a language.
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("encoding");
    QTest::newRow("Japanese") << QByteArray("{@JP}\x8D\x60") << "SHIFT_JIS";
    QTest::newRow("Latin") << QByteArray("{@LATIN}h\xF6r") << "WINDOWS-1252";
    QTest::newRow("plain ASCII needs none") << QByteArray("{@JP}quay") << "UTF-8";
}

void TestText::languageCodesTell() {
    QFETCH(QByteArray, text);
    QFETCH(QString, encoding);
    Builder b;
    b.file.addText(0, 0, meta::lyric, text.toStdString());
    QCOMPARE(QString::fromStdString(guessEncoding(b.file)), encoding);
}

void TestText::wideTextIsFound_data() {
    QTest::addColumn<int>("order"); // QStringConverter's
    QTest::addColumn<bool>("mark");
    QTest::newRow("little-endian") << int(QStringConverter::Utf16LE) << false;
    QTest::newRow("big-endian") << int(QStringConverter::Utf16BE) << false;
    QTest::newRow("little-endian with a mark") << int(QStringConverter::Utf16LE) << true;
    QTest::newRow("big-endian with a mark") << int(QStringConverter::Utf16BE) << true;
}

void TestText::wideTextIsFound() {
    QFETCH(int, order);
    QFETCH(bool, mark);
    QStringEncoder encode(static_cast<QStringConverter::Encoding>(order),
                          mark ? QStringConverter::Flag::WriteBom : QStringConverter::Flag::Default);
    const QString text = QStringLiteral("Hafenmusik für Bläser");
    const QByteArray bytes = encode(text);
    Builder b;
    b.file.addText(0, 0, meta::trackName,
                   std::string(bytes.constData(), static_cast<std::size_t>(bytes.size())));
    b.file.addText(0, 0, meta::trackName,
                   std::string(bytes.constData(), static_cast<std::size_t>(bytes.size())));
    const std::string encoding = guessEncoding(b.file);
    QCOMPARE(QString::fromStdString(toUtf8(
                 std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())), encoding)),
             text);
}

void TestText::blanksStayWhereLyricsNeedThem() {
    QCOMPARE(toUtf8Untrimmed(" lan- \r", "UTF-8"), std::string(" lan- \r"));
    QCOMPARE(toUtf8Untrimmed("\x01 la", "UTF-8"), std::string(" la"));
    Builder b;
    for (const char* syllable : {"Lan", "terns ", " ", "lit"}) b.file.addText(0, 0, meta::lyric, syllable);
    QCOMPARE(lyricLines(b.note(0, 0, 1, 60).song())[0].text, std::string("Lanterns  lit"));
}

void TestText::anyBytesGiveValidText() {
    std::mt19937 random(91);
    for (int round = 0; round < 3000; ++round) {
        std::string bytes;
        for (unsigned i = 0; i < random() % 40; ++i) bytes += static_cast<char>(random());
        const std::string& encoding = knownEncodings()[random() % knownEncodings().size()];
        const std::string text = toUtf8(bytes, encoding);
        QCOMPARE(validUtf8(text), text);
        Builder b;
        b.file.addText(0, 0, meta::text, bytes);
        QVERIFY(!guessEncoding(b.file).empty());
    }
}

QTEST_APPLESS_MAIN(TestText)
#include "tst_text.moc"
