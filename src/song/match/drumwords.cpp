#include "song/match/drumwords.h"

#include "song/model/plainwords.h"

#include <algorithm>
#include <cctype>
#include <map>
#include <set>
#include <string_view>
#include <vector>

namespace cobbleway {
namespace {

enum class Drum {
    None,
    Kick,
    Snare,
    SideStick,
    Clap,
    Brush,
    Hat,
    Tom,
    Crash,
    Ride,
    China,
    Splash,
    Cymbal,
    Tambourine,
    Cowbell,
    Vibraslap,
    Bongo,
    Conga,
    Timbale,
    Agogo,
    Cabasa,
    Maracas,
    Whistle,
    Guiro,
    Claves,
    WoodBlock,
    Cuica,
    Triangle,
    Shaker,
    Bells,
    BellTree,
    Castanets,
    Surdo,
    Sticks,
    Click,
    Scratch,
    HighQ,
    Slap
};

/// What the other words of a name add.
enum Mark : unsigned {
    Closed = 1U << 0,
    Open = 1U << 1,
    Half = 1U << 2,
    Pedal = 1U << 3,
    High = 1U << 4,
    Mid = 1U << 5,
    Low = 1U << 6,
    Floor = 1U << 7,
    Bell = 1U << 8,
    Mute = 1U << 9,
    Electric = 1U << 10,
    Acoustic = 1U << 11,
    Brief = 1U << 12,
    Lengthy = 1U << 13,
    Rim = 1U << 14,
    Special = 1U << 15,
    Tap = 1U << 16,
    Swirl = 1U << 17,
    Push = 1U << 18,
    Pull = 1U << 19,
    Square = 1U << 20,
    Neutral = 1U << 21, ///< a word that says nothing here
    Weak = 1U << 22,    ///< a drum's word that also is an everyday one
    SlapMark = 1U << 23
};

struct Entry {
    std::string_view words; ///< in small ASCII letters as plainWords() gives them, commas between
    Drum drum = Drum::None;
    unsigned marks = 0;
};

constexpr Entry entries[] = {
    {"kick,kick drum,kickdrum,kik,kck,bd,bassdrum,bass drum,bass dr,bdrum,b drum,base drum,bass drums,"
     "grosse caisse,gr caisse,gc,grosse trommel,gr trommel,gr tr,basstrommel,bass trommel,gran "
     "cassa,grancassa,"
     "cassa,bombo,bumbo,stortromme,stor tromme,stortrumma,bastrumma,baskagge,grote trom,bassorumpu,basari,"
     "wielki beben,beben wielki,beben basowy,stopa,velky buben,kopak,labdob,nagydob,bochka,bolshoj "
     "baraban,bas davul,"
     "bas drum,kicks,kd,tambor grande,bas tromme",
     Drum::Kick},
    {"snare,sn,snr,sd,snare drum,snaredrum,snares,snare dr,side drum,sidedrum,caisse claire,c claire,kleine "
     "trommel,"
     "kl trommel,kl tr,klein trommel,rullante,tamburo rullante,tamburo,tamburo "
     "militare,caixa,caja,redoblante,tarola,"
     "lilletromme,lille tromme,skarptromme,virvel,virveltrumma,virvelirumpu,pikkurumpu,virveli,werbel,maly "
     "beben,"
     "maly buben,rytmicky buben,pergodob,kisdob,kleine trom,roffel,malyj baraban,malyj,rabochij,rabochij "
     "baraban,trampet,"
     "marching snare,concert snare,snare mid,wirbeltrommel",
     Drum::Snare},
    {"side stick,sidestick,cross stick,crossstick,x stick,xstick,rim click,rimclick,rim shot,rimshot,rim,"
     "rimshots,snare rim,cerclage,bordo,aro,baguette croisee,kantslag,stick shot,sd rim,sidestk,side "
     "stk,sstick",
     Drum::SideStick},
    {"clap,claps,clp,hcp,hclap,hand clap,handclap,hand "
     "claps,handclaps,handeklatschen,klatschen,klatsch,palmas,"
     "palmada,palmadas,claquement de mains,battito di "
     "mani,battimani,tapsmani,handklap,handklapp,taputus,klaskanie,"
     "tlesknuti,taps,hlopok",
     Drum::Clap},
    {"brush,besen,balai,balais,escobilla,escobillas,spazzole,vassourinha", Drum::Brush},
    {"hat,hats,hh,hihat,hihats,hi hat,hi hats,high hat,highhat,high hats,hh cymbal,hi "
     "ht,hht,charley,charleston,charles,"
     "charlie hat,chimbal,contratempo,hihatka,hajhet,haj het,haj hat,labcin,hajtka,hi "
     "hatka,charlestonmaschine",
     Drum::Hat},
    {"chh,hhc,hhcl,clhh,closedhat,chat", Drum::Hat, Closed},
    {"ohh,hho,hhop,ophh,openhat,ohat", Drum::Hat, Open},
    {"phh,hhp,fhh,hhf,hhped,pedalhat,foothat", Drum::Hat, Pedal},
    {"hhh,hhho", Drum::Hat, Half},
    {"tom,toms,tomtom,tom tom,tomtoms,tom toms,tamtom,tomi", Drum::Tom},
    {"standtom,stehtom,floortom,floor tom,floor,tom basse,basse "
     "tom,gulvtam,gulvtom,golvtom,golvpuka,lattiatomi,"
     "tom de piso,tom base,tom de chao,stand tom,timpano tom,floor toms,flr tom,fl tom,ft,kociol floor",
     Drum::Tom, Floor},
    {"racktom,rack tom,hangetom,hange tom,hangtom,rack", Drum::Tom},
    {"crash,crashes,crsh,crash cymbal,crash cym,crashbecken,crash becken,cr cym,crashcymbal,kresh,cymbale "
     "crash,"
     "piatto crash,platillo crash,prato crash,talerz crash,crash bekken,crash cy",
     Drum::Crash},
    {"ride,rd,rde,ride cymbal,ride cym,ridebecken,ride becken,ridecymbal,cymbale ride,piatto ride,platillo "
     "ride,"
     "prato ride,talerz ride,rajd,prato de conducao,conducao,rc,ride cy,ride edge,ride tip,ride bow",
     Drum::Ride},
    {"ridebell,rb", Drum::Ride, Bell},
    {"china,chinese,chinese cymbal,china cymbal,china cym,chinabecken,china becken,chinacymbal,chn,chinese "
     "cym,"
     "cymbale chinoise,piatto cinese,platillo chino,prato chines",
     Drum::China},
    {"splash,splash cymbal,splash cym,splsh,splashbecken,splash becken,splashcymbal,spl,splash cy",
     Drum::Splash},
    {"cymbal,cymbals,cym,cymb,cy,becken,cymbale,cymbales,piatto,piatti,platillo,platillos,plato,platos,prato,"
     "pratos,"
     "bekken,bekkens,baekken,talerz,cinel,cintanyer,symbaali,zil,tarelka,tallrik",
     Drum::Cymbal},
    {"reverse cymbal,rev cymbal,sizzle,sizzle cymbal", Drum::Cymbal},
    {"tambourine,tamb,tamburin,tambourin,pandereta,pandeiro,schellenkranz,schellentrommel,tambour de basque,"
     "tamburello,tamburino,tmb,tambo,tamborin,tamburyn,tamburina,buben",
     Drum::Tambourine},
    {"cowbell,cow bell,kuhglocke,cencerro,cloche a vache,cloche de "
     "vache,campanaccio,koklocka,kobjelde,kubjelle,"
     "koebel,cb,cwbl,lehmankello,krowi dzwonek,kravsky zvonec,cowbl",
     Drum::Cowbell},
    {"vibraslap,vibra slap,vibraslp,quijada,vbslp", Drum::Vibraslap},
    {"bongo,bongos,bng", Drum::Bongo},
    {"conga,congas,tumbadora,tumba,cng,cga", Drum::Conga},
    {"quinto", Drum::Conga, High},
    {"timbale,timbales,timb,tmbl", Drum::Timbale},
    {"agogo,agogos,agogo bell,agogo bells,agg", Drum::Agogo},
    {"cabasa,cabassa,afuche,afoxe,cabaza,cab", Drum::Cabasa},
    {"maracas,maraca,rumbakugeln,rumbakugel,rumbanuss,mrcs,marac,marakas", Drum::Maracas},
    {"whistle,samba "
     "whistle,pfeife,trillerpfeife,sifflet,apito,silbato,fischietto,pilli,whstl,fluit,visselpipa,"
     "signalpfeife,svistok,gwizdek",
     Drum::Whistle},
    {"guiro,gurke,guero,reco reco,reco,rascador,raspador", Drum::Guiro},
    {"claves,clave,klangholzer,klangholz,klaves,clvs", Drum::Claves},
    {"woodblock,wood block,wood blocks,woodblocks,holzblock,wood blk,woodblk,wb,wdblk,caja china,bloc de "
     "bois,wood bloc,"
     "blocchetto di legno,blocchetto,traeblok,traklots,tempelblock,temple block,temple "
     "blocks,templeblock,holzblocktrommel",
     Drum::WoodBlock},
    {"cuica,quica,cuika", Drum::Cuica},
    {"triangle,triangel,triangolo,triangulo,trgl,tri,triang,trojkat,treugolnik,trojuhelnik,triangeli",
     Drum::Triangle},
    {"shaker,shakers,shk,shkr,ganza,chocalho,schuttelrohr,schuttler,sheker,egg shaker,shake", Drum::Shaker},
    {"jingle bell,jingle bells,jinglebell,jinglebells,jingles,jingle,sleigh bell,sleigh "
     "bells,sleighbell,sleighbells,"
     "schellen,grelots,sonagli,cascabeles,guizos,schlittenschellen,bjallror",
     Drum::Bells},
    {"belltree,bell tree,mark tree,marktree,wind chime,wind chimes,windchime,windchimes,windspiel,bar "
     "chimes,barchimes",
     Drum::BellTree},
    {"castanets,castanet,castanetes,kastagnetten,castagnettes,castanuelas,nacchere,castanholas,kastanjetter,"
     "kastaniety,"
     "castagnette",
     Drum::Castanets},
    {"surdo,surdu,surdos", Drum::Surdo},
    {"sticks,stick,drum sticks,drumsticks,drumstick,stix,stick click,sticks "
     "click,baguettes,bacchette,baquetas,stocke",
     Drum::Sticks},
    {"metronome,metronom,metro,metronome click,click,klick,metronomo,metronoom", Drum::Click},
    {"metronome bell,metro bell,metronom glocke,click bell", Drum::Click, Bell},
    {"square click,sq click", Drum::Click, Square},
    {"scratch,scr,scratches", Drum::Scratch},
    {"high q,hi q,hiq,highq", Drum::HighQ},
    {"slap", Drum::Slap},
    // marks
    {"closed,close,cl,clsd,cls,clo,clos,ferme,fermee,geschlossen,geschl,gschl,zu,chiuso,chiusa,cerrado,"
     "cerrada,"
     "fechado,lukket,stangd,suljettu,zamkniety,zavrena,zavreny,zart,zakrytyj,gesloten,dicht,kapali,tight,"
     "tite,shut",
     Drum::None, Closed},
    {"open,op,opn,opened,ouvert,ouverte,offen,aperto,aperta,abierto,abierta,aberto,apen,aben,oppen,avoin,"
     "otwarty,"
     "otevreny,otevrena,nyitott,otkrytyj,acik",
     Drum::None, Open},
    {"half,halb,semi,demi,halv,loose,halfopen,half open,halb offen,halboffen,semi open,semi "
     "aperto,semiaperto,semiabierto,"
     "semi abierto,demi ouvert,demi ouverte,mi ouvert,mi "
     "ouverte,entreouvert,entreouverte,slosh,sloshy,poluotkrytyj,"
     "polotwarty,halbgeoffnet,half closed,quarter open,hlf,semiaberto,meio aberto",
     Drum::None, Half},
    {"pedal,ped,foot,fuss,pied,au pied,piede,pie,getreten,fod,fot,pedale,pedl,pdl,con "
     "pedale,noga,nozni,splash foot,step",
     Drum::None, Pedal},
    {"high,hi,hoch,hohe,hohes,hoher,haut,haute,aigu,aigue,agudo,aguda,hog,hoy,wysoki,vysoky,magas,upper,hoog,"
     "acuto,"
     "acuta,highest,alto,alta,top,vysokij",
     Drum::None, High},
    {"mid,medium,med,mittel,mittleres,mittlere,moyen,moyenne,medio,media,mellan,sredni,stredni,kozep,middle,"
     "midden,md,"
     "meio,srednij",
     Drum::None, Mid},
    {"low,lo,tief,tiefe,tiefes,tiefer,grave,lag,lav,dyb,niski,nizky,mely,laag,deep,lower,lowest,bajo,baja,"
     "basso,bassa,"
     "baixo,nizkij,bas,dybe",
     Drum::None, Low},
    {"bell,cup,dome,kuppel,glocke,campana,cloche,cupola,kopula,kello,klocka,dzwonek,bel,kalotte", Drum::None,
     Bell},
    {"mute,muted,mut,gedampft,etouffe,etouffee,stopped,slap mute,damped,sordo,apagado,abafado,close mute,mt",
     Drum::None, Mute},
    {"electric,elec,electro,electronic,elektrisch,elektro,electrique,elettrico,electrico,elektryczny,synth,"
     "synthetic,el,"
     "elektronisch",
     Drum::None, Electric},
    {"acoustic,ac,acou,akustisch,akustik,acoustique,acustico", Drum::None, Acoustic},
    {"short,kurz,court,corto,corta,curto,kort,krotki,sh", Drum::None, Brief},
    {"long,lang,longo,lungo,lunga,largo,larga,dlugi,lng", Drum::None, Lengthy},
    {"roll,wirbel,roulement,rullo,redoble,flam,drag,ruff,buzz,ghost,press,choke,choked,reverse,rev,swell",
     Drum::None, Special},
    {"tap,taps brush", Drum::None, Tap},
    {"swirl,sweep,stir,rub,swish", Drum::None, Swirl},
    {"push", Drum::None, Push},
    {"pull", Drum::None, Pull},
    {"slap brush", Drum::None, SlapMark},
    {"drum,drums,dr,drm,drumkit,kit,set,trommel,the,a,of,de,du,la,le,il,el "
     "tom,und,with,on,hit,hits,hard,soft,loud,quiet,"
     "left,right,l,r,lt,rt,lh,rh,hand,main,std,standard,gm,gs,xg,studio,room,power,rock,jazz,live,dry,wet,"
     "edge,tip,bow,"
     "center,centre,shank,head,normal,natural,real,big,small,analog,analogue,analogic,concert,dance,house,"
     "percussion,perc,"
     "percussao,percusion,latin,sample,wav,mono,stereo,note,key,no,nr,num,bateria,batterie,batteria,"
     "schlagzeug,var,alt,"
     "vel,layer,ms,brazil,samba,deep house,techno,tr",
     Drum::None, Neutral},
};

// Everyday words and abbreviations: with other words beside them that nobody knows they may mean anything.
constexpr std::string_view weakWords[] = {
    "kick",  "kicks",   "tom",      "toms",       "crash",    "ride",   "china",  "splash", "clap",  "claps",
    "hat",   "hats",    "rim",      "stick",      "sticks",   "brush",  "slap",   "click",  "chat",  "plato",
    "prato", "rack",    "floor",    "sd",         "bd",       "gc",     "cb",     "sn",     "rc",    "rd",
    "rb",    "ft",      "spl",      "cab",        "tri",      "wb",     "aro",    "caja",   "cassa", "bordo",
    "malyj", "chinese", "whistle",  "scratch",    "taps",     "shake",  "clave",  "stopa",  "reco",  "metro",
    "timb",  "cymbal",  "triangle", "jingle",     "jingles",  "besen",  "virvel", "cy",     "tumba", "kd",
    "zil",   "tamburo", "charles",  "charleston", "rascador", "quinto", "tomi",   "stix"};

struct Said {
    Drum drum = Drum::None;
    unsigned marks = 0;
};

const std::map<std::string, Said, std::less<>>& dictionary() {
    static const auto words = [] {
        std::map<std::string, Said, std::less<>> all;
        for (const Entry& entry : entries)
            for (std::size_t at = 0; at < entry.words.size();) {
                const std::size_t end = std::min(entry.words.find(',', at), entry.words.size());
                all.try_emplace(std::string(entry.words.substr(at, end - at)), Said{entry.drum, entry.marks});
                at = end + 1;
            }
        for (const std::string_view word : weakWords)
            if (const auto at = all.find(word); at != all.end()) at->second.marks |= Weak;
        return all;
    }();
    return words;
}

bool isNumber(const std::string& word) { return std::isdigit(static_cast<unsigned char>(word[0])) != 0; }

/// All that a name says.
struct Reading {
    std::vector<Drum> drums; ///< each once
    unsigned marks = 0;
    int number = 0;   ///< the first small number; 0 for none
    int unknown = 0;  ///< words that nobody knows
    bool weak = true; ///< all drums' words are everyday ones
};

Reading readingOf(const std::vector<std::string>& words) {
    Reading reading;
    const auto& known = dictionary();
    for (std::size_t i = 0; i < words.size();) {
        if (isNumber(words[i])) {
            if (reading.number == 0 && words[i].size() <= 2) reading.number = std::stoi(words[i]);
            ++i;
            continue;
        }
        const Said* said = nullptr;
        std::size_t taken = 1;
        for (std::size_t count = std::min<std::size_t>(3, words.size() - i); count > 0 && !said; --count) {
            std::string phrase = words[i];
            for (std::size_t k = 1; k < count; ++k) phrase += " " + words[i + k];
            if (const auto at = known.find(phrase); at != known.end()) {
                said = &at->second;
                taken = count;
            }
        }
        i += taken;
        if (!said) {
            // A letter alone is a mark of a layer or a side, but for those of hats: HH-C, HH-O, HH-P.
            const std::string& word = words[i - 1];
            const bool hat = !reading.drums.empty() && reading.drums.back() == Drum::Hat;
            if (hat && word == "c")
                reading.marks |= Closed;
            else if (hat && word == "o")
                reading.marks |= Open;
            else if (hat && (word == "p" || word == "f"))
                reading.marks |= Pedal;
            else if (word == "h")
                reading.marks |= High;
            else if (word == "m")
                reading.marks |= Mid;
            else if (word == "e")
                reading.marks |= Electric;
            else if (word.size() > 1)
                ++reading.unknown;
            continue;
        }
        reading.marks |= said->marks & ~Weak;
        if (said->drum == Drum::None) continue;
        if (!(said->marks & Weak)) reading.weak = false;
        if (std::find(reading.drums.begin(), reading.drums.end(), said->drum) == reading.drums.end())
            reading.drums.push_back(said->drum);
    }
    return reading;
}

/// Words that belong together though each names a drum alone.
void settlePairs(Reading& reading) {
    auto& drums = reading.drums;
    const auto has = [&](Drum drum) { return std::find(drums.begin(), drums.end(), drum) != drums.end(); };
    const auto drop = [&](Drum drum) { std::erase(drums, drum); };
    for (const Drum kind : {Drum::Hat, Drum::Crash, Drum::Ride, Drum::China, Drum::Splash, Drum::Surdo})
        if (has(kind)) drop(Drum::Cymbal);
    if (has(Drum::SideStick)) drop(Drum::Snare), drop(Drum::Sticks);
    if (has(Drum::Sticks) && has(Drum::Snare)) { // "snare stick" is played across the rim
        drop(Drum::Sticks);
        drop(Drum::Snare);
        drums.push_back(Drum::SideStick);
    }
    if (has(Drum::Hat) && has(Drum::Splash)) {
        drop(Drum::Splash);
        reading.marks |= Pedal;
    }
    if (has(Drum::Brush)) {
        drop(Drum::Snare);
        if (has(Drum::Slap)) reading.marks |= SlapMark;
        drop(Drum::Slap);
        if (drums.size() > 1) drop(Drum::Brush); // a kick of the brush kit
    }
    if (has(Drum::Conga) || has(Drum::Bongo)) {
        if (has(Drum::Slap)) reading.marks |= Mute;
        drop(Drum::Slap);
    }
    if (has(Drum::Click) || has(Drum::Sticks)) {
        if (has(Drum::Sticks)) drop(Drum::Click);
    }
    if (drums.size() > 1) drop(Drum::Slap);
}

struct Chosen {
    int key = 0;
    bool sure = true;
};

Chosen tomOf(unsigned marks, int number) {
    if (marks & Floor) return {marks & Low || number == 2 ? 41 : 43, number < 3};
    if (marks & High && marks & Mid) return {48};
    if (marks & Low && marks & Mid) return {47};
    if (marks & High) return {number == 2 ? 48 : 50};
    if (marks & Mid) return {number == 1 ? 48 : 47};
    if (marks & Low) return {number == 1 ? 47 : 45, number == 0};
    static constexpr int down[] = {47, 50, 48, 47, 45, 43, 41};
    return {number >= 1 && number <= 6 ? down[number] : 47, false}; // numbers run down or up
}

Chosen keyOf(Drum drum, unsigned marks, int number) {
    const bool low = marks & Low, second = number == 2;
    switch (drum) {
    case Drum::Kick: return {marks & Acoustic || second ? 35 : 36};
    case Drum::Snare:
        if (marks & Special) return {38, false};
        return {marks & Electric || second ? 40 : 38};
    case Drum::SideStick: return {37};
    case Drum::Clap: return {39};
    case Drum::Brush:
        return {marks & Swirl ? 40 : (marks & SlapMark ? 39 : 38), (marks & (Swirl | Tap | SlapMark)) != 0};
    case Drum::Hat:
        if (marks & Pedal) return {44};
        if (marks & (Half | Open)) return {marks & Closed && !(marks & Half) ? 42 : 46, !(marks & Closed)};
        return {42};
    case Drum::Tom: return tomOf(marks, number);
    case Drum::Crash: return {second || low ? 57 : 49};
    case Drum::Ride: return {marks & Bell ? 53 : (second ? 59 : 51)};
    case Drum::China: return {52};
    case Drum::Splash: return {55};
    case Drum::Cymbal: return {marks & Bell ? 53 : 49, false};
    case Drum::Tambourine: return {54};
    case Drum::Cowbell: return {56};
    case Drum::Vibraslap: return {58};
    case Drum::Bongo: return {low ? 61 : 60, (marks & (High | Low)) != 0};
    case Drum::Conga:
        if (low) return {64};
        return {marks & Mute ? 62 : 63, (marks & (High | Mute | Open)) != 0};
    case Drum::Timbale: return {low ? 66 : 65, (marks & (High | Low)) != 0};
    case Drum::Agogo: return {low ? 68 : 67, (marks & (High | Low)) != 0};
    case Drum::Cabasa: return {69};
    case Drum::Maracas: return {70};
    case Drum::Whistle:
        return {marks & Lengthy || low ? 72 : 71, (marks & (Lengthy | Brief | High | Low)) != 0};
    case Drum::Guiro: return {marks & Lengthy ? 74 : 73, (marks & (Lengthy | Brief)) != 0};
    case Drum::Claves: return {75};
    case Drum::WoodBlock: return {low ? 77 : 76, (marks & (High | Low)) != 0};
    case Drum::Cuica: return {marks & Mute ? 78 : 79, (marks & (Mute | Open)) != 0};
    case Drum::Triangle: return {marks & (Mute | Closed) ? 80 : 81, (marks & (Mute | Closed | Open)) != 0};
    case Drum::Shaker: return {82};
    case Drum::Bells: return {83};
    case Drum::BellTree: return {84};
    case Drum::Castanets: return {85};
    case Drum::Surdo: return {marks & Mute ? 86 : 87, (marks & (Mute | Open)) != 0};
    case Drum::Sticks: return {31};
    case Drum::Click: return {marks & Bell ? 34 : (marks & Square ? 32 : 33)};
    case Drum::Scratch: return {marks & Pull ? 30 : 29, (marks & (Push | Pull)) != 0};
    case Drum::HighQ: return {27};
    case Drum::Slap: return {28};
    case Drum::None: break;
    }
    return {0, false};
}

/// Abbreviations in names of samples, written out.
std::string_view writtenOut(std::string_view word) {
    static const std::map<std::string_view, std::string_view> full = {
        {"dr", "drum"},         {"drm", "drum"},         {"std", "standard"},    {"bd", "bass drum"},
        {"sd", "snare drum"},   {"sn", "snare"},         {"snr", "snare"},       {"kik", "kick"},
        {"kck", "kick"},        {"hh", "hi-hat"},        {"hihat", "hi-hat"},    {"chh", "closed hi-hat"},
        {"ohh", "open hi-hat"}, {"phh", "pedal hi-hat"}, {"cl", "closed"},       {"clsd", "closed"},
        {"op", "open"},         {"opn", "open"},         {"ped", "pedal"},       {"cym", "cymbal"},
        {"cymb", "cymbal"},     {"crsh", "crash"},       {"tamb", "tambourine"}, {"elec", "electric"},
        {"acou", "acoustic"},   {"med", "mid"},          {"perc", "percussion"}, {"clp", "clap"},
        {"flr", "floor"}};
    const auto at = full.find(word);
    return at == full.end() ? word : at->second;
}

/// Words of sample names that tell of the recording and nothing of the drum.
bool isClutter(const std::string& word, bool lastWord) {
    static const std::set<std::string, std::less<>> clutter = {
        "l",   "r",      "lt",    "rt",  "wav",  "aif",  "aiff", "mono", "stereo",
        "ms",  "v",      "vel",   "rr",  "bit",  "k",    "khz",  "hz",   "take",
        "smp", "sample", "layer", "lyr", "norm", "loop", "dup",  "copy", "x"};
    if (isNumber(word)) return word.size() > 1 || !lastWord; // "Crash 2" keeps its number
    return clutter.contains(word);
}

} // namespace

std::optional<DrumMeaning> drumMeant(const std::string& name) {
    if (name.size() > 400) return std::nullopt;
    Reading reading = readingOf(wordsIn(name));
    settlePairs(reading);
    if (reading.drums.empty()) return std::nullopt;
    const Drum drum = reading.drums.front();
    const auto [key, sure] = keyOf(drum, reading.marks, reading.number);
    const Key gm{static_cast<std::uint8_t>(key)};
    const bool clear = reading.drums.size() == 1 && (reading.unknown == 0 || !reading.weak);
    return DrumMeaning{gm, pieceOf(gm), sure && clear};
}

DrumPiece pieceOf(const Part& part, Key key) {
    if (const auto named = part.keyNames.find(key.value); named != part.keyNames.end())
        if (const auto meant = drumMeant(named->second); meant && meant->sure) return meant->piece;
    return pieceOf(part.recipe.drumPlan(key).target.value_or(key));
}

std::string cleanDrumName(const std::string& name) {
    std::string stem = name;
    if (const auto dot = stem.rfind('.'); dot != std::string::npos && stem.size() - dot <= 5 && dot > 0)
        stem.resize(dot);
    std::string clean;
    std::string text; // as it stands, words apart, for the letters that it has
    const auto words = wordsIn(stem);
    bool letters = false;
    for (std::size_t i = 0; i < words.size(); ++i) {
        const bool afterLayer =
            i > 0 && (words[i - 1] == "v" || words[i - 1] == "vel" || words[i - 1] == "rr");
        if (afterLayer && isNumber(words[i])) continue;
        if (isClutter(words[i], i + 1 == words.size() && letters)) continue;
        letters = letters || (!isNumber(words[i]) && words[i].size() > 1);
        if (!clean.empty()) clean += ' ';
        clean += writtenOut(words[i]);
    }
    if (!letters) return {};
    clean[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(clean[0])));
    return clean;
}

} // namespace cobbleway
