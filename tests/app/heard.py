#!/usr/bin/python3
"""The window from outside, as a screen reader finds it: over the accessibility bus alone.

Usage: heard.py COBBLEWAY FILE.mid. Starts the program, walks every page and every dialog that a menu opens, works
controls by their actions, and holds what it hears against what should be told. Run it by with-reader.sh.
"""
import sys

from bus import (Atspi, PRESS, STATE, act, check, deed, entries, find, heard, menu_bar, name_of, run_with, spin, told, wait,
                 walk, window, windows)

# What need not have a name: parts of other things, and what only holds others.
NAMELESS = {Atspi.Role.FILLER, Atspi.Role.PANEL, Atspi.Role.SCROLL_BAR, Atspi.Role.SEPARATOR, Atspi.Role.LAYERED_PANE}


def walk_named(where, top):
    """Everything that takes the focus has a name; gives how many things do."""
    stops = 0
    for node in walk(top):
        states, role = node.get_state_set(), node.get_role()
        if not states.contains(STATE.FOCUSABLE) or role in NAMELESS:
            continue
        stops += 1
        check(name_of(node) or named_by_label(node), f"{where}: a {node.get_role_name()} has no name")
    print(f"{where}: {stops} things that take the focus")
    return stops


def named_by_label(node):
    return any(relation.get_relation_type() == Atspi.RelationType.LABELLED_BY for relation in node.get_relation_set())


def walk_dialogs(menu):
    """Opens everything in the menus that asks for more, and closes it."""
    for entry in entries(menu):
        name = name_of(entry)
        if entry.get_child_count():
            walk_dialogs(entry)
        elif name.endswith("…") and entry.get_state_set().contains(STATE.ENABLED):
            check(act(entry, PRESS), f"{name!r} can be worked")
            dialog = wait(lambda: next((w for w in windows() if "Cobbleway" not in name_of(w)), None), 5)
            if dialog is None:
                continue  # it asks in the window
            check(name_of(dialog), f"the dialog of {name!r} has a title")
            if not any(name_of(node) == "Look in:" for node in walk(dialog)):  # Qt's own, for files
                check(walk_named(name, dialog) > 0, f"the dialog of {name!r} has content")
            close = next((n for n in walk(dialog) if name_of(n) in ("Cancel", "Close", "OK")
                          and n.get_role() == Atspi.Role.PUSH_BUTTON), None)
            check(close is not None and act(close, PRESS), f"the dialog of {name!r} can be closed")
            check(wait(lambda: all("Cobbleway" in name_of(w) for w in windows())), f"the dialog of {name!r} is gone")


def run():
    check(wait(window, 30) is not None, "the window is on the bus")
    check(wait(lambda: find("Lantern Quay"), 30) is not None, "the song is there")
    spin(1)
    tabs = [name_of(n) for n in walk(window()) if n.get_role() == Atspi.Role.PAGE_TAB and name_of(n).startswith("Step")]
    check(len(tabs) == 6, f"the rail has six steps, not {tabs}")
    for tab in tabs[1:] + tabs[:1]:
        page = tab.split(", ")[1]
        deed(tab, f"Page {page}")
        spin(0.5)
        check(walk_named(f"page {page}", window()) > 5, f"page {page} has content")
    walk_dialogs(menu_bar())
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
