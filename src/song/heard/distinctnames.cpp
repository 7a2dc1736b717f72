#include "song/heard/distinctnames.h"

#include "midi/gm.h"
#include "song/model/names.h"

#include <map>
#include <set>

namespace cobbleway {
namespace {

/// A name without the number at its end; as it is where it has none.
std::string withoutNumber(const std::string& name) {
    const auto last = name.find_last_not_of("0123456789");
    if (last == std::string::npos || last + 1 == name.size() || name[last] != ' ') return name;
    return name.substr(0, last);
}

/// Parts whose names differ by nothing but our number: indexes by the name they share. Those set aside are
/// not shown beside the others.
std::map<std::string, std::vector<std::size_t>> alikeParts(const Song& song) {
    std::set<std::string> names;
    for (const Part& part : song.parts) names.insert(part.name);
    std::map<std::string, std::vector<std::size_t>> groups;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        const std::string base = withoutNumber(part.name);
        const bool ours = names.contains(base) && (!part.nameGiven || nameInFile(song, part) == base);
        groups[ours ? base : part.name].push_back(i);
    }
    std::erase_if(groups, [](const auto& group) { return group.second.size() < 2; });
    return groups;
}

/// −1 left, 0 middle, 1 right: by the first pan controller and the mixer.
int sideOf(const Song& song, const Part& part) {
    int value = 64;
    (void)song.anyBesideNotes(*part.source.events, [&](const Event& event, EventRef) {
        if (!event.isController(cc::pan)) return false;
        value = event.data2;
        return true;
    });
    const double place = (value - 64) / 64.0 + part.mix.pan;
    return place < -0.1 ? -1 : place > 0.1 ? 1 : 0;
}

template <class Value> bool allDiffer(const std::vector<Value>& values) {
    return std::set<Value>(values.begin(), values.end()).size() == values.size();
}

} // namespace

std::vector<Message> distinctNames(const Song& song, const std::function<PartFacts(const Part&)>& facts) {
    std::vector<Message> names;
    for (const Part& part : song.parts) names.push_back(Message::verbatim(part.name));
    for (const auto& [base, parts] : alikeParts(song)) {
        std::vector<std::pair<int, int>> channels;
        std::vector<int> sides;
        std::vector<std::pair<int, int>> ranges;
        for (const std::size_t i : parts) {
            const Part& part = song.parts[i];
            channels.emplace_back(part.source.port, part.source.channel.value);
            sides.push_back(sideOf(song, part));
            const PartFacts found = facts(part);
            ranges.emplace_back(found.lowest.value, found.highest.value);
        }
        std::set<int> ports;
        for (const auto& [port, channel] : channels) ports.insert(port);
        const bool byChannel = allDiffer(channels), bySide = allDiffer(sides), byRange = allDiffer(ranges);
        for (std::size_t n = 0; n < parts.size(); ++n) {
            Message& name = names[parts[n]];
            const auto key = [](int number) { return keyName(Key{static_cast<std::uint8_t>(number)}); };
            if (byChannel && ports.size() == 1)
                name = {"part.of-channel", {{"name", base}, {"channel", channels[n].second + 1}}};
            else if (byChannel)
                name = {
                    "part.of-port",
                    {{"name", base}, {"channel", channels[n].second + 1}, {"port", channels[n].first + 1}}};
            else if (bySide)
                name = {sides[n] < 0   ? "part.left"
                        : sides[n] > 0 ? "part.right"
                                       : "part.middle",
                        {{"name", base}}};
            else if (byRange && facts(song.parts[parts[n]]).notes > 0)
                name = {
                    "part.of-range",
                    {{"name", base}, {"lowest", key(ranges[n].first)}, {"highest", key(ranges[n].second)}}};
        }
    }
    return names;
}

} // namespace cobbleway
