"""Results of other threads reach the window's thread, and nothing that is gone."""

from __future__ import annotations

import threading

from PyQt6 import sip
from PyQt6.QtCore import QObject

from nimble_quake.desktop.aside import on_window_thread


def ran(work):
    thread = threading.Thread(target=work)
    thread.start()
    thread.join()


def test_it_is_taken_on_the_windows_thread_in_order(qtbot):
    owner, taken = QObject(), []
    hand_over = on_window_thread(owner, lambda n: taken.append((n, threading.current_thread())))
    ran(lambda: [hand_over(n) for n in range(3)])
    assert taken == []
    qtbot.waitUntil(lambda: len(taken) == 3)
    assert taken == [(n, threading.main_thread()) for n in range(3)]


def test_what_comes_after_its_owner_is_gone_is_dropped(qtbot):
    """A bound signal of a deleted object, emitted by a thread, ends the program."""
    owner, taken = QObject(), []
    hand_over = on_window_thread(owner, lambda: taken.append("late"))
    ran(hand_over)
    sip.delete(owner)
    ran(hand_over)
    qtbot.wait(30)
    assert taken == []
