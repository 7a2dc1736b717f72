#!/usr/bin/python3
"""The window from outside, as a screen reader finds it: over the accessibility bus alone.

Usage: heard.py COBBLEWAY FILE.mid. Starts the program, walks every page, works controls by their actions, and holds what
it hears against what should be told. Run it by with-reader.sh.
"""
import sys

from bus import Atspi, STATE, check, deed, find, heard, name_of, run_with, spin, told, wait, walk, window

# What need not have a name: parts of other things, and what only holds others.
NAMELESS = {Atspi.Role.FILLER, Atspi.Role.PANEL, Atspi.Role.SCROLL_BAR, Atspi.Role.SEPARATOR, Atspi.Role.LAYERED_PANE}


def walk_page(page):
    stops = 0
    for node in walk(window()):
        states, role = node.get_state_set(), node.get_role()
        if not states.contains(STATE.FOCUSABLE) or role in NAMELESS:
            continue
        stops += 1
        check(name_of(node), f"page {page}: a {node.get_role_name()} has no name")
    print(f"page {page}: {stops} things that take the focus")
    check(stops > 5, f"page {page} has content")


def run():
    check(wait(window, 30) is not None, "the window is on the bus")
    check(wait(lambda: find("Lantern Quay"), 30) is not None, "the song is there")
    spin(1)
    for number, page in enumerate(("Songs", "Parts", "Sounds", "Drums", "Practice", "Export"), 1):
        if page != "Songs":
            deed(f"Step {number}, {page}", f"Page {page}")
        spin(0.5)
        walk_page(page)
    deed("Step 5, Practice", "Page Practice")
    deed("Clarinets: Off", "all but Clarinets")
    deed("Clarinets: Lead", "Clarinets in front")
    deed("Full band", "full band")
    deed("Play", "Playing")
    deed("Stop", "Stopped")
    deed("Loop", "Loop, bars")
    # What painted views stand for leaves as a number, and can be set.
    sliders = [n for n in walk(window()) if n.get_role() == Atspi.Role.SLIDER]
    strip = next((n for n in sliders if Atspi.Value.get_maximum_value(n) == 80), None)  # bars of the song
    check(strip is not None, "the strip is a slider of bars")
    heard.clear()
    if strip is not None:
        Atspi.Value.set_current_value(strip, 25)
        check(told("bar 25"), f"moving the place is told (heard: {heard})")
        check(wait(lambda: Atspi.Value.get_current_value(strip) == 25), "the strip tells its bar")
    # Nothing is described by what was told before.
    check(not window().get_description(), "the window has no description")


if __name__ == "__main__":
    sys.exit(run_with(run))
