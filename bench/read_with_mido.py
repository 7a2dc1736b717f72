#!/usr/bin/env python3
"""Reads a MIDI file with python3-mido and prints the processor seconds it took."""
import sys
import time

import mido

start = time.process_time()
messages = sum(len(track) for track in mido.MidiFile(sys.argv[1]).tracks)
print(f"mido: {messages} messages in {time.process_time() - start:.2f} s of processor time")
