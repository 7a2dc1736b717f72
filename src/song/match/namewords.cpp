#include "song/match/namedictionary.h"

#include <algorithm>
#include <string_view>

namespace cobbleway {
namespace {

using enum NameRank;

struct Entry {
    NameSense sense;
    std::string_view words; ///< as of plainWords(), commas between
};

// One line a language or a group of them; words that stand in an earlier line of the same entry are not
// repeated.
constexpr Entry entries[] = {
    // keys
    {{0, 0, Full},
     "piano,pianos,pno,pn,pf,pfte,pianoforte,fortepiano,grand piano,upright "
     "piano,pian,klavier,klav,klv,konzertfluegel,hammerklavier,"
     "klaver,flygel,vleugel,zongora,pianino,klavir,kridlo,flyygeli,rojal,klavishnye,klavishi,keys,kbd,keyb,"
     "keyboard,keyboards,klawisze,klawiatura,tasten,tastiera,teclado,teclados,clavier,toetsen,fp,pft,pianola,"
     "right hand piano"},
    {{1, 0, Full}, "bright piano"},
    {{2, 0, Full}, "electric grand,e grand,el grand"},
    {{3, 0, Full}, "honky tonk,honkytonk,honky,saloon piano,tack piano,barpiano"},
    {{4, 0, Full},
     "rhodes,wurlitzer,wurly,wurli,ep,epiano,epno,e pno,fm piano,dx piano,stage piano,elpiano,sahkopiano,e "
     "pf"},
    {{6, 0, Full},
     "harpsichord,harpsi,hpsd,hpschd,hpd,cembalo,cemb,cembali,clavecin,clavicembalo,clavicordio,clavecin,"
     "klavecimbel,"
     "clavecimbel,klawesyn,csembalo,klavesin,cravo,spinet,spinett,spinetto,virginal,virginals,kielfluegel,"
     "hrpschd"},
    {{7, 0, Full}, "clavinet,clavi,clav,clavichord,klavinet,clavicord,klavichord,clv"},
    {{8, 0, Full}, "celesta,celeste,cel,celeszta,czelesta,chelesta,selesta,cels"},
    {{9, 0, Full},
     "glockenspiel,glock,glsp,glk,gsp,campanelli,carillon,jeu de "
     "timbres,klockspel,klokkespil,klokkespill,klokkenspel,"
     "kellopeli,zvonkohra,harangjatek,dzwonki,kolokolchiki,lira,orchestra bells,orchestral "
     "bells,glockensp,glocken,"
     "juego de timbres,carrilhao,glck"},
    {{10, 0, Full},
     "music box,musicbox,spieluhr,boite a musique,caja de musica,caixa de "
     "musica,speeldoos,pozytywka,speldosa,spilledase,"
     "spilledas,spilledose,soittorasia,hraci strojek,zenedoboz,muzykalnaya shkatulka,carillon a musica,toy "
     "piano,scatola musicale,"
     "spelldosa,spieldose"},
    {{11, 0, Full},
     "vibraphone,vibraphon,vibrafon,vibrafono,vibrafone,vibrafoon,vibrafoni,vibes,vib,vibr,vbp,vibs,vibe,"
     "vibra"},
    {{12, 0, Full}, "marimba,marimbas,mar,marimbaphon,mrb,marimbe,mba"},
    {{13, 0, Full},
     "xylophone,xylophon,xylofon,xylo,xyl,xylofono,silofono,xilofono,xilofone,xylofoon,ksylofon,ksylofoni,"
     "xilofon,"
     "ksilofon,xylos,xyl,xilo,xil"},
    {{14, 0, Full},
     "bell,tubular bells,tubular bell,tubular,tubularbells,tub bells,tubells,tub bell,tbells,t "
     "bells,chimes,chime,church bells,church bell,bells,"
     "roehrenglocken,roehrengl,glocken röhren,cloches tubulaires,cloches,cloche,cl tub,campane "
     "tubolari,campane,campana,campanas tubulares,"
     "campanas,buisklokken,klokken,sinos tubulares,sinos,dzwony "
     "rurowe,dzwony,rorklockor,kyrkklockor,klockor,rorklokker,"
     "putkikellot,kellot,trubicove zvony,zvony,csoharang,harangok,harang,kolokola,trubchatye "
     "kolokola,orkesterklokker,plattenglocken,"
     "kirchenglocken,kirkeklokker"},
    {{15, 0, Full},
     "dulcimer,dulc,hackbrett,zither,cymbaly,cimbal,cimbalom,cimbalo,tympanon,salterio,psaltery,psalter,"
     "hakkebord,citera,cytra,kantele,santur,hammered "
     "dulcimer,hammerdulcimer,gusli,zymbal,saltire,hackbraede"},
    // organs and free reeds
    {{16, 0, Full},
     "organ,organs,org,hammond,drawbar,drawbar organ,orgel,orgue,orgues,organo,organi,orgao,organy,"
     "varhany,orgona,urut,orgle,orgeln,tonewheel,jazz organ,organetto,el organ,orgla,sahkourut"},
    {{17, 0, Full}, "percussive organ,perc organ,organ perc,organ percussion,percussion organ"},
    {{18, 0, Full}, "rock organ,rockorgel,rotary organ,rotary org"},
    {{19, 0, Full},
     "church organ,pipe organ,kirchenorgel,pfeifenorgel,orgue d eglise,grand "
     "orgue,kerkorgel,kirkkourut,kyrkorgel,"
     "kirkeorgel,organo da chiesa,organo a canne,organo de iglesia,orgue a tuyaux,orgao de tubos,organy "
     "koscielne,pijporgel,"
     "pipeorgel,orgao de igreja,templomi orgona,hauptwerk,church org,piporgel,cathedral organ,chancel organ"},
    {{20, 0, Full},
     "harmonium,reed organ,harmoonium,fisharmonia,fisgarmoniya,harmonij,pump organ,armonium,harmonio"},
    {{21, 0, Full},
     "accordion,accordian,acc,accordeon,acordeon,acordeao,akkordeon,akk,akordeon,fisarmonica,"
     "fisarm,dragspel,trekkspill,"
     "trekharmonica,harmonikka,haitari,ziehharmonika,schifferklavier,quetschkommode,tangoharmonika,sanfona,"
     "bayan,bajan,"
     "musette,piano accordion,accordn,melodeon,garmon,heligonka,tahaci "
     "harmonika,accrd,knopfakkordeon,squeezebox,steirische"},
    {{22, 0, Full},
     "melodica,melodika,harmonica,mundharmonika,mondharmonica,mouth organ,mouth harp,armonica,armonica a "
     "bocca,munspel,munnspill,mundharpe,"
     "mundharmonica,huuliharppu,foukaci harmonika,szajharmonika,harmonijka,harmonijka ustna,gubnaya "
     "garmoshka,gaita de boca,blues harp,bluesharp,"
     "harmonika ustna,blues harmonica,harm,gubnaya garmonika"},
    {{21, 0, Light}, "harmonika"},
    {{23, 0, Full},
     "bandoneon,bandonion,concertina,konzertina,bandoneón,konsertina,koncertina,tango accordion,bandoneonas"},
    // guitars and other plucked ones
    {{24, 0, Full},
     "guitar,guitars,gtr,gtrs,gt,gtar,gt "
     "s,git,guit,gui,gitarre,gitarren,guitare,guitares,guitarra,guitarras,chitarra,chitarre,chit,"
     "gitaar,gitaren,gitarr,gitarrer,gitar,gitara,gitary,kitara,kytara,violao,viola "
     "caipira,guitarist,guitarr,ukulele,ukelele,uke,"
     "lute,laute,luth,liuto,laud,alaude,luit,lutnia,luta,luttu,luuttu,loutna,lant,lyutnya,theorbo,theorbe,"
     "vihuela,"
     "cavaquinho,charango,tres,cuatro,guitalele,requinto,timple"},
    {{24, Classical, Full},
     "nylon,konzertgitarre,konsertgitarr,nylon string,nylon str,klassische gitarre,guitare seche,guitare "
     "classique,klassisk gitarr,"
     "spanish guitar,nylongitarre,nylon strings"},
    {{24, Steel, Full},
     "12 saitige,steel string,steel str,steel strings,westerngitarre,western guitar,folk guitar,stalstrangad "
     "gitarr,12 "
     "string,12 str,twelve string,12 st,"
     "12string,zwoelfsaitige,dodici corde,doce cuerdas,douze cordes,pedal steel,lap steel,steel "
     "gtr,dobro,resonator,resonator guitar,acougtr,"
     "akustikgitarre,acgtr,agtr,a gtr,a gt,a guitar,ac gtr,ac guitar,ac gt"},
    {{25, 0, Full},
     "mandolin,mandoline,mandolino,mandolina,mandoliini,mandolinen,bandolim,mando,mandola,mandolyna,bouzouki,"
     "buzuki,bandurria,"
     "balalaika,balalajka,domra,bandura,mandolinka,mand"},
    {{26, 0, Full}, "hawaiian guitar,hawaii guitar,jazzgitarre,jazz guitar,archtop,hawaiigitarre"},
    {{24, Electric, Full},
     "egtr,e gtr,e gt,e "
     "git,egit,elgitarr,elgitar,elguitar,elgtr,egitarre,sahkokitara,elektrogitarre,elektrogitara,el "
     "git,eguitar,"
     "telecaster style"},
    {{105, 0, Full}, "banjo,bandzo,bendzso,bandzho,bjo,banjos"},
    {{104, 0, Full}, "sitar,sittar,szitar"},
    {{106, 0, Full}, "shamisen,samisen,schamisen,syamisen"},
    {{107, 0, Full}, "koto,guzheng"},
    {{108, 0, Full}, "kalimba,thumb piano,mbira,daumenklavier,sansula"},
    {{46, 0, Full},
     "harp,harps,hrp,hp,hpe,harfe,harfen,hrf,hfe,harpe,harpes,arpa,arpe,harpa,harpo,harppu,harfa,harfy,"
     "harpor,harper 1,arfa,"
     "celtic harp,concert harp,harp i"},
    // basses
    {{33, Low, Bass},
     "bass,bs,bss,bas,basse,basso,bassi,bajo,baixo,basa,bassline,bass "
     "line,basslinie,basy,basszus,bassetto,basgang"},
    {{33, Electric, Bass},
     "e bass,ebass,e bs,el bass,elbas,elbass,e bas,electric bass,bassgitarre,basgitaar,basgitara,bas "
     "gitara,baskytara,bassokitara,basgitarr,"
     "bassgitar,basguitar,basszusgitar,sahkobasso,elektrobass,bassgtr,bass guitar,bassguitar,basse "
     "electrique,basso elettrico,"
     "bajo electrico,baixo eletrico,elektrisk bas,guitare basse,gitara basowa,basova kytara,bass "
     "gtr,fingered bass,finger bass,finger bs,"
     "fingerbass,fingered,fingerstyle bass,bass git,guitarra bajo,basova gitara,elbasso,contrabaixo "
     "eletrico"},
    {{32, 0, Bass},
     "upright bass,standup bass,stand up bass,akustikbass,acoustic bass,ac bass,acou bass,a bass,a "
     "bs,zupfbass,jazz bass,upright,"
     "slaggbas,staabas,ac bs,acbass,acoustic bs,wood bass,woodbass,walking bass,walkingbass,bull "
     "fiddle,doghouse bass,bajo acustico,stabas,"
     "basse acoustique,basso acustico"},
    {{34, 0, Bass}, "picked bass,pick bass,pickbass,plektrumbass,picked bs,plectrum bass,pick bs"},
    {{35, 0, Bass}, "fretless,fretless bass,bundloser bass,bandloes bas,fretlessbass,frtless"},
    {{36, 0, Bass}, "slap bass,slapbass,slap bs,slapped bass,thumb bass,slapping bass,popped bass,slp bass"},
    {{38, 0, Bass},
     "synth bass,synthbass,syn bass,synbass,syn bs,synthbas,bass synth,basssynth,analog bass,acid bass,moog "
     "bass style,syntbas,"
     "syntetbass,synthesizer bass,sub bass,subbass,synth bs,bass syn,s bass,reese bass"},
    // strings
    {{40, 0, Full},
     "v ni,v "
     "no,violin,violins,vln,vlns,vl,vls,vn,vns,viol,vli,vlin,violine,violinen,geige,geigen,violon,violons,"
     "vno,"
     "vni,violino,violini,vio,"
     "viool,violen,violines,violinos,skrzypce,skrz,fiol,fioler,violiner,fiolin,fioliner,viulu,viulut,housle,"
     "housl,hegedu,hegeduk,skripka,skripki,"
     "primgeige,violinist,vlno,vlni,vv"},
    {{41, 0, Full},
     "v la,v "
     "le,viola,violas,violy,vla,vlas,va,vas,vle,viole,bratsche,bratschen,br,brt,altviool,altfiol,bratsch,"
     "bratsj,"
     "alttoviulu,altowka,altowki,alto violin,"
     "bracsa,melyhegedu,bracce,bratscher,altvioline,violes,viola da gamba alto,altgeige"},
    {{42, 0, Full},
     "v c,v lo,v "
     "cello,cello,cellos,celli,vc,vcl,vlc,vcs,vcello,violoncello,violoncelli,violoncelle,violoncelles,cel "
     "lo,violoncelo,violonchelo,chelo,chelos,"
     "wiolonczela,wioloncz,czelo,sello,csello,gordonka,violonchel,gamba,gambe,viola da "
     "gamba,vlcl,clo,vlo,celo,viole de gambe,violoncell"},
    {{43, 0, Full},
     "double bass,double basses,double bs,doublebass,string bass,str "
     "bass,db,dbs,cb,cbs,kb,kbs,ktb,kontrabass,kontrabas,"
     "kontrabaesse,contrebasse,contrebasses,cbasse,contrabbasso,contrabbassi,contrabajo,contrabajos,"
     "contrabaixo,kontrabasso,nagybogo,"
     "bogo,bogok,bassgeige,stringbass,contrabasses,basviool,kontrab,contrab,d bass,d b,c bass,orchestral "
     "bass,bowed bass,basetla,"
     "ctrb,ctb,cbass,contrabasso"},
    {{43, Low, Light}, "contrabass,contra bass"},
    {{44, Tremolo, Light}, "tremolo,trem,tremolando,tremstr,tremoli"},
    {{45, Plucked, Light}, "pizzicato,pizz,pizzicati,pizzi,pizzstr,pz,pizzic"},
    {{47, 0, Full},
     "timpani,timp,timps,timpano,timpany,timpanis,kettle drum,kettle "
     "drums,kettledrum,kettledrums,pauke,pauken,pk,pke,timbales,timbal,timbale,"
     "pauker,pukor,puka,patarummut,kotly,tympany,tympan,ustdob,ustdobok,timpanos,litavry,tymp,tympani,paukor,"
     "patarumpu,tmp,timb,timp s,pka,tp i"},
    {{48, 0, Full},
     "string,strings,str,strs,strg,strgs,stgs,strngs,stringz,streicher,streich,streichorchester,"
     "streichquartett,cordes,archi,cuerdas,cordas,strijkers,strykere,"
     "stryger,strygere,strakar,straker,strak,jouset,jousi,jousisto,smyczki,smycz,smycce,smyccu,vonosok,"
     "strunnye,string ensemble,string section,"
     "string "
     "orchestra,orchestra,orchester,orkester,orkest,orchestre,orchestr,orkiestra,zenekar,orkesteri,orquesta,"
     "orquestra,orkestr,"
     "tutti,stringensemble,stringquartet,string quartet,quartetto d archi,quatuor,vonos,struny,tutti "
     "strings,strx,violins and violas,"
     "stage strings,cuerda,strygeorkester,strykekvartett,smyccove,kwintet smyczkowy,st ensemble,str "
     "ens,ensemble strings"},
    {{49, 0, Full}, "slow strings,slow str,slow string,st slow,langsame streicher,slow strs"},
    {{50, 0, Full},
     "synth strings,syn strings,synth string,synthstrings,syn str,synstr,synthstr,synthstreicher,string "
     "machine,strings synth,sy str,synstrings"},
    {{55, 0, Full},
     "orchestra hit,orch hit,orchhit,orch hits,orchestral hit,orc hit,orchester hit,orchestra "
     "hits,orchestershit"},
    {{110, 0, Full},
     "fiddle,fidel,fiddel,fiddles,nyckelharpa,hardingfele,fele,hardanger "
     "fiddle,spelmansfiol,spillemand,kansanviulu,vielle,hurdy gurdy,drehleier,fidula,fidula"},
    // voices
    {{52, Sung, Voice},
     "choir,choirs,chor,chore,chorus,choeur,choeurs,choral,coro,cori,coros,koor,kor,kuoro,chorus,sbor,korus,"
     "hor,khor,voice,voices,vocal,vocals,voc,vocs,vce,vx,"
     "vox,vocalist,singer,stimme,stimmen,gesang,singstimme,saenger,saengerin,voix,voce,voci,voz,vozes,voces,"
     "canto,cant,chant,zang,zangstem,stem,stemmen,"
     "sang,stamma,stemme,stemmer,laulu,laulaja,aani,glos,glosy,spiew,wokal,wokale,hlas,hlasy,zpev,enek,golos,"
     "golosa,vokal,vocaux,vokalen,"
     "satb,ssaa,ttbb,aah,aahs,ahh,ahhs,choir aahs,ah choir,chorale,melodiestimme vokal,choirs,gospel "
     "choir,men s choir,"
     "cantus,kinderchor,frauenchor,maennerchor,chorgesang,coral,vocais,cantor,zpevak,enekhang,vokaly,kantor,"
     "discantus,lauluaani,"
     "backing vocals,backing vox,bvox,bgv,backvox,ld vox,ldvox,ld voc,lead voc"},
    {{53, Sung, Voice}, "oohs,ooh,oohs choir,voice oohs,uuh,voice ooh,ooh choir,oo choir"},
    {{54, Sung, Voice},
     "synth voice,synth vox,synvox,syn vox,synth choir,synthvox,synvoice,syn voice,syn "
     "choir,synthchor,vocoder,voice synth,vox synth"},
    {{52, Sung | Soprano, Voice},
     "soprano,sopranos,soprani,sopran,sopraan,soprane,sopr,sop,szopran,sopraano,mezzo,mezzosoprano,"
     "mezzosopran,mezzos,treble,diskant,discant,descant,"
     "canto i,superius,sopraner,dessus"},
    {{52, Sung | Alto, Voice},
     "alto,altos,alti,alt,contralto,contraltos,altstimme,altto,altus,haute "
     "contre,altkor,altist,altti"},
    {{52, Sung | Tenor, Voice},
     "tenor,tenors,tenore,tenori,ten,tenori,tenores,tenoren,tenory,taille,tenorit,tenorer,tnr,ténors,"
     "countertenor"},
    {{52, Sung | Baritone, Voice},
     "baritone,baritones,bariton,baritono,baritonos,barytone,baryton,bari,baritoni,bariton,baritons,"
     "barytony"},
    {{52, Sung, Voice},
     "bass voice,bass vocal,bass stimme,basstimme,voix de basse,voce di basso,basso voce,bass choir,bass "
     "singer,bassstimme,basstemme"},
    // brass
    {{56, 0, Full},
     "trumpet,trumpets,tumpet,trumpt,tpt,tpts,trp,trpt,trpts,trmp,tp,tps,tr,trt,trom,trompete,trompeten,trp "
     "t,trompette,trompettes,tromba,trombe,trbe,trpa,"
     "trompeta,trompetas,trompet,trompetten,trompeter,trumpeter,trompetes,trumpetti,trabka,trabki,trb "
     "ka,trubka,trubky,trombita,trombitak,truba,truby,"
     "cornet,cornets,cnt,crt,cor "
     "net,cornett,cornetto,cornetti,kornett,kornet,kornetti,corneta,cornetas,cornet a pistons,cornetta,"
     "fluegelhorn,flugel,flug,flgh,flg,flh,flghn,flicorno,fliscorno,fiscorno,fliscorne,bugle,bugel,"
     "skrzydlowka,kridlovka,szarnykurt,flygelhorn,fluegelhoerner,trpt s,"
     "piston,pistons,clarino,trumpets a 2,tpte,ttes,trmpt,flglhn,flhn"},
    {{57, 0, Full},
     "trombone,trombones,tbn,tbns,tbn "
     "s,trb,trbs,trbn,trbns,tb,tbs,tbne,posaune,posaunen,pos,psn,trombon,tromboni,trombonen,trombony,pasuuna,"
     "vetopasuuna,puzon,"
     "puzony,pozoun,pozouny,harsona,harsonak,basun,basuner,traekbasun,sackbut,schuiftrompet,trombonist,"
     "trombonas,bassposaune,pozan,trmbn,"
     "tromb,tbone,t bone,bone,bones"},
    {{58, 0, Full},
     "tuba,tubas,tba,tb "
     "a,tubae,tubi,tuby,tuuba,tub,euphonium,euph,euphon,eufonio,eufoniusz,eufonium,euphoniums,euphonion,"
     "eupho,bombardino,bombardon,"
     "sousaphone,sousaphon,sousafon,sousafoon,sousafono,helicon,helikon,baritonhorn,baritone "
     "horn,bombarde,tenorbass,saxhorn,ophicleide,"
     "tenortuba,basstuba,cimbasso,baritono ottone,tubba"},
    {{59, 0, Full}, "muted trumpet,harmon mute trumpet,dempet trompet,mutedtrumpet,mute trumpet"},
    {{60, 0, Full},
     "horn,horner,horns,hn,hns,hr,hrn,hrns,hor n,hrnr,fhn,fh,f hn,fhorn,f "
     "horn,hoerner,waldhorn,waldhoerner,whn,corno,corni,cor,cors,cor d harmonie,trompa,trompas,tpa,hoorn,"
     "hoorns,valthorn,valdhorn,kayratorvi,waltornia,waltornie,rog,rogi,lesni roh,roh,rohy,lesni "
     "rohy,kurt,kurtok,valtorna,valtorny,french horn,french horns,frenchhorn,"
     "alphorn,jagdhorn,posthorn,tenorhorn,althorn,alto horn,tenor horn,parforcehorn,cor de "
     "chasse,torvi,kurtot,fr hn,fr horn,fr hrn,"
     "cor francais,corno francese,corno frances,corno da caccia,es horn"},
    {{29, 0, Full}, "lead guitar,lead gtr,lead gt,lead git,leadgitarre,leadguitar,lead guit"},
    {{61, Several, Full},
     "brass,brs,brss,brass "
     "section,brasses,blech,blechblaeser,blaeser,cuivres,ottoni,metales,metais,koper,koperblazers,messing,"
     "messingblaesere,bleckblas,"
     "vasket,vaskipuhaltimet,blacha,blaszane,deta "
     "blaszane,zeste,zestove,rezfuvosok,rezfuvos,mednye,duhovye,mednye duhovye,horn section,hornsection,"
     "blasorchester,brassband,brass band,brass ensemble,brass "
     "quintet,blaesersatz,blasere,blasare,blasers,blazers,blas,fanfare,ottoni e legni,brass sec,brass sect"},
    {{62, Several, Full},
     "synth brass,syn brass,synthbrass,synbrass,syn brs,synth brs,brass synth,syn horns,synth horns,sy "
     "brass"},
    // reeds
    {{64, 0, Full}, "soprano saxophone,ssx,s sax,ssax,sop sax,sopsax"},
    {{65, 0, Full},
     "sax,saxes,saxs,saxo,saxos,sx,saxophone,saxophones,saxophon,saxofon,saxofoon,saxofono,saxofone,"
     "saxofones,saxophonist,sassofono,sassofoni,saksofon,"
     "saksofoni,saksofony,szaxofon,saxofony,saxafon,saxaphone,saxofoner,asx,a "
     "sax,asax,altsax,altsaxofon,alttosax,saxen,saxer,sax alto,saxo alto"},
    {{66, 0, Full}, "tsx,t sax,tsax,tenorsax,tensax,saxo tenor"},
    {{67, 0, Full}, "b sax,bsx,bsax,barisax,baritonsax,brsx,bs sax,saxo baryton,bar sax,bs x"},
    {{68, 0, Full},
     "oboe,oboes,oboer,goboi,oboi,ob,obs,oboen,hautbois,htb,hb,hob,hobo,hoboes,obo,oboj,oboje,hoboj,hoboje,"
     "goboj,oboa,"
     "oboak,oboista,oboe d amore,obo e,hbois,oboi 1"},
    {{69, 0, Full},
     "english horn,english horns,eng hn,eng horn,engl horn,engl hn,e hn,e h,ehn,eh,englischhorn,englisch "
     "horn,engl hr,e hr,ehr,cor anglais,cor angl,c a,ca,c ang,"
     "corno inglese,corno ingl,cor ingl,c ingl,c i,corno ingles,corne ingles,engelse "
     "hoorn,althobo,althoboe,engelskt horn,engelsk horn,engelskhorn,englannintorvi,englannin torvi,"
     "rozek angielski,rozek ang,anglicky roh,angolkurt,anglijskij rozhok,engels hoorn,e horn,enghorn"},
    {{70, 0, Full},
     "bassoon,bassoons,bsn,bsns,bn,bns,bssn,fagott,fagotte,fagotti,fag,fg,fgt,fagotto,fagot,fagots,fagote,"
     "fagotes,fagoty,fagotter,basson,bassons,bsson,fagotes,fagottok,"
     "contrabassoon,contra bassoon,double bassoon,cbsn,c "
     "bsn,cbn,kontrafagott,kontrafagot,kontrafagotti,kfg,kfag,contrafagot,contrafagote,contrafagotto,"
     "controfagotto,cfag,"
     "contrebasson,dulcian,dulzian,dulciana,cfg,contrafagott"},
    {{71, 0, Full},
     "clarinet,clarinets,cl,cls,clar,clars,clt,clnt,clart,cla,clarinette,clarinettes,clarinetto,clarinetti,"
     "clarinete,clarinetes,klarinette,klarinetten,klar,kl,klarinet,klarinetter,"
     "klarinetti,klarnet,klarnety,klarinety,klarinett,klarinetok,klarinetten,klarinetist,kla,bass "
     "clarinet,bassklarinette,basklarinet,basklarinett,b cl,bcl,bs cl,bass cl,bkl,b kl,"
     "clarone,clarinetto basso,clarinette basse,clarinete bajo,basset horn,bassetthorn,corno di bassetto,cor "
     "de basset,basset clarinet,chalumeau,clarinetist,bassetklarinet,"
     "a cl,e cl,es cl,es kl,eb cl,clari,klarinetta"},
    // pipes
    {{72, Small, Light},
     "piccolo,piccolos,pic,picc,piccs,picco,pikkolo,piccoli,pikolo,pikola,ottavino,ott,flautim,flautin,"
     "petite flute,piccoloflote,pikkolohuilu,pikkoloflojt,piccolaflojt,"
     "fletnia piccolo,flautino,kleine flote,flute piccolo,picolo,pikkolofluit,pikkulo,pikkolofloete,pfl"},
    {{73, 0, Full},
     "flute,flutes,fl,fls,flt,flts,ft,fte,floete,floeten,querfloete,querfl,flauto,flauti,flto,flauta,flautas,"
     "fluit,fluiten,dwarsfluit,flojt,flojter,flojte,flojten,floyte,floyter,floeyte,tvarflojt,"
     "tvaerflojte,tverrfloyte,huilu,huilut,poikkihuilu,flet,flety,fletna,fletny,pricna "
     "fletna,fuvola,fuvolak,flejta,flejty,traverso,flute traversiere,alto flute,bass flute,"
     "travers,traversfloete,fleyta,fleita,altfloete,bassfloete,flt s,fltn,flutist,flaut,flauto "
     "traverso,flauta travesera,flauta transversal"},
    {{74, 0, Full},
     "recorder,recorders,rec,rcdr,blockfloete,blockfloeten,blockfl,bfl,blfl,altblockfloete,blockflojt,"
     "blokflojte,blokkfloyte,blokfluit,nokkahuilu,zobcova fletna,zobcova,"
     "furulya,flet prosty,flute a bec,flauto dolce,flauta dulce,flauta doce,flauta de "
     "pico,blokflejta,prostoj flejta,flauto diritto,flaut dolc,blockfleute,dolce flauto,recdr,fletna "
     "zobcova"},
    {{75, 0, Full},
     "pan flute,panflute,pan pipe,pan "
     "pipes,panpipe,panpipes,panfloete,panflojt,panflojte,panfloyte,panfluit,panhuilu,flute de pan,flauto di "
     "pan,flauta de pan,flauta pan,"
     "fletnia pana,panova fletna,pansip,zampona,siku,flejta pana,nai,syrinx,siringa,fletnia,fletna pana"},
    {{76, 0, Full}, "blown bottle,bottle blow,blow bottle,bottle,flaschen,bottles,blown bottles"},
    {{77, 0, Full}, "shakuhachi,syakuhachi,schakuhachi"},
    {{78, 0, Full},
     "whistle,whistles,tin whistle,penny whistle,irish whistle,low "
     "whistle,pfeifen,gwizdek,whistler,whistling,wist"},
    {{79, 0, Full}, "ocarina,okarina,ocarine,ocarinas,okariina,okaryna"},
    {{109, 0, Full},
     "bagpipe,bagpipes,bag pipe,bag pipes,bgp,dudelsack,sackpfeife,cornemuse,cornamusa,zampogna,gaita,gaita "
     "de foles,gaita gallega,doedelzak,dudy,dudy szkockie,sackpipa,saekkepibe,"
     "sekkepipe,sakkipilli,duda,skocka duda,volynka,uilleann pipes,highland pipes,biniou,pipes,kobza"},
    {{111, 0, Full}, "shanai,shenai,shehnai,zurna,shawm,schalmei,chirimia,bombarda,chalemie"},
    // sounds made by hand on other things
    {{112, 0, Full}, "tinkle bell,tinkle bells,hand bells,handbells,tinkle,handbell"},
    {{113, 0, Full}, "agogo,agogos"},
    {{114, 0, Full},
     "steel drum,steel drums,steel pan,steel "
     "pans,steeldrum,steeldrums,steelpan,steelpans,stahltrommel,tambour d acier,steeltrommel,tambores "
     "metalicos,teraesrummut,stalfat,"
     "oljefat,steel band,steelband,pan steel,tambores de acero,tamburi d acciaio"},
    {{115, 0, Full}, "woodblock,wood block,woodblocks,wood blocks"},
    {{116, 0, Full}, "taiko,taiko drum,taiko drums,taikos"},
    {{117, 0, Full}, "melodic tom,melo tom,melodic toms,melo tom 1"},
    {{118, 0, Full}, "synth drum,syn drum,synth drums"},
    {{119, 0, Full}, "reverse cymbal,rev cymbal,rev cym"},
    {{120, 0, Full}, "guitar fret noise,gt fretnoise,fret noise"},
    {{121, 0, Full}, "breath noise,fl key click"},
    {{122, 0, Full}, "seashore,ocean,sea shore"},
    {{123, 0, Full}, "bird tweet,birds"},
    {{124, 0, Full}, "telephone ring,telephone"},
    {{125, 0, Full}, "helicopter"},
    {{126, 0, Full}, "applause"},
    {{127, 0, Full}, "gunshot,gun shot"},
    // made by machines
    {{80, 0, Lead},
     "lead,square lead,square wave,squarelead,ld,square,lead synth,synth lead,synthlead,sine lead,chip lead"},
    {{81, 0, Lead}, "saw lead,sawlead,sawtooth lead,saw wave,sawtooth,saw,sawlead 1,super saw,supersaw"},
    {{82, 0, Lead}, "calliope,calliope lead,syn calliope"},
    {{83, 0, Lead}, "chiff lead,chiffer lead,chiff"},
    {{84, 0, Lead}, "charang"},
    {{85, 0, Lead}, "voice lead,solo vox,vox lead synth"},
    {{86, 0, Lead}, "fifths,fifths lead,5 th saw wave,5 th lead"},
    {{87, 0, Lead}, "bass lead,bass and lead"},
    {{88, 0, Pad},
     "pad,pads,flaeche,flaechen,synth pad,synthpad,nappe,nappes,new age,new age "
     "pad,fantasia,synpad,tapis,tappeto,flaechensound,padd"},
    {{89, 0, Pad}, "warm pad,warmpad"},
    {{90, 0, Pad}, "polysynth,poly synth,poly pad"},
    {{91, 0, Pad}, "choir pad,space voice,voice pad,vox pad"},
    {{92, 0, Pad}, "bowed pad,bowed glass,glass pad,bowed glass pad"},
    {{93, 0, Pad}, "metallic pad,metal pad"},
    {{94, 0, Pad}, "halo pad,halo"},
    {{95, 0, Pad}, "sweep pad,sweep"},
    {{96, 0, Pad}, "ice rain"},
    {{97, 0, Pad}, "soundtrack"},
    {{98, 0, Pad}, "crystal"},
    {{99, 0, Pad}, "atmosphere"},
    {{100, 0, Pad}, "brightness"},
    {{101, 0, Pad}, "goblins,goblin"},
    {{102, 0, Pad}, "echoes,echo drops,echo pad"},
    {{103, 0, Pad}, "sci fi,star theme"},
    {{80, Synthetic, Synth},
     "synth,synths,syn,synthesizer,synthesiser,synthe,synthetiseur,sintetizzatore,sintetizador,synteza,"
     "syntezator,syntetizator,syntetisaattori,syntetisator,szintetizator,sintezator,synt,"
     "sintet,syntti,szinti,synthie,syntz"},
    // drums
    {{-1, 0, Drums},
     "drum,drums,drumset,drum set,drumkit,drum "
     "kit,drummer,drms,drm,dr,drs,dms,schlagzeug,schlagz,schlzg,szg,schlagwerk,schlagwrk,sz,percussion,"
     "percussions,perc,prc,percussioni,percusion,percussao,percus,perkussion,"
     "perkuse,perkusja,perk,perkusszio,perkussio,percussie,batterie,batt,bat,batteria,bateria,btr,drumstel,"
     "slagwerk,slagverk,slgv,slagtoj,trommer,trommesaet,trommesett,trumset,trummor,"
     "rummut,rumpu,rumpusetti,lyomasoittimet,bebny,beben,bici,bubny,buben,dob,dobok,dobszerelés,"
     "dobfelszereles,utosok,utohangszerek,udarnye,barabany,baraban,perkussiya,percusiones,"
     "trommel,trommeln,kit,beat,beats,drumloop,drum loop,rhythm kit,loops percussion,"
     "kick,kick drum,kickdrum,kik,kck,bd,bass drum,bassdrum,bass drums,grosse caisse,grosse trommel,gran "
     "cassa,grancassa,cassa,bombo,bumbo,bass trommel,"
     "snare,snares,snare drum,snaredrum,snr,sd,side drum,caisse claire,caisse,kleine "
     "trommel,rullante,tamburo,caja,caixa,redoblante,lilletromme,virvel,virveltrumma,werbel,"
     "hihat,hi hat,hihats,hi hats,hh,hat,hats,cl hat,op "
     "hat,charleston,charley,cymbal,cymbals,cym,cyms,cymb,becken,bkn,piatti,piatto,platillos,platillo,pratos,"
     "prato,cymbales,cymbale,bekken,bekkens,symbaalit,"
     "talerze,talerz,cinely,cintanyer,tarelki,baekken,crash,ride,crash cymbal,ride cymbal,splash,china,"
     "tom,toms,tomtom,tom tom,tom toms,floor "
     "tom,bongo,bongos,conga,congas,tambourine,tamb,tambourin,tamburin,tamburello,pandereta,pandeiro,maracas,"
     "maraca,shaker,shakers,cabasa,"
     "cowbell,cow bell,clap,claps,hand "
     "clap,handclap,handclaps,guiro,claves,clave,trgl,triangle,triangel,triangolo,triangulo,castanets,"
     "kastagnetten,vibraslap,cuica,surdo,"
     "rim shot,rimshot,side stick,sidestick,rim,sleigh bells,jingle bells,jingle bell,wind chimes,wind "
     "chime,mark tree,bell tree,finger cymbals,finger cymbal,tam tam,tamtam,gong,djembe,cajon,"
     "tabla,darbuka,timbales latin,snap,snaps,finger snap,click track,metronome,temple "
     "blocks,anvil,ratchet,whip,gr tr,kl tr,gr caisse,kl trommel"},
    // what is no noun
    {{-1, Electric, None},
     "electric,elec,electr,elct,elek,elektr,el,elektrisch,elektrische,electrique,elettrico,elettrica,"
     "electrico,electrica,eletrico,eletrica,elektryczna,elektryczny,elektrisk,sahko,elektricka,"
     "elektricky,elektromos,elektro,elektrogitarr,electro,elettr,elektricheskaya,stratocaster style"},
    {{-1, Acoustic, None},
     "acoustic,acous,acou,acc "
     "gtr,acst,ac,acoustique,akustisch,akustische,akust,akustik,acustico,acustica,akoestisch,akoestische,"
     "akustyczna,akustyczny,akustisk,akustinen,akusticka,akusticky,akusztikus,"
     "akusticheskaya,western,folk,unplugged"},
    {{-1, Classical, None},
     "classical,classic,clasica,clasico,classica,classico,classique,klassisch,klassische,klasyczna,klassisk,"
     "klasicka,klassieke,klassikus,spanish,espanola,spanische,klassicheskaya,nyl,flamenco"},
    {{-1, Steel, None}, "steel,stl,stahl,stahlsaiten,folk"},
    {{-1, Jazz, None}, "jazz,jz,jazzig"},
    {{-1, Clean, None}, "clean,cln,clen,unverzerrt,pulita,limpia,limpa,czysta,ren,rein,clear,propre"},
    {{-1, Muted, None},
     "dampfer,muted,mute,mutes,mut,mtd,gedaempft,ged,gestopft,sord,sordina,sordine,sourdine,sord,con "
     "sord,con "
     "sordino,sordino,m daempfer,mit daempfer,dempet,demper,palm,palm mute,palm muted,tlumik,bouche,"
     "sordinas,apagada,dusitko,dusitkem,sordinom,harmon,avec sourdine,daempad,cup mute,straight mute,dampet"},
    {{-1, Overdriven, None}, "overdrive,overdriven,ovrd,od,ovd,ovdr,drive,crunch,over drive,odrive,ovrdrv"},
    {{-1, Distorted, None},
     "distortion,distorted,dist,distort,dst,dis,distor,verzerrt,verz,verzerrte,distorsion,distorsionada,"
     "distorcion,distorta,distorsore,distorcao,distorcida,przester,przesterowana,forvrengt,vrengt,"
     "saturee,sature,zkreslena,torzitott,heavy,metal,metall,fuzz,fuzzed,hard rock,vervormd,dist n,sarotettu"},
    {{-1, Harmonics, None}, "harmonics,flageolet,flageoletts,gt harmonics,armonici,armonicos,harmoniques"},
    {{-1, Fretless, None}, "fretlss,frless,bundlos"},
    {{-1, Slapped, None}, "slap,slapped,slp"},
    {{-1, Picked, None}, "picked,pick,plectrum,plektrum,plek"},
    {{-1, Tremolo, None}, "tremolostr"},
    {{-1, Slow, None}, "slow,langsam"},
    {{-1, Church, None},
     "church,pipe,kirchen,eglise,chiesa,iglesia,igreja,koscielne,cathedral,tuyaux,canne,tubos"},
    {{-1, Rock, None}, "rock"},
    {{-1, Reed, None}, "reed"},
    {{-1, Sweet, None}, "dolce,dulce,doce,dolci"},
    {{-1, Mouth, None}, "mouth,boca,bocca"},
    {{-1, English, None}, "engl,eng,inglese,anglais,ingles,english,englisch,engelsk,engelskt"},
    {{-1, Alto, None}, "altowy,altova,altovy,altovyj,al"},
    {{-1, Tenor, None}, "tenorowy,tenorova,tenorovy,tenorovyj,teno"},
    {{-1, Soprano, None}, "sopranowy,sopranova,sopranovy,sopranovyj"},
    {{-1, Baritone, None}, "barytonowy,barytonova,baritonovy,baritonovyj,barit,bary"},
    {{-1, Low, None}, "basowy,basowa,basova,basovy,basovyj,contra,kontra,contre,grave"},
    {{-1, 0, None},
     "bass clef,treble clef,alto clef,tenor clef,bass key,bassschluessel,violinschluessel,cle de sol,cle de "
     "fa,bas sleutel"},
    {{-1, Several, None}, "section,sect,sec,sektion,sekcja,sezione,ensemble,ens"},
};

struct Way {
    int program = 0;
    unsigned marks = 0; ///< all of them
    int becomes = 0;
};

// The first that fits counts.
constexpr Way ways[] = {
    {24, Low | Slapped, 36}, {24, Low | Fretless, 35},
    {24, Low | Picked, 34},  {24, Low | Synthetic, 38},
    {24, Low, 33},           {24, Distorted, 30},
    {24, Overdriven, 29},    {24, Harmonics, 31},
    {24, Muted, 28},         {24, Jazz, 26},
    {24, Clean, 27},         {24, Electric, 27},
    {24, Steel, 25},         {24, Classical, 24},
    {24, Acoustic, 25},      {33, Sung, 52},
    {33, Fretless, 35},      {33, Slapped, 36},
    {33, Picked, 34},        {33, Synthetic, 38},
    {33, Acoustic, 32},      {48, Synthetic, 50},
    {48, Plucked, 45},       {48, Tremolo, 44},
    {48, Slow, 49},          {48, Low, 43},
    {40, Plucked, 45},       {40, Tremolo, 44},
    {40, Alto, 41},          {40, Low, 43},
    {41, Plucked, 45},       {41, Tremolo, 44},
    {42, Plucked, 45},       {42, Tremolo, 44},
    {43, Plucked, 45},       {43, Tremolo, 44},
    {56, Muted, 59},         {60, English, 69},
    {60, Baritone, 58},      {60, Several, 61},
    {60, Low, 58},           {61, Synthetic, 62},
    {65, Soprano, 64},       {65, Tenor, 66},
    {65, Baritone, 67},      {65, Low, 67},
    {68, Alto, 69},          {73, Pan, 75},
    {73, Sweet, 74},         {73, Small, 72},
    {16, Church, 19},        {16, Rock, 18},
    {16, Mouth, 22},         {16, Reed, 20},
    {0, Electric, 4},        {0, Synthetic, 4},
    {52, Synthetic, 54},     {46, Mouth, 22},
    {21, Mouth, 22},         {33, Electric, 33},
};

} // namespace

const std::map<std::string, NameSense, std::less<>>& nameDictionary() {
    static const auto words = [] {
        std::map<std::string, NameSense, std::less<>> all;
        for (const Entry& entry : entries)
            for (std::size_t at = 0; at < entry.words.size();) {
                const std::size_t end = std::min(entry.words.find(',', at), entry.words.size());
                all.try_emplace(std::string(entry.words.substr(at, end - at)), entry.sense);
                at = end + 1;
            }
        return all;
    }();
    return words;
}

std::optional<NameSense> senseOf(const std::string& words) {
    const auto at = nameDictionary().find(words);
    return at == nameDictionary().end() ? std::nullopt : std::optional(at->second);
}

int programWith(int program, unsigned marks) {
    for (const Way& way : ways)
        if (way.program == program && (marks & way.marks) == way.marks) return way.becomes;
    return program;
}

} // namespace cobbleway
