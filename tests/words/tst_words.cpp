/// The catalogue of sentences: what it says, and that program and catalogue agree.
#include "words/catalogue.h"
#include "words/message.h"

#include <QDirIterator>
#include <QtTest>
#include <map>
#include <set>
#include <unicode/messagepattern.h>

using namespace cobbleway;

namespace {

/// The arguments that a pattern names; none where it cannot be read.
std::optional<std::set<std::string>> argumentsOf(const char* pattern) {
    UErrorCode status = U_ZERO_ERROR;
    UParseError where;
    const icu::MessagePattern parsed(icu::UnicodeString::fromUTF8(pattern), &where, status);
    if (U_FAILURE(status)) return std::nullopt;
    std::set<std::string> names;
    for (int i = 0; i < parsed.countParts(); ++i)
        if (parsed.getPartType(i) == UMSGPAT_PART_TYPE_ARG_NAME) {
            std::string name;
            names.insert(parsed.getSubstring(parsed.getPart(i)).toUTF8String(name));
        }
    return names;
}

/// All of the program's source but for the catalogue itself.
QString sourceText() {
    QString text;
    QDirIterator files(QStringLiteral(TEST_SOURCES "/../src"),
                       {QStringLiteral("*.cpp"), QStringLiteral("*.h")}, QDir::Files,
                       QDirIterator::Subdirectories);
    while (files.hasNext()) {
        QFile file(files.next());
        if (file.fileName().endsWith(QLatin1String("words/english.cpp")) || !file.open(QIODevice::ReadOnly))
            continue;
        text += QString::fromUtf8(file.readAll());
    }
    return text;
}

/// The names of the arguments written after an id at `at`: {"id", {{"part", …}, {"notes", …}}}. None where
/// they are not written there.
std::optional<std::set<std::string>> writtenArguments(const QString& text, qsizetype at) {
    static const QRegularExpression start(QStringLiteral("\\G\\s*,\\s*\\{"));
    const auto match =
        start.match(text, at, QRegularExpression::NormalMatch, QRegularExpression::AnchorAtOffsetMatchOption);
    if (!match.hasMatch()) return std::nullopt;
    static const QRegularExpression name(QStringLiteral("\\G\\{\\s*\"(\\w+)\"\\s*,"));
    std::set<std::string> names;
    int depth = 1;
    for (qsizetype i = match.capturedEnd(); i < text.size() && depth > 0; ++i) {
        if (text[i] == QLatin1Char('{') && ++depth == 2) {
            const auto argument = name.match(text, i);
            if (argument.hasMatch()) names.insert(argument.captured(1).toStdString());
        } else if (text[i] == QLatin1Char('}')) {
            --depth;
        }
    }
    return names;
}

} // namespace

class TestWords : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void sentences_data();
    void sentences();
    void patternsCanBeRead();
    void everyIdInTheProgramHasItsSentence();
    void everySentenceIsUsed();
    void whatGoesThroughALineComesBack();
};

void TestWords::sentences_data() {
    QTest::addColumn<Message>("message");
    QTest::addColumn<QString>("said");
    const auto row = [](const char* name, Message message, const char* said) {
        QTest::newRow(name) << std::move(message) << QString::fromUtf8(said);
    };
    const std::string tuba = "Tuba";
    row("one", {"doubled-notes.what", {{"notes", 1}, {"part", tuba}}},
        "1 note of Tuba is struck twice at the same moment.");
    row("many", {"doubled-notes.what", {{"notes", 12345}, {"part", tuba}}},
        "12345 notes of Tuba are struck twice at the same moment.");
    row("an apostrophe and braces in a name",
        {"program-missing.what", {{"part", std::string("Ann's {B} #1")}}},
        "The file does not say which instrument plays Ann's {B} #1.");
    row("letters of another script", {"program-missing.what", {{"part", std::string("ピアノ")}}},
        "The file does not say which instrument plays ピアノ.");
    row("a choice of words", {"fix.shift-octaves", {{"way", std::string("down")}, {"octaves", 2}}},
        "Shift down 2 octaves");
    row("a negative number", {"device.key-shift", {{"semitones", -1}}}, "master transposition -1 semitone");
    row("a message within", {"error.not-midi", {{"seems", Message("seems.web")}}},
        "This is not a MIDI file; it seems to be a web page.");
    row("a list",
        {"split-drums.what",
         {{"parts", 3},
          {"names", std::vector<Message>{Message::verbatim("Kick"), Message::verbatim("Snare"),
                                         Message::verbatim("Hats")}}}},
        "The drums come as 3 parts: Kick, Snare, and Hats.");
    row("a list of one", {"match.reasons", {{"reasons", std::vector<Message>{{"reason.low-line"}}}}},
        "It is a low line.");
    row("nothing", {}, "");
    row("an id that is not there", {"no-such.what"}, "no-such.what");
}

void TestWords::sentences() {
    QFETCH(const Message, message);
    QTEST(QString::fromStdString(inWords(message)), "said");
}

void TestWords::patternsCanBeRead() {
    std::set<std::string> ids;
    for (const Sentence& sentence : englishSentences()) {
        QVERIFY2(ids.insert(sentence.id).second, sentence.id);
        QVERIFY2(argumentsOf(sentence.pattern), sentence.id);
        // A plain apostrophe before a brace would hide it.
        QVERIFY2(
            !QString::fromUtf8(sentence.pattern).contains(QRegularExpression(QStringLiteral("[^']'[{}|#]"))),
            sentence.id);
    }
    QVERIFY(ids.size() > 300);
}

void TestWords::everyIdInTheProgramHasItsSentence() {
    const QString text = sourceText();
    static const QRegularExpression id(QStringLiteral("\"([a-z0-9-]+\\.[a-z0-9.-]+)\""));
    std::map<std::string, std::set<std::string>> named;
    std::set<std::string> groups;
    for (const Sentence& sentence : englishSentences()) {
        named[sentence.id] = *argumentsOf(sentence.pattern);
        groups.insert(std::string(sentence.id).substr(0, std::string_view(sentence.id).find('.')));
    }
    int seen = 0, checked = 0;
    for (auto found = id.globalMatch(text); found.hasNext();) {
        const auto match = found.next();
        const std::string word = match.captured(1).toStdString();
        if (!groups.contains(word.substr(0, word.find('.')))) continue; // no id: a file name, say
        if (word == "names.midnam") continue;
        ++seen;
        QVERIFY2(isInCatalogue(word), word.c_str());
        const auto written = writtenArguments(text, match.capturedEnd());
        if (!written || written->empty()) continue;
        ++checked;
        for (const std::string& argument : named[word])
            QVERIFY2(written->contains(argument), (word + " needs " + argument).c_str());
        for (const std::string& argument : *written)
            QVERIFY2(named[word].contains(argument) || word == "drums.nearest-key",
                     (word + " does not say " + argument).c_str());
    }
    QVERIFY(seen > 300);
    QVERIFY(checked > 100);
}

void TestWords::everySentenceIsUsed() {
    const QString text = sourceText();
    for (const Sentence& sentence : englishSentences()) {
        const QString id = QString::fromUtf8(sentence.id);
        const bool ofSeveral = id.endsWith(QLatin1String(".kind")) || id.endsWith(QLatin1String(".all"));
        const QString base = ofSeveral ? id.left(id.lastIndexOf(QLatin1Char('.'))) : id;
        QVERIFY2(text.contains(QLatin1Char('"') + base + QLatin1Char('"')), sentence.id);
    }
}

void TestWords::whatGoesThroughALineComesBack() {
    const Message known("plugin.crashed");
    QCOMPARE(fromLine(asLine(known)), known);
    QCOMPARE(inWords(fromLine("It whistled.")), std::string("It whistled."));
    const Message detailed("error.open", {{"reason", std::string("no such file")}});
    QCOMPARE(inWords(fromLine(asLine(detailed))), inWords(detailed));
}

QTEST_APPLESS_MAIN(TestWords)
#include "tst_words.moc"
