#include "song/shape/pluginfiles.h"

#include <array>
#include <string_view>

namespace cobbleway {
namespace {

constexpr std::string_view scheme = "file://";

int hexDigit(char c) {
    if (c >= '0' && c <= '9') return c - '0';
    if (c >= 'A' && c <= 'F') return c - 'A' + 10;
    return c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
}

/// RFC 3986, section 2.1.
std::string decoded(std::string_view text) {
    std::string bytes;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool coded =
            text[i] == '%' && i + 2 < text.size() && hexDigit(text[i + 1]) >= 0 && hexDigit(text[i + 2]) >= 0;
        bytes += coded ? static_cast<char>(hexDigit(text[i + 1]) * 16 + hexDigit(text[i + 2])) : text[i];
        if (coded) i += 2;
    }
    return bytes;
}

/// A path as a URI: all but unreserved characters and the slash is encoded (RFC 3986, section 2.3).
std::string uriOf(std::string_view path) {
    constexpr std::string_view plain = "-._~/";
    constexpr std::string_view digits = "0123456789ABCDEF";
    std::string uri(scheme);
    for (const char c : path) {
        const auto byte = static_cast<unsigned char>(c);
        const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
        if (letter || plain.find(c) != std::string_view::npos)
            uri += c;
        else
            (uri += '%').append({digits[byte >> 4U], digits[byte & 15U]});
    }
    return uri;
}

/// The state with each URI of a file exchanged for what `take(path)` gives; null: it stays.
template <class Take> std::string eachFile(const std::string& state, Take take) {
    std::string made;
    std::size_t from = 0;
    for (std::size_t at; (at = state.find('<', from)) != std::string::npos;) {
        const std::size_t end = state.find('>', at);
        if (end == std::string::npos) break;
        made.append(state, from, at + 1 - from);
        const std::string_view uri = std::string_view(state).substr(at + 1, end - at - 1);
        const bool isFile = uri.starts_with(scheme) && uri.substr(scheme.size()).starts_with('/');
        const std::string* other = isFile ? take(decoded(uri.substr(scheme.size()))) : nullptr;
        made.append(other ? uriOf(*other) : std::string(uri));
        from = end;
    }
    return made.append(state, from);
}

/// Calls `visit` with the settings of all plug-ins of a part's sound and of effects.
template <class Sound, class Effects, class Visit> void eachOf(Sound& sound, Effects& effects, Visit visit) {
    visit(sound.settings);
    for (auto& layer : sound.layers) visit(layer.settings);
    for (auto& effect : effects) visit(effect.settings);
}

} // namespace

std::set<std::string> pluginFilesOf(const PluginSettings& settings) {
    std::set<std::string> files;
    for (const auto& [parameter, path] : settings.files)
        if (!path.empty()) files.insert(path);
    (void)eachFile(settings.state, [&](const std::string& path) {
        files.insert(path);
        return static_cast<const std::string*>(nullptr);
    });
    return files;
}

std::set<std::string> pluginFilesOf(const Song& song) {
    std::set<std::string> files;
    const auto take = [&](const PluginSettings& settings) { files.merge(pluginFilesOf(settings)); };
    for (const Part& part : song.parts) eachOf(part.sound, part.mix.effects, take);
    for (const Effect& effect : song.effects) take(effect.settings);
    return files;
}

PluginSettings withFilesAt(PluginSettings settings, const std::map<std::string, std::string>& moved) {
    const auto otherOf = [&](const std::string& path) {
        const auto at = moved.find(path);
        return at == moved.end() ? nullptr : &at->second;
    };
    for (auto& [parameter, path] : settings.files)
        if (const std::string* other = otherOf(path)) path = *other;
    settings.state = eachFile(settings.state, otherOf);
    return settings;
}

namespace edits {

Song movePluginFiles(Song song, const std::map<std::string, std::string>& moved) {
    const auto move = [&](PluginSettings& settings) { settings = withFilesAt(std::move(settings), moved); };
    for (Part& part : song.parts) eachOf(part.sound, part.mix.effects, move);
    for (Effect& effect : song.effects) move(effect.settings);
    return song;
}

} // namespace edits
} // namespace cobbleway
