#!/usr/bin/python3
"""The whole job by the actions of the accessibility bus alone: no key is pressed, no mouse moved.

Usage: job.py COBBLEWAY. A file of 14 parts is opened and read; a part is split, joined, loses its controllers, gets
another sound; one is put in front, looped, slowed down; what is ticked is written, the last edit undone, the set saved.
What should be told of each deed must have left the program. Run it by with-reader.sh.
"""
import glob
import os
import sys
import tempfile

import mido

from bus import (Atspi, GLib, PRESS, STATE, act, check, heard, menu_entry, name_of, run_with, told, wait, walk, window,
                 windows)

folder = tempfile.TemporaryDirectory()
FIELDS = {Atspi.Role.TEXT, Atspi.Role.ENTRY}


def make_file(path):
    midi = mido.MidiFile(type=0, ticks_per_beat=480)
    events = []
    for number in range(14):
        channel = number if number < 9 else number + 1
        events += [(0, mido.Message("program_change", channel=channel, program=8 * number + 1)),
                   (0, mido.Message("control_change", channel=channel, control=7, value=90)),
                   (960, mido.Message("control_change", channel=channel, control=7, value=100))]
        for i in range(16):
            note = dict(channel=channel, note=48 + i)
            events += [(240 * i, mido.Message("note_on", velocity=80, **note)),
                       (240 * i + 190, mido.Message("note_off", velocity=0, **note))]
    track, now = mido.MidiTrack(), 0
    for tick, message in sorted(events, key=lambda e: e[0]):
        track.append(message.copy(time=tick - now))
        now = tick
    midi.tracks.append(track)
    midi.save(path)


def seek(wanted):
    for top in windows():
        for node in walk(top):
            try:
                if wanted(node):
                    return node
            except GLib.Error:
                continue
    return None


def control(name, roles=None):
    node = wait(lambda: seek(lambda n: name_of(n) == name and (roles is None or n.get_role() in roles)))
    check(node is not None, f"there is {name!r}")
    return node


def press(name, roles=None):
    node = control(name, roles)
    if node is not None:
        check(wait(lambda: node.get_state_set().contains(STATE.ENABLED)), f"{name!r} can be worked")
        check(act(node, PRESS), f"{name!r} can be pressed")


def menu(*path):
    node = menu_entry(*path)
    check(node is not None, f"there is the entry {path}")
    if node is not None:
        check(act(node, PRESS), f"{path} can be worked")


def expect(text, seconds=6.0):
    check(told(text, seconds), f"it is told: {text!r} (heard: {heard})")
    heard.clear()


def type_into(name, text):
    node = control(name, FIELDS)
    if node is not None:
        check(node.set_text_contents(text), f"{name!r} can be typed into")


def choose_in_combo(label, row):
    """Chooses a row of the list that drops down; `label` is what it is labelled by."""
    def labelled(node):
        if node.get_role() != Atspi.Role.COMBO_BOX:
            return False
        return any(name_of(r.get_target(i)) == label for r in node.get_relation_set()
                   for i in range(r.get_n_targets()))
    box = wait(lambda: seek(labelled))
    check(box is not None, f"there is a list {label!r}")
    if box is None:
        return
    rows = box.get_child_at_index(0)
    item = wait(lambda: next((rows.get_child_at_index(i) for i in range(rows.get_child_count())
                              if name_of(rows.get_child_at_index(i)).startswith(row)), None))
    check(item is not None and act(item, PRESS), f"{row!r} of {label!r} can be chosen")


def row_with(text):
    return wait(lambda: seek(lambda n: n.get_role() in (Atspi.Role.LIST_ITEM, Atspi.Role.TABLE_CELL, Atspi.Role.TREE_ITEM)
                             and text in name_of(n)))


def parts():
    node = seek(lambda n: n.get_role() == Atspi.Role.LIST and name_of(n) == "Parts")
    return node.get_child_count() if node else 0


def step(number, page):
    press(f"Step {number}, {page}", {Atspi.Role.PAGE_TAB})
    expect(f"Page {page}")


def run():
    midi = os.path.join(folder.name, "Fourteen.mid")
    make_file(midi)
    check(wait(window, 30) is not None, "the window is on the bus")
    # Open it, and read what it is.
    menu("File", "Add files…")
    type_into("File name:", midi)
    press("Open", {Atspi.Role.PUSH_BUTTON})
    check(row_with("14 parts") is not None, "the list of songs says what it is")
    heard.clear()
    # Split the first part by pitch, join it again.
    step(2, "Parts")
    check(parts() == 14, f"14 parts are listed, not {parts()}")
    menu("Part", "Split and join", "Split by pitch…")
    press("Split", {Atspi.Role.PUSH_BUTTON})
    expect("is now 2 parts")
    check(wait(lambda: parts() == 15), f"15 parts are listed, not {parts()}")
    menu("Part", "Split and join", "Join…")
    heard.clear()
    tick = row_with("not ticked, Bright piano low")
    check(tick is not None and act(tick, PRESS), "a part to join can be ticked")
    expect("ticked")
    press("Join", {Atspi.Role.PUSH_BUTTON})
    expect("Join parts")
    check(wait(lambda: parts() == 14), f"14 parts are listed, not {parts()}")
    # Delete its controllers.
    menu("Part", "Events")
    choose_in_combo("Kind", "controller")
    expect("2 of ")
    for place in ("bar 1, beat 1", "bar 1, beat 3"):
        cell = row_with(place)
        check(cell is not None and act(cell, PRESS), "an event can be selected")
    expect("2 selected")
    press("Delete", {Atspi.Role.PUSH_BUTTON})
    expect("Delete 2 events")
    press("Back to the parts")
    # Try a sound, and keep it.
    menu("Sound", "Find a sound on the shelf")
    expect("Page Sounds")
    type_into("Search the shelf", "oboe")
    sound = row_with("Oboe")
    check(sound is not None and act(sound, PRESS), "a sound can be chosen")
    press("Hear it")
    expect("Trying Oboe")
    menu("Sound", "Keep the sound that is tried")
    expect("Oboe plays")
    # In front, a loop, slower.
    step(5, "Practice")
    press("Bright piano high: Lead")
    expect("in front")
    press("Loop", {Atspi.Role.CHECK_BOX})
    expect("Loop, bars")
    menu("Play", "Pace", "Slower")
    expect("Pace 95 percent")
    # Write what is ticked.
    step(6, "Export")
    out = os.path.join(folder.name, "out")
    type_into("Folder", out)
    item = row_with("not ticked, Every part, MIDI")
    check(item is not None and act(item, PRESS), "a file to write can be ticked")
    expect("ticked")
    press("Write files")
    expect(" written", 30)
    check(glob.glob(os.path.join(out, "Fourteen*")), f"a file is there: {os.listdir(folder.name)}")
    # Undo, and save.
    menu("Edit", "Undo:")
    expect("Undone")
    menu("File", "Save set")
    saved = os.path.join(folder.name, "Fourteen.cobbleway")
    type_into("File name:", saved)
    press("Save", {Atspi.Role.PUSH_BUTTON})
    expect("aved")
    check(os.path.exists(saved), "the set is on disk")


if __name__ == "__main__":
    with folder:
        sys.exit(run_with(run))
