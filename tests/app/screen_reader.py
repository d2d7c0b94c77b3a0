#!/usr/bin/env python3
"""What a screen reader finds in the running program, asked through AT-SPI as one would.

usage: screen_reader.py MELLOW-LEVER; within a D-Bus session and an X server.
Every control that a person can reach has a name; values are values, move when a hand moves, and can be set.
"""
import os
import subprocess
import sys
import tempfile

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "support"))
import waiting  # noqa: E402

PATIENCE = 20  # seconds


def until(ask, what):
    return waiting.until(ask, PATIENCE) or sys.exit(f"screen_reader: {what}")


def children(node):
    return [child for child in (node.get_child_at_index(i) for i in range(node.get_child_count())) if child]


def program():
    for application in children(Atspi.get_desktop(0)):
        if application.get_name() == "Mellow Lever" and application.get_child_count() > 0:
            return application
    return None


def everything(node):
    yield node
    for child in children(node):
        yield from everything(child)


def shown(node):
    return node.get_state_set().contains(Atspi.StateType.SHOWING)


def named(root, role, name):
    for node in everything(root):
        if node.get_role_name() == role and node.get_name() == name and shown(node):
            return node
    return None


def main():
    Atspi.set_timeout(PATIENCE * 1000, PATIENCE * 1000)
    home = tempfile.mkdtemp()
    environment = dict(os.environ, QT_LINUX_ACCESSIBILITY_ALWAYS_ON="1", QT_QPA_PLATFORM="xcb", HOME=home,
                       XDG_CONFIG_HOME=home, XDG_DATA_HOME=home)
    running = subprocess.Popen([sys.argv[1], "--demo"], env=environment)
    try:
        root = until(program, "the program is not found")
        wheel = until(lambda: named(root, "slider", "Wheel"), "there is no slider named Wheel")
        target = until(lambda: named(root, "slider", "Expression"), "there is no slider named Expression")
        before = Atspi.Value.get_current_value(target)
        words = target.get_description()
        assert "reach 30 to 127" in words, words
        # Moved by the screen reader, the wheel is a hand like any other, and what it drives moves.
        assert Atspi.Value.set_current_value(wheel, 127.0)
        until(lambda: abs(Atspi.Value.get_current_value(target) - before) > 0.2, "Expression does not move")
        until(lambda: target.get_description().startswith("127,"), "Expression does not say 127")
        # Whatever can be pressed, chosen or typed into has a name, or a label that names it.
        wanted = {"push button", "check box", "slider", "combo box", "text", "menu item"}
        nameless = []
        for node in everything(root):
            inside = node.get_parent() is not None and node.get_parent().get_role_name() == "text"
            if node.get_role_name() in wanted and shown(node) and not node.get_name() and not inside:
                if not node.get_relation_set():
                    nameless.append(node.get_role_name() + " in " + str(node.get_parent().get_name()))
        assert not nameless, nameless
        sentence = [n for n in everything(root) if n.get_role_name() == "label" and "eased in" in (n.get_name() or "")]
        assert sentence, "the chain's sentence is not read"
        listed = [n.get_name() for n in everything(root) if n.get_role_name() == "list item"]
        assert any(name.startswith("Glass harmonium, ") for name in listed), listed[:20]
        print("screen_reader: all is said")
    finally:
        running.terminate()
        running.wait(10)


if __name__ == "__main__":
    main()
