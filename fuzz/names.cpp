/// Any bytes at all as a list of drum names: read or refused, names as they must be, and written they are
/// read again.
#include "insist.h"

#include "files/notenames.h"
#include "midi/text.h"

using namespace cobbleway;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view bytes(reinterpret_cast<const char*>(data), size);
    for (const char* name : {"any.txt", "any.csv", "any.midnam"}) {
        const auto file = parseNames(bytes, name);
        insist(file.ok() || !file.error().what.empty(), "it says why");
        if (!file) continue;
        insist(!file.value().lists.empty(), "there is a list");
        for (const RepairedLine& line : file.value().repaired)
            insist(line.line > 0 && !line.what.empty(), "it says where");
        for (const NameList& list : file.value().lists) {
            insist(!list.names.empty(), "no list is empty");
            for (const auto& [key, text] : list.names) {
                insist(key < 128 && !text.empty() && validUtf8(text) == text, "names are names");
                (void)drumMeant(text);
                (void)cleanDrumName(text);
            }
            for (const NameFormat format : {NameFormat::Csv, NameFormat::Midnam}) {
                const auto again = parseNames(namesText(list.names, format, list.title),
                                              format == NameFormat::Csv ? "x.csv" : "x.midnam");
                insist(again.ok() && again.value().lists[0].names == list.names,
                       "what is written is read again");
            }
        }
    }
    return 0;
}
