#include "files/partsheet.h"

#include "files/markup.h"
#include "midi/gm.h"
#include "song/heard/realise.h"
#include "song/match/match.h"
#include "song/match/songkeys.h"
#include "song/model/levels.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <set>

namespace cobbleway {
namespace {

std::string timeText(double seconds) {
    const auto whole = std::llround(seconds);
    char text[32];
    std::snprintf(text, sizeof text, "%lld:%02lld", whole / 60, whole % 60);
    return text;
}

std::string cell(const std::string& text) { return "<td>" + inMarkup(text) + "</td>"; }

/// What was changed on a part, in words; empty for nothing.
std::string changesOf(const Song& song, const Part& part) {
    std::vector<Message> changes;
    if (mixGain(song, part) <= 0) changes.push_back({"sheet.silent"});
    const PartRecipe& recipe = part.recipe;
    const auto moved = [&](const char* id, int semitones) {
        changes.push_back(
            {id, {{"way", std::string(semitones > 0 ? "up" : "down")}, {"semitones", std::abs(semitones)}}});
    };
    if (recipe.octaves) moved("sheet.shifted", 12 * recipe.octaves);
    if (recipe.semitones) moved("sheet.transposed", recipe.semitones);
    if (recipe.folded) changes.push_back({"sheet.folded"});
    if (recipe.velocity != VelocityShape{}) changes.push_back({"sheet.velocities"});
    if (!recipe.controllers.empty()) changes.push_back({"sheet.controllers"});
    if (!recipe.drumMap.empty()) changes.push_back({"sheet.drum-map"});
    if (recipe.hitLength) changes.push_back({"sheet.hits"});
    if (recipe.unisons != Unisons::KeepBoth) changes.push_back({"sheet.overlaps"});
    return changes.empty() ? std::string() : inWords({"sheet.changes", {{"changes", std::move(changes)}}});
}

/// The lowest and the highest key that are heard.
std::string rangeOf(const HeardPart& heard) {
    const auto [lowest, highest] = std::minmax_element(
        heard.notes.begin(), heard.notes.end(), [](const Note& a, const Note& b) { return a.key < b.key; });
    if (lowest == heard.notes.end()) return inWords({"sheet.no-notes"});
    return inWords({"sheet.range", {{"lowest", keyName(lowest->key)}, {"highest", keyName(highest->key)}}});
}

/// All sounds that play the part, in the order in which they are asked for, each once.
std::string soundsOf(const PartMatch& match) {
    std::string names;
    std::set<std::string> told;
    for (const auto* list : {&match.matches, &match.stretches, &match.layers})
        for (const Match& one : *list)
            if (const std::string name = one.sound ? one.sound->name : inWords({"sheet.no-sound"});
                told.insert(name).second)
                names += (names.empty() ? "" : ", ") + name;
    return names;
}

std::string sections(const Song& song) {
    if (song.sections.empty()) return {};
    std::string text = "<h2>Sections</h2>\n<table><tr><th>Section</th><th>Bars</th><th>Time</th></tr>\n";
    for (const Section& section : song.sections) {
        const int first = song.tempo->position(section.start).bar,
                  last = std::max(first, song.tempo->position(section.end - 1).bar);
        text += "<tr>" + cell(section.name) + cell(std::to_string(first) + " to " + std::to_string(last)) +
                cell(timeText(song.tempo->seconds(section.start))) + "</tr>\n";
    }
    return text + "</table>\n";
}

} // namespace

std::string partSheet(const Song& song, const Catalogue& catalogue) {
    std::string text =
        "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>" + inMarkup(song.title) +
        "</title>\n<style>body{font-family:sans-serif;margin:2em}table{border-collapse:collapse}"
        "td,th{border:1px solid #999;padding:4px 8px;text-align:left;vertical-align:top}</style>"
        "</head><body>\n<h1>" +
        inMarkup(song.title) + "</h1>\n<p>";
    std::string keys;
    for (const KeyStretch& stretch : keysBySection(song))
        keys += (keys.empty() ? "" : "; ") + keyText(stretch.key) +
                (keys.empty() ? "" : " from bar " + std::to_string(song.tempo->position(stretch.start).bar));
    const MetreChange& metre = song.tempo->metre(0);
    text +=
        inMarkup((keys.empty() ? "" : keys + " · ") + std::to_string(metre.numerator) + "/" +
                 std::to_string(metre.denominator) + " · " + std::to_string(std::lround(song.tempo->bpm(0))) +
                 " BPM · " + std::to_string(song.bars()) + " bars · " + timeText(song.seconds())) +
        "</p>\n" + sections(song);
    text += "<h2>Parts</h2>\n<table><tr><th>Part</th><th>Range</th><th>Sound</th><th>Why</th><th>Changes</"
            "th></tr>\n";
    const auto matches = matchSong(song, catalogue);
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        text += "<tr>" + cell(part.name) + cell(part.source.drums ? "drums" : rangeOf(realise(song, part))) +
                cell(soundsOf(matches[i])) + cell(inWords(matches[i].first().why)) +
                cell(changesOf(song, part)) + "</tr>\n";
    }
    return text + "</table>\n</body></html>\n";
}

} // namespace cobbleway
