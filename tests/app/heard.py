#!/usr/bin/python3
"""The window from outside, as a screen reader finds it: over the accessibility bus alone.

Usage: heard.py COBBLEWAY FILE.mid. Starts the program, walks every page, does what a person does by the actions that
controls offer, and holds what it hears against what should be told. Run it by with-reader.sh.
"""
import os
import subprocess
import sys
import tempfile
import time

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi, GLib  # noqa: E402

STATE = Atspi.StateType
failures = []
heard = []  # texts of notifications
focused = []  # names of what has taken the focus


def check(good, text):
    if not good:
        failures.append(text)
        print("FAIL:", text)


def name_of(node):
    try:
        return node.get_name() or ""
    except GLib.Error:
        return ""


def on_event(event):
    try:
        if event.type.startswith("object:state-changed:showing") and event.detail1:
            if event.source.get_role() == Atspi.Role.NOTIFICATION:
                heard.append(name_of(event.source))
        elif event.type.startswith("object:state-changed:focused") and event.detail1:
            focused.append(name_of(event.source))
    except GLib.Error:
        pass  # it was gone before it could be asked


def spin(seconds=0.0):
    end = time.monotonic() + seconds
    while True:
        while GLib.MainContext.default().iteration(False):
            pass
        if time.monotonic() >= end:
            return
        time.sleep(0.01)


def wait(condition, seconds=10.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        spin(0.05)
        result = condition()
        if result:
            return result
    return condition()


def walk(node, depth=0):
    """All that is shown, in order."""
    if node is None or depth > 40:
        return
    yield node
    try:
        count = min(node.get_child_count(), 400)
    except GLib.Error:
        return
    for i in range(count):
        try:
            child = node.get_child_at_index(i)
            if child is not None and child.get_state_set().contains(STATE.SHOWING):
                yield from walk(child, depth + 1)
        except GLib.Error:
            continue


def application():
    desktop = Atspi.get_desktop(0)
    for i in range(desktop.get_child_count()):
        app = desktop.get_child_at_index(i)
        if app is not None and "cobbleway" in name_of(app).lower():
            return app
    return None


def window():
    app = application()
    for i in range(app.get_child_count() if app else 0):
        child = app.get_child_at_index(i)
        if child is not None and child.get_state_set().contains(STATE.SHOWING) and "Cobbleway" in name_of(child):
            return child
    return None


BUTTONS = {Atspi.Role.PUSH_BUTTON, Atspi.Role.TOGGLE_BUTTON, Atspi.Role.CHECK_BOX, Atspi.Role.RADIO_BUTTON, Atspi.Role.PAGE_TAB}


def find(name, roles=None):
    for node in walk(window()):
        if name_of(node) == name and (roles is None or node.get_role() in roles):
            return node
    return None


def act(node, wanted):
    for i in range(node.get_n_actions()):
        if Atspi.Action.get_action_name(node, i).lower() in wanted:
            return node.do_action(i)
    return False


def told(text, seconds=5.0):
    return wait(lambda: any(text in said for said in heard), seconds)


def deed(control, text):
    """Works a control by its action; what it does must be told."""
    heard.clear()
    node = wait(lambda: find(control, BUTTONS), 5)
    check(node is not None, f"there is a control {control!r}")
    if node is None:
        return
    check(act(node, ("toggle", "press", "activate")), f"{control!r} can be worked by its action")
    check(told(text), f"after {control!r} it is told: {text!r} (heard: {heard})")


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


def main():
    Atspi.init()
    listener = Atspi.EventListener.new(on_event)
    for kind in ("object:state-changed:showing", "object:state-changed:focused"):
        listener.register(kind)
    home = tempfile.TemporaryDirectory()  # nothing of an earlier run is offered
    environment = dict(os.environ, HOME=home.name)
    for kind in ("CONFIG", "CACHE", "STATE", "DATA"):
        environment[f"XDG_{kind}_HOME"] = os.path.join(home.name, kind)
    program = subprocess.Popen([sys.argv[1], sys.argv[2]], env=environment)
    try:
        run()
        check(program.poll() is None, "the program still runs")
    finally:
        program.kill()
        program.wait()
        home.cleanup()
    print("failures:", len(failures))
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main())
