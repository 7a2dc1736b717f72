#pragma once
#include "waves.h"

namespace fontmaker {

/// The kinds of tone that the 128 programs are made of.
enum class Timbre {
    Piano, EPiano, EPianoBright, Harpsichord, Clavi, Celesta, Glocken, MusicBox, Vibes, Marimba, Xylo, Tubular, Dulcimer,
    Drawbar, PercOrgan, RockOrgan, Church, Reed, Accordion, Harmonica,
    Nylon, Steel, Jazz, Muted, Drive, Harmonics, UprightBass, FingerBass, PickBass, SlapBass, SynthBass,
    Violin, Cello, Ensemble, SynthStrings, Pizzicato, Harp, Timpani, Aahs, Oohs, Hit,
    Trumpet, Trombone, Tuba, MutedTrumpet, Horn, Section, SynthBrass, Sax, Oboe, Bassoon, Clarinet,
    Flute, Recorder, PanFlute, Whistle, Square, Saw, Glass, Bowed, Metal, Sitar, Banjo, Koto, Kalimba, BagPipe,
    Agogo, SteelDrum, WoodBlock, Taiko, Tom, SynthTom, ReverseCymbal, FretNoise, Breath, Sea, Bird, Phone, Copter, Applause, Shot,
    Count
};

/// The samples of a timbre: a few root keys that cover the keyboard, or one that plays once.
std::vector<Sample> samplesOf(Timbre timbre);

} // namespace fontmaker
