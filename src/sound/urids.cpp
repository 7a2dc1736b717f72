#include "sound/urids.h"

#include <map>
#include <mutex>
#include <string>

namespace cobbleway {
namespace {

struct Table {
    std::mutex lock;
    std::map<std::string, LV2_URID> numbers;
    std::map<LV2_URID, const char*> names; ///< keys of `numbers`, which never move

    static Table& only() {
        static Table table;
        return table;
    }
    LV2_URID number(const char* uri) {
        const std::lock_guard hold(lock);
        const auto [at, fresh] = numbers.emplace(uri, static_cast<LV2_URID>(numbers.size() + 1));
        if (fresh) names[at->second] = at->first.c_str();
        return at->second;
    }
    const char* name(LV2_URID urid) {
        const std::lock_guard hold(lock);
        const auto at = names.find(urid);
        return at == names.end() ? nullptr : at->second;
    }
};

} // namespace

LV2_URID_Map* uridMap() {
    static LV2_URID_Map map{&Table::only(), [](LV2_URID_Map_Handle table, const char* uri) {
                                return static_cast<Table*>(table)->number(uri);
                            }};
    return &map;
}

LV2_URID_Unmap* uridUnmap() {
    static LV2_URID_Unmap unmap{&Table::only(), [](LV2_URID_Unmap_Handle table, LV2_URID urid) {
                                    return static_cast<Table*>(table)->name(urid);
                                }};
    return &unmap;
}

LV2_URID uridOf(const char* uri) { return Table::only().number(uri); }

const char* uriOf(LV2_URID urid) {
    const char* name = Table::only().name(urid);
    return name ? name : "";
}

} // namespace cobbleway
