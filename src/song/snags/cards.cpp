#include "song/snags/cards.h"

#include <algorithm>
#include <set>

namespace cobbleway {
namespace {

const Fix* fixOfKind(const Snag& snag, const std::string& id) {
    const auto at = std::find_if(snag.fixes.begin(), snag.fixes.end(),
                                 [&](const Fix& fix) { return fix.label.id == id; });
    return at == snag.fixes.end() ? nullptr : &*at;
}

/// One label for the fixes of several rows: theirs where they agree, else that of the kind; empty where
/// neither would be true of all.
Message labelOfAll(const std::vector<const Fix*>& fixes) {
    const Message& first = fixes.front()->label;
    const std::string ofKind = first.id + ".all";
    if (isInCatalogue(ofKind)) return Message(ofKind.c_str());
    const bool agree =
        std::all_of(fixes.begin(), fixes.end(), [&](const Fix* fix) { return fix->label == first; });
    return agree ? first : Message();
}

std::vector<FixOfAll> fixesOfAll(const std::vector<Snag>& rows) {
    std::vector<FixOfAll> shared;
    for (const Fix& offered : rows.front().fixes) {
        std::vector<const Fix*> fixes;
        for (const Snag& row : rows)
            if (const Fix* fix = fixOfKind(row, offered.label.id)) fixes.push_back(fix);
        if (fixes.size() != rows.size()) continue;
        Message label = labelOfAll(fixes);
        const bool known = std::any_of(shared.begin(), shared.end(),
                                       [&](const FixOfAll& other) { return other.label == label; });
        if (label.empty() || known) continue;
        std::vector<std::function<Song(const Song&)>> edits;
        for (const Fix* fix : fixes) edits.push_back(fix->apply);
        shared.push_back({std::move(label), [edits](const Song& song) {
                              Song now = song;
                              for (const auto& edit : edits) now = edit(now);
                              return now;
                          }});
    }
    return shared;
}

std::size_t partsOf(const std::vector<Snag>& rows) {
    std::set<PartId> parts;
    for (const Snag& row : rows) parts.insert(row.part);
    return parts.size();
}

void finish(SnagCard& card) {
    const Snag& first = card.first();
    card.heading = first.what;
    card.why = first.why;
    if (card.rows.size() == 1) return;
    const std::string ofKind = first.kind + ".kind";
    if (isInCatalogue(ofKind))
        card.heading = {ofKind.c_str(), {{"parts", partsOf(card.rows)}, {"rows", card.rows.size()}}};
    const bool sameWhy = std::all_of(card.rows.begin(), card.rows.end(),
                                     [&](const Snag& row) { return row.why == first.why; });
    if (!sameWhy) card.why = {};
    card.all = fixesOfAll(card.rows);
}

} // namespace

bool canBeHeard(const Fix& fix) {
    static const std::set<std::string> silent = {
        "fix.leave",          "fix.separate-channels", "fix.volume-into-level", "fix.read-as",
        "fix.remove-silence", "fix.flatten-tempo",     "fix.fold-channels",     "fix.give-port",
        "fix.forget-names",   "fix.join-kit",          "fix.remove-effect",     "fix.keep-sound"};
    return !silent.contains(fix.label.id);
}

std::vector<SnagCard> cardsOf(const std::vector<Snag>& snags) {
    std::vector<SnagCard> cards;
    for (const Snag& snag : snags) {
        const auto at = std::find_if(cards.begin(), cards.end(), [&](const SnagCard& card) {
            return card.first().kind == snag.kind && card.first().asked == snag.asked &&
                   isInCatalogue(snag.kind + ".kind");
        });
        if (at == cards.end())
            cards.push_back({{snag}, {}, {}, {}});
        else
            at->rows.push_back(snag);
    }
    for (SnagCard& card : cards) finish(card);
    const auto weight = [](const SnagCard& card) {
        const bool serious =
            std::any_of(card.rows.begin(), card.rows.end(), [](const Snag& row) { return row.serious; });
        return std::tuple(!card.first().asked, !serious, card.first().step, card.first().rank);
    };
    std::stable_sort(cards.begin(), cards.end(),
                     [&](const SnagCard& a, const SnagCard& b) { return weight(a) < weight(b); });
    return cards;
}

} // namespace cobbleway
