#include "files/midnam.h"

#include "files/markup.h"
#include "files/namelines.h"
#include "midi/text.h"

#include <charconv>
#include <cstring>
#include <libxml/parser.h>
#include <libxml/tree.h>
#include <libxml/xmlerror.h>
#include <map>
#include <memory>
#include <set>

namespace cobbleway {
namespace {

struct FreeDocument {
    void operator()(xmlDoc* document) const { xmlFreeDoc(document); }
};

bool is(const xmlNode* node, const char* name) {
    return node->type == XML_ELEMENT_NODE &&
           std::strcmp(reinterpret_cast<const char*>(node->name), name) == 0;
}

/// An attribute's plain text; `cut` is set where an entity stood in it, which is left out.
std::string attribute(const xmlNode* node, const char* name, bool& cut) {
    const xmlAttr* found = xmlHasProp(node, reinterpret_cast<const xmlChar*>(name));
    std::string text;
    if (!found || found->type != XML_ATTRIBUTE_NODE) return text;
    for (const xmlNode* child = found->children; child; child = child->next) {
        if (child->type == XML_TEXT_NODE && child->content)
            text += reinterpret_cast<const char*>(child->content);
        else
            cut = true;
    }
    return text;
}

/// Visits elements in order without recursion, so that no depth of nesting is too much.
template <class Visit> void eachElement(const xmlNode* root, Visit visit) {
    for (const xmlNode* node = root; node;) {
        if (node->type == XML_ELEMENT_NODE) visit(node);
        if (node->type == XML_ELEMENT_NODE && node->children) {
            node = node->children;
            continue;
        }
        while (node && node != root && !node->next) node = node->parent;
        node = node && node != root ? node->next : nullptr;
    }
}

void takeNote(const xmlNode* note, NameList& list, std::vector<RepairedLine>& repaired) {
    bool cut = false;
    const int line = static_cast<int>(xmlGetLineNo(note));
    const std::string number = attribute(note, "Number", cut);
    const std::string name = attribute(note, "Name", cut);
    if (cut) repaired.push_back({line, {"names.entity"}});
    NameLines one = pairLine(number, name);
    for (RepairedLine& fault : one.repaired) repaired.push_back({line, fault.what});
    for (auto& [key, text] : one.names)
        if (!list.names.insert_or_assign(key, text).second)
            repaired.push_back({line, {"names.twice", {{"key", key}}}});
}

/// Many alike are told in one.
std::vector<RepairedLine> gathered(const std::vector<RepairedLine>& repaired) {
    std::map<std::string, std::vector<int>> lines; // by what is said
    for (const RepairedLine& fault : repaired) lines[inWords(fault.what)].push_back(fault.line);
    std::set<std::string> saidOnce;
    std::vector<RepairedLine> told;
    for (const RepairedLine& fault : repaired) {
        const std::string said = inWords(fault.what);
        const auto& same = lines[said];
        if (same.size() < 5)
            told.push_back(fault);
        else if (saidOnce.insert(said).second)
            told.push_back({fault.line, onManyLines(fault.what, same.size(), same.front(), same.back())});
    }
    return told;
}

/// Whether a tag is longer than any that means something: the library compares each of its attributes with
/// all others. What stands in comments, instructions and CDATA is no tag.
bool hasHugeTag(std::string_view text) {
    constexpr std::size_t longest = 8192;
    for (std::size_t at = text.find('<'); at != std::string_view::npos; at = text.find('<', at)) {
        const auto endOf = [&](std::string_view start, std::string_view end) {
            return text.substr(at, start.size()) == start ? std::min(text.find(end, at), text.size()) : 0;
        };
        if (const std::size_t past =
                std::max({endOf("<!--", "-->"), endOf("<?", "?>"), endOf("<![CDATA[", "]]>")})) {
            at = past;
            continue;
        }
        std::size_t end = at + 1;
        for (char quote = 0; end < text.size() && (quote || text[end] != '>'); ++end) {
            if (quote ? text[end] == quote : text[end] == '"' || text[end] == '\'')
                quote = quote ? 0 : text[end];
        }
        if (end - at > longest) return true;
        at = end;
    }
    return false;
}

} // namespace

bool looksLikeXml(const std::string& text) {
    std::size_t at = text.starts_with("\xEF\xBB\xBF") ? 3 : 0;
    at = text.find_first_not_of(" \t\r\n", at);
    return at != std::string::npos &&
           (text.compare(at, 5, "<?xml") == 0 || text.compare(at, 9, "<!DOCTYPE") == 0 ||
            text.compare(at, 5, "<MIDI") == 0);
}

Result<NameFile> parseMidnam(std::string_view bytes, const std::filesystem::path& path) {
    if (hasHugeTag(bytes)) return Error{{"error.midnam"}, path.string(), {"now.plain-list"}};
    // No option expands entities or loads what a document type names; without XML_PARSE_HUGE depth and
    // growth are bounded.
    const std::unique_ptr<xmlDoc, FreeDocument> document(
        xmlReadMemory(bytes.data(), static_cast<int>(bytes.size()), "names.midnam", nullptr,
                      XML_PARSE_NONET | XML_PARSE_NOERROR | XML_PARSE_NOWARNING | XML_PARSE_NOCDATA));
    if (!document) {
        const xmlError* error = xmlGetLastError();
        return Error{error ? Message("error.midnam-line", {{"line", error->line}}) : Message("error.midnam"),
                     path.string(),
                     {"now.plain-list"}};
    }
    NameFile file;
    file.format = NameFormat::Midnam;
    const xmlNode* root = xmlDocGetRootElement(document.get());
    NameList loose; // notes in no list
    const auto listOf = [&](const xmlNode* note) -> const xmlNode* {
        for (const xmlNode* up = note->parent; up; up = up->parent)
            if (is(up, "NoteNameList")) return up;
        return nullptr;
    };
    const xmlNode* current = nullptr;
    eachElement(root, [&](const xmlNode* node) {
        if (is(node, "NoteNameList")) {
            bool cut = false;
            current = node;
            file.lists.push_back({validUtf8(attribute(node, "Name", cut)), {}});
        } else if (is(node, "Note")) {
            const bool inList = current && listOf(node) == current;
            takeNote(node, inList ? file.lists.back() : loose, file.repaired);
        }
    });
    if (!loose.names.empty()) file.lists.push_back(std::move(loose));
    std::erase_if(file.lists, [](const NameList& list) { return list.names.empty(); });
    for (std::size_t i = 0; i < file.lists.size(); ++i)
        if (file.lists[i].title.empty()) file.lists[i].title = "List " + std::to_string(i + 1);
    file.repaired = gathered(file.repaired);
    return file;
}

std::string midnamOf(const DrumNames& names, const std::string& title) {
    const std::string list = inMarkup(title.empty() ? "Drums" : title);
    std::string text = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
                       "<!DOCTYPE MIDINameDocument PUBLIC \"-//MIDI Manufacturers Association//DTD "
                       "MIDINameDocument 1.0//EN\" "
                       "\"http://www.midi.org/dtds/MIDINameDocument10.dtd\">\n"
                       "<MIDINameDocument>\n"
                       "  <Author/>\n"
                       "  <MasterDeviceNames>\n"
                       "    <Manufacturer>Cobbleway</Manufacturer>\n"
                       "    <Model>" +
                       list +
                       "</Model>\n"
                       "    <NoteNameList Name=\"" +
                       list + "\">\n";
    for (const auto& [key, name] : names)
        text += "      <Note Number=\"" + std::to_string(key) + "\" Name=\"" + inMarkup(name) + "\"/>\n";
    return text + "    </NoteNameList>\n  </MasterDeviceNames>\n</MIDINameDocument>\n";
}

} // namespace cobbleway
