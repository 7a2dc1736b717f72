#include "midi/percussion.h"

#include "midi/gm.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

struct KeyDrum {
    std::uint8_t key = 0;
    std::string_view name;
};
using Drums = std::span<const KeyDrum>;

// What a kit changes in the standard kit of its dialect.

constexpr KeyDrum room[] = {{41, "Room Low Tom 2"}, {43, "Room Low Tom 1"}, {45, "Room Mid Tom 2"},
                            {47, "Room Mid Tom 1"}, {48, "Room Hi Tom 2"},  {50, "Room Hi Tom 1"}};
constexpr KeyDrum power[] = {{36, "Power Kick Drum"}, {38, "Power Snare Drum"}, {41, "Power Low Tom 2"},
                             {43, "Power Low Tom 1"}, {45, "Power Mid Tom 2"},  {47, "Power Mid Tom 1"},
                             {48, "Power Hi Tom 2"},  {50, "Power Hi Tom 1"}};
constexpr KeyDrum electronic[] = {{36, "Electric Bass Drum"}, {38, "Electric Snare 1"},
                                  {40, "Electric Snare 2"},   {41, "Electric Low Tom 2"},
                                  {43, "Electric Low Tom 1"}, {45, "Electric Mid Tom 2"},
                                  {47, "Electric Mid Tom 1"}, {48, "Electric Hi Tom 2"},
                                  {50, "Electric Hi Tom 1"},  {52, "Reverse Cymbal"}};
constexpr KeyDrum analog[] = {
    {36, "Analog Bass Drum"},       {37, "Analog Rim Shot"},        {38, "Analog Snare 1"},
    {41, "Analog Low Tom 2"},       {42, "Analog Closed Hi Hat 1"}, {43, "Analog Low Tom 1"},
    {44, "Analog Closed Hi Hat 2"}, {45, "Analog Mid Tom 2"},       {46, "Analog Open Hi Hat"},
    {47, "Analog Mid Tom 1"},       {48, "Analog Hi Tom 2"},        {49, "Analog Cymbal"},
    {50, "Analog Hi Tom 1"},        {56, "Analog Cowbell"},         {62, "Analog High Conga"},
    {63, "Analog Mid Conga"},       {64, "Analog Low Conga"},       {70, "Analog Maracas"},
    {75, "Analog Claves"}};
constexpr KeyDrum jazz[] = {{35, "Jazz Kick 2"}, {36, "Jazz Kick 1"}};
constexpr KeyDrum brush[] = {
    {35, "Jazz Kick 2"}, {36, "Jazz Kick 1"}, {38, "Brush Tap"}, {39, "Brush Slap"}, {40, "Brush Swirl"}};
constexpr KeyDrum orchestra[] = {{27, "Closed Hi Hat 2"},
                                 {28, "Pedal Hi-Hat"},
                                 {29, "Open Hi-Hat 2"},
                                 {30, "Ride Cymbal 1"},
                                 {35, "Concert Bass Drum 2"},
                                 {36, "Concert Bass Drum 1"},
                                 {38, "Concert Snare Drum"},
                                 {39, "Castanets"},
                                 {40, "Concert Snare Drum"},
                                 {41, "Timpani F"},
                                 {42, "Timpani F#"},
                                 {43, "Timpani G"},
                                 {44, "Timpani G#"},
                                 {45, "Timpani A"},
                                 {46, "Timpani A#"},
                                 {47, "Timpani B"},
                                 {48, "Timpani C"},
                                 {49, "Timpani C#"},
                                 {50, "Timpani D"},
                                 {51, "Timpani D#"},
                                 {52, "Timpani E"},
                                 {53, "Timpani F, high"},
                                 {57, "Concert Cymbal 2"},
                                 {59, "Concert Cymbal 1"},
                                 {88, "Applause"}};
constexpr KeyDrum effectsGm2[] = {{39, "High Q"},
                                  {40, "Slap"},
                                  {41, "Scratch Push"},
                                  {42, "Scratch Pull"},
                                  {43, "Sticks"},
                                  {44, "Square Click"},
                                  {45, "Metronome Click"},
                                  {46, "Metronome Bell"},
                                  {47, "Guitar Fret Noise"},
                                  {48, "Guitar Cutting Noise Up"},
                                  {49, "Guitar Cutting Noise Down"},
                                  {50, "String Slap of Double Bass"},
                                  {51, "Flute Key Click"},
                                  {52, "Laughing"},
                                  {53, "Screaming"},
                                  {54, "Punch"},
                                  {55, "Heart Beat"},
                                  {56, "Footsteps 1"},
                                  {57, "Footsteps 2"},
                                  {58, "Applause"},
                                  {59, "Door Creaking"},
                                  {60, "Door Closing"},
                                  {61, "Scratch"},
                                  {62, "Wind Chimes"},
                                  {63, "Car Engine Start"},
                                  {64, "Car Braking"},
                                  {65, "Car Passing"},
                                  {66, "Car Crash"},
                                  {67, "Police Siren"},
                                  {68, "Train"},
                                  {69, "Jet Take-off"},
                                  {70, "Starship"},
                                  {71, "Gun Shot"},
                                  {72, "Machine Gun"},
                                  {73, "Laser Gun"},
                                  {74, "Explosion"},
                                  {75, "Dog Bark"},
                                  {76, "Horse Gallop"},
                                  {77, "Birds"},
                                  {78, "Rain"},
                                  {79, "Thunder"},
                                  {80, "Wind"},
                                  {81, "Seashore"},
                                  {82, "Stream"},
                                  {83, "Bubble"},
                                  {84, "Helicopter"}};
constexpr KeyDrum gsStandard[] = {{25, "Snare Roll"}, {26, "Finger Snap"}};

constexpr KeyDrum xgStandard[] = {{13, "Surdo Mute"},
                                  {14, "Surdo Open"},
                                  {15, "Hi Q"},
                                  {16, "Whip Slap"},
                                  {17, "Scratch Push"},
                                  {18, "Scratch Pull"},
                                  {19, "Finger Snap"},
                                  {20, "Click Noise"},
                                  {21, "Metronome Click"},
                                  {22, "Metronome Bell"},
                                  {23, "Seq Click Low"},
                                  {24, "Seq Click High"},
                                  {25, "Brush Tap"},
                                  {26, "Brush Swirl Low"},
                                  {27, "Brush Slap"},
                                  {28, "Brush Swirl High"},
                                  {29, "Snare Roll"},
                                  {30, "Castanet"},
                                  {31, "Snare Low"},
                                  {32, "Sticks"},
                                  {33, "Bass Drum Low"},
                                  {34, "Open Rim Shot"},
                                  {35, "Bass Drum Mid"},
                                  {36, "Bass Drum High"},
                                  {37, "Side Stick"},
                                  {38, "Snare Mid"},
                                  {39, "Hand Clap"},
                                  {40, "Snare High"},
                                  {41, "Floor Tom Low"},
                                  {42, "Hi-Hat Closed"},
                                  {43, "Floor Tom High"},
                                  {44, "Hi-Hat Pedal"},
                                  {45, "Low Tom"},
                                  {46, "Hi-Hat Open"},
                                  {47, "Mid Tom Low"},
                                  {48, "Mid Tom High"},
                                  {49, "Crash Cymbal 1"},
                                  {50, "High Tom"},
                                  {51, "Ride Cymbal 1"},
                                  {52, "Chinese Cymbal"},
                                  {53, "Ride Cymbal Cup"},
                                  {54, "Tambourine"},
                                  {55, "Splash Cymbal"},
                                  {56, "Cowbell"},
                                  {57, "Crash Cymbal 2"},
                                  {58, "Vibraslap"},
                                  {59, "Ride Cymbal 2"},
                                  {60, "Bongo High"},
                                  {61, "Bongo Low"},
                                  {62, "Conga High Mute"},
                                  {63, "Conga High Open"},
                                  {64, "Conga Low"},
                                  {65, "Timbale High"},
                                  {66, "Timbale Low"},
                                  {67, "Agogo High"},
                                  {68, "Agogo Low"},
                                  {69, "Cabasa"},
                                  {70, "Maracas"},
                                  {71, "Samba Whistle High"},
                                  {72, "Samba Whistle Low"},
                                  {73, "Guiro Short"},
                                  {74, "Guiro Long"},
                                  {75, "Claves"},
                                  {76, "Wood Block High"},
                                  {77, "Wood Block Low"},
                                  {78, "Cuica Mute"},
                                  {79, "Cuica Open"},
                                  {80, "Triangle Mute"},
                                  {81, "Triangle Open"},
                                  {82, "Shaker"},
                                  {83, "Jingle Bells"},
                                  {84, "Bell Tree"}};
constexpr KeyDrum xgRoom[] = {{41, "Room Tom 1"}, {43, "Room Tom 2"}, {45, "Room Tom 3"},
                              {47, "Room Tom 4"}, {48, "Room Tom 5"}, {50, "Room Tom 6"}};
constexpr KeyDrum xgRock[] = {{31, "Rock Snare Low"}, {33, "Bass Drum Mid"}, {35, "Bass Drum High 3"},
                              {36, "Rock Bass Drum"}, {38, "Rock Snare"},    {40, "Rock Snare Rim"},
                              {41, "Rock Tom 1"},     {43, "Rock Tom 2"},    {45, "Rock Tom 3"},
                              {47, "Rock Tom 4"},     {48, "Rock Tom 5"},    {50, "Rock Tom 6"}};
constexpr KeyDrum xgElectro[] = {
    {28, "Reverse Cymbal"}, {30, "Hi Q"},           {31, "Snare Mid"},      {33, "Bass Drum High 4"},
    {35, "Rock Bass Drum"}, {36, "Bass Drum Gate"}, {38, "Rock Snare Low"}, {40, "Rock Snare High"},
    {41, "Electro Tom 1"},  {43, "Electro Tom 2"},  {45, "Electro Tom 3"},  {47, "Electro Tom 4"},
    {48, "Electro Tom 5"},  {50, "Electro Tom 6"}};
constexpr KeyDrum xgAnalog[] = {{28, "Reverse Cymbal"},        {30, "Hi Q"},
                                {33, "Bass Drum High 4"},      {35, "Analog Bass Drum Low"},
                                {36, "Analog Bass Drum High"}, {37, "Analog Side Stick"},
                                {38, "Analog Snare Low"},      {40, "Analog Snare High"},
                                {41, "Analog Tom 1"},          {42, "Analog Hi-Hat Closed 1"},
                                {43, "Analog Tom 2"},          {44, "Analog Hi-Hat Closed 2"},
                                {45, "Analog Tom 3"},          {46, "Analog Hi-Hat Open"},
                                {47, "Analog Tom 4"},          {48, "Analog Tom 5"},
                                {49, "Analog Cymbal"},         {50, "Analog Tom 6"},
                                {56, "Analog Cowbell"},        {62, "Analog Conga High"},
                                {63, "Analog Conga Mid"},      {64, "Analog Conga Low"},
                                {70, "Analog Maracas"},        {75, "Analog Claves"}};
constexpr KeyDrum xgJazz[] = {{41, "Jazz Tom 1"}, {43, "Jazz Tom 2"}, {45, "Jazz Tom 3"},
                              {47, "Jazz Tom 4"}, {48, "Jazz Tom 5"}, {50, "Jazz Tom 6"}};
constexpr KeyDrum xgBrush[] = {{31, "Brush Slap Low"}, {36, "Bass Drum Soft"}, {38, "Brush Slap"},
                               {40, "Brush Tap"},      {41, "Brush Tom 1"},    {43, "Brush Tom 2"},
                               {45, "Brush Tom 3"},    {47, "Brush Tom 4"},    {48, "Brush Tom 5"},
                               {50, "Brush Tom 6"}};
constexpr KeyDrum xgClassic[] = {{33, "Bass Drum Low 2"},
                                 {35, "Gran Cassa"},
                                 {36, "Gran Cassa Mute"},
                                 {38, "Marching Snare"},
                                 {40, "Marching Snare High"},
                                 {41, "Jazz Tom 1"},
                                 {43, "Jazz Tom 2"},
                                 {45, "Jazz Tom 3"},
                                 {47, "Jazz Tom 4"},
                                 {48, "Jazz Tom 5"},
                                 {49, "Hand Cymbal Low"},
                                 {50, "Jazz Tom 6"},
                                 {51, "Hand Cymbal Low, short"},
                                 {57, "Hand Cymbal High"},
                                 {59, "Hand Cymbal High, short"}};
constexpr KeyDrum xgEffects1[] = {{36, "Guitar Cutting Noise 1"},
                                  {37, "Guitar Cutting Noise 2"},
                                  {39, "String Slap"},
                                  {52, "Flute Key Click"},
                                  {68, "Shower"},
                                  {69, "Thunder"},
                                  {70, "Wind"},
                                  {71, "Stream"},
                                  {72, "Bubble"},
                                  {73, "Feed"},
                                  {84, "Dog"},
                                  {85, "Horse Gallop"},
                                  {86, "Bird"},
                                  {90, "Ghost"},
                                  {91, "Maou"}};
constexpr KeyDrum xgEffects2[] = {
    {36, "Telephone Dial"}, {37, "Door Creaking"}, {38, "Door Slam"}, {39, "Scratch"},
    {40, "Scratch 2"},      {41, "Wind Chime"},    {42, "Telephone"}, {52, "Engine Start"},
    {53, "Tire Screech"},   {54, "Car Passing"},   {55, "Car Crash"}, {56, "Siren"},
    {57, "Train"},          {58, "Jet Plane"},     {59, "Starship"},  {60, "Burst Noise"},
    {61, "Coaster"},        {62, "Submarine"},     {68, "Laughing"},  {69, "Screaming"},
    {70, "Punch"},          {71, "Heartbeat"},     {72, "Footsteps"}, {84, "Machine Gun"},
    {85, "Laser Gun"},      {86, "Explosion"},     {87, "Firework"}};

/// A kit with where its names come from: first its own, then its dialect's standard kit.
struct Map {
    PercussionKit kit;
    Drums own;
    bool alone = false; ///< nothing is taken from the standard kit
};

constexpr Map maps[] = {
    {{Dialect::GM, 0, false, "Standard kit"}, {}},
    {{Dialect::GM2, 0, false, "Standard kit"}, {}},
    {{Dialect::GM2, 8, false, "Room kit"}, room},
    {{Dialect::GM2, 16, false, "Power kit"}, power},
    {{Dialect::GM2, 24, false, "Electronic kit"}, electronic},
    {{Dialect::GM2, 25, false, "Analog kit"}, analog},
    {{Dialect::GM2, 32, false, "Jazz kit"}, jazz},
    {{Dialect::GM2, 40, false, "Brush kit"}, brush},
    {{Dialect::GM2, 48, false, "Orchestra kit"}, orchestra},
    {{Dialect::GM2, 56, false, "SFX kit"}, effectsGm2, true},
    {{Dialect::GS, 0, false, "Standard kit"}, {}},
    {{Dialect::GS, 8, false, "Room kit"}, room},
    {{Dialect::GS, 16, false, "Power kit"}, power},
    {{Dialect::GS, 24, false, "Electronic kit"}, electronic},
    {{Dialect::GS, 25, false, "Analog kit"}, analog},
    {{Dialect::GS, 32, false, "Jazz kit"}, jazz},
    {{Dialect::GS, 40, false, "Brush kit"}, brush},
    {{Dialect::GS, 48, false, "Orchestra kit"}, orchestra},
    {{Dialect::GS, 56, false, "SFX kit"}, effectsGm2, true},
    {{Dialect::XG, 0, false, "Standard kit"}, {}},
    {{Dialect::XG, 1, false, "Standard kit 2"}, {}},
    {{Dialect::XG, 8, false, "Room kit"}, xgRoom},
    {{Dialect::XG, 16, false, "Rock kit"}, xgRock},
    {{Dialect::XG, 24, false, "Electro kit"}, xgElectro},
    {{Dialect::XG, 25, false, "Analog kit"}, xgAnalog},
    {{Dialect::XG, 32, false, "Jazz kit"}, xgJazz},
    {{Dialect::XG, 40, false, "Brush kit"}, xgBrush},
    {{Dialect::XG, 48, false, "Classic kit"}, xgClassic},
    {{Dialect::XG, 0, true, "SFX kit 1"}, xgEffects1, true},
    {{Dialect::XG, 1, true, "SFX kit 2"}, xgEffects2, true},
};

std::string_view in(Drums drums, Key key) {
    const auto at =
        std::find_if(drums.begin(), drums.end(), [&](const KeyDrum& d) { return d.key == key.value; });
    return at == drums.end() ? std::string_view{} : at->name;
}

std::string_view inStandard(Dialect dialect, Key key) {
    if (dialect == Dialect::XG) return in(xgStandard, key);
    if (dialect == Dialect::GM)
        return key.value >= 35 && key.value <= 81 ? drumName(key) : std::string_view{};
    if (const auto name = in(gsStandard, key); dialect == Dialect::GS && !name.empty()) return name;
    return drumName(key);
}

const Map* mapOf(Dialect dialect, int program, bool effects) {
    const auto at = std::find_if(std::begin(maps), std::end(maps), [&](const Map& map) {
        return map.kit.dialect == dialect && map.kit.program == program && map.kit.effects == effects;
    });
    return at == std::end(maps) ? nullptr : &*at;
}

} // namespace

std::span<const PercussionKit> percussionKits() {
    static const auto kits = [] {
        std::array<PercussionKit, std::size(maps)> all;
        for (std::size_t i = 0; i < all.size(); ++i) all[i] = maps[i].kit;
        return all;
    }();
    return kits;
}

const PercussionKit& percussionKit(Dialect dialect, Program program, bool effects) {
    if (dialect == Dialect::None) dialect = Dialect::GM2;
    effects = effects && dialect == Dialect::XG;
    for (const int number : {int{program.value}, program.value / 8 * 8, 0})
        if (const Map* map = mapOf(dialect, number, effects)) return map->kit;
    return maps[0].kit;
}

std::string_view drumName(const PercussionKit& kit, Key key) {
    const Map* map = mapOf(kit.dialect, kit.program, kit.effects);
    if (!map) return {};
    const auto own = in(map->own, key);
    return !own.empty() || map->alone ? own : inStandard(kit.dialect, key);
}

int exclusiveGroup(Key key) {
    switch (key.value) {
    case 42:
    case 44:
    case 46: return 1;
    case 71:
    case 72: return 2;
    case 73:
    case 74: return 3;
    case 78:
    case 79: return 4;
    case 80:
    case 81: return 5;
    case 29:
    case 30: return 6;
    case 86:
    case 87: return 7;
    default: return 0;
    }
}

} // namespace cobbleway
