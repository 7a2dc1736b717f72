#!/usr/bin/env python3
"""Facts of MIDI files as python3-mido reads them, as JSON: an independent reader to compare with.

For each file: type, ticks, length in seconds, and for each (track, channel) with notes their count; all channel
messages as sorted rows [tick, status, data1, data2], a note-off of either form counting as velocity 0.
"""
import json
import sys

import mido


def rows_of(midi):
    rows = []
    for track in midi.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.is_meta or message.type == "sysex":
                continue
            data = list(message.bytes()) + [0]
            status, first, second = data[0], data[1], data[2]
            if status & 0xF0 == 0x80:
                status, second = 0x90 | status & 0x0F, 0
            rows.append([tick, status, first, second])
    return sorted(rows)


def facts(path):
    midi = mido.MidiFile(path, clip=True)
    notes = {}
    tempo = 500000
    first_tempo = None
    for number, track in enumerate(midi.tracks, 1):
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "note_on" and message.velocity > 0:
                key = f"{number}/{message.channel + 1}"
                notes[key] = notes.get(key, 0) + 1
            if message.type == "set_tempo" and tick == 0:
                first_tempo = message.tempo
    return {"type": midi.type, "ticks": midi.ticks_per_beat, "length": midi.length, "notes": notes,
            "tempo": 60e6 / (first_tempo or tempo), "rows": rows_of(midi)}


json.dump({path: facts(path) for path in sys.argv[1:]}, sys.stdout)
