#include "files/partsheet.h"

#include "midi/gm.h"
#include "song/heard/facts.h"
#include "song/match/keycheck.h"
#include "song/match/match.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace cobbleway {
namespace {

std::string escaped(const std::string& text) {
    std::string safe;
    for (const char c : text) {
        if (c == '&')
            safe += "&amp;";
        else if (c == '<')
            safe += "&lt;";
        else if (c == '>')
            safe += "&gt;";
        else if (c == '"')
            safe += "&quot;";
        else
            safe += c;
    }
    return safe;
}

std::string timeText(double seconds) {
    const auto whole = std::llround(seconds);
    char text[32];
    std::snprintf(text, sizeof text, "%lld:%02lld", whole / 60, whole % 60);
    return text;
}

std::string cell(const std::string& text) { return "<td>" + escaped(text) + "</td>"; }

std::string semitones(int count) {
    return std::to_string(std::abs(count)) + (std::abs(count) == 1 ? " semitone " : " semitones ") +
           (count > 0 ? "up" : "down");
}

/// What was changed on a part, in words; empty for nothing.
std::string changesOf(const Part& part) {
    std::string text;
    const auto say = [&](const std::string& what) { text += (text.empty() ? "" : "; ") + what; };
    const PartRecipe& recipe = part.recipe;
    if (recipe.octaves) say("shifted " + semitones(12 * recipe.octaves));
    if (recipe.semitones) say("transposed " + semitones(recipe.semitones));
    if (recipe.folded) say("single notes moved by octaves into range");
    if (recipe.velocity != VelocityShape{}) say("velocities shaped");
    if (!recipe.controllers.empty()) say("controllers thinned or left out");
    if (!recipe.drumMap.empty()) say("drum notes mapped anew");
    if (recipe.hitLength) say("hits made equally long");
    if (recipe.unisons != Unisons::KeepBoth) say("overlapping notes cleaned");
    return text;
}

std::string rangeOf(const PartFacts& facts) {
    if (facts.notes == 0) return "no notes";
    return keyName(facts.lowest) + " to " + keyName(facts.highest);
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
        "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>" + escaped(song.title) +
        "</title>\n<style>body{font-family:sans-serif;margin:2em}table{border-collapse:collapse}"
        "td,th{border:1px solid #999;padding:4px 8px;text-align:left;vertical-align:top}</style>"
        "</head><body>\n<h1>" +
        escaped(song.title) + "</h1>\n<p>";
    std::string keys;
    for (const KeyStretch& stretch : keysBySection(song))
        keys += (keys.empty() ? "" : "; ") + keyText(stretch.key) +
                (keys.empty() ? "" : " from bar " + std::to_string(song.tempo->position(stretch.start).bar));
    const MetreChange& metre = song.tempo->metre(0);
    text +=
        escaped((keys.empty() ? "" : keys + " · ") + std::to_string(metre.numerator) + "/" +
                std::to_string(metre.denominator) + " · " + std::to_string(std::lround(song.tempo->bpm(0))) +
                " BPM · " + std::to_string(song.bars()) + " bars · " + timeText(song.seconds())) +
        "</p>\n" + sections(song);
    text += "<h2>Parts</h2>\n<table><tr><th>Part</th><th>Range</th><th>Sound</th><th>Why</th><th>Changes</"
            "th></tr>\n";
    const auto matches = matchSong(song, catalogue);
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        const Match& match = matches[i].first();
        text += "<tr>" + cell(part.name) +
                cell(part.source.drums ? "drums" : rangeOf(factsOf(song, part.source))) +
                cell(match.sound ? match.sound->name : "nothing") + cell(inWords(match.why)) +
                cell(changesOf(part)) + "</tr>\n";
    }
    return text + "</table>\n</body></html>\n";
}

} // namespace cobbleway
