"""A running window as another process finds it: over the accessibility bus alone. Used by heard.py and job.py."""
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


def windows():
    """The dialogs that are open, then the window."""
    app = application()
    children = [app.get_child_at_index(i) for i in range(app.get_child_count())]
    shown = [c for c in children if c is not None and c.get_state_set().contains(STATE.SHOWING)]
    return sorted(shown, key=lambda c: "Cobbleway" in name_of(c))


def menu_bar():
    top = window()
    return next(top.get_child_at_index(i) for i in range(top.get_child_count())
                if top.get_child_at_index(i).get_role() == Atspi.Role.MENU_BAR)


def entries(menu):
    """The entries of a menu or the bar, open or not."""
    for i in range(menu.get_child_count()):
        child = menu.get_child_at_index(i)
        if child is not None and child.get_role() == Atspi.Role.MENU_ITEM:
            yield child
        elif child is not None and child.get_role() == Atspi.Role.POPUP_MENU:
            yield from entries(child)


def menu_entry(*path):
    """The entry of a menu; a name that ends with a colon is how it begins."""
    node = menu_bar()
    for name in path:
        node = next((e for e in entries(node)
                     if name_of(e) == name or name.endswith(":") and name_of(e).startswith(name)), None)
        if node is None:
            return None
    return node


PRESS = ("press", "toggle", "activate")
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
    check(act(node, PRESS), f"{control!r} can be worked by its action")
    check(told(text), f"after {control!r} it is told: {text!r} (heard: {heard})")


def run_with(run):
    """Starts the program with a home of its own and the given arguments, runs the checks, and gives the exit code."""
    Atspi.init()
    Atspi.set_timeout(10000, 15000)  # ms for an answer, and while a program starts: a machine may be busy for a while
    listener = Atspi.EventListener.new(on_event)
    for kind in ("object:state-changed:showing", "object:state-changed:focused"):
        listener.register(kind)
    home = tempfile.TemporaryDirectory()  # nothing of an earlier run is offered
    environment = dict(os.environ, HOME=home.name)
    for kind in ("CONFIG", "CACHE", "STATE", "DATA"):
        environment[f"XDG_{kind}_HOME"] = os.path.join(home.name, kind)
    program = subprocess.Popen(sys.argv[1:3], env=environment)
    try:
        run()
        check(program.poll() is None, "the program still runs")
    finally:
        program.kill()
        program.wait()
        home.cleanup()
    print("failures:", len(failures))
    return 1 if failures else 0

