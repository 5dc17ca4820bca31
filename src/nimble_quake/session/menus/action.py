"""An action: something a person can do, and when it can be done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_quake.render.heard import sound_files
from nimble_quake.session.host import Host
from nimble_quake.shot.paths import kind_of

Run = Callable[[Host], object]
"""Takes the window, or what stands in for it in a test."""


@dataclass(frozen=True)
class Action:
    """Something a person can do. `enabled` is asked when its menu opens."""

    id: str
    title: str
    menu: str
    run: Run
    shortcut: str = ""
    enabled: Run = lambda host: True
    group: int = 0
    """Actions of another group are parted by a line in their menu."""
    called: str = ""
    """What people also call it, in words that the command finder looks for too."""


def can_undo(host: Host) -> bool:
    return bool(host.session.history.past)


def can_redo(host: Host) -> bool:
    return bool(host.session.history.future)


def has_plate(host: Host) -> bool:
    return bool(host.session.selection.plate)


def has_quake(host: Host) -> bool:
    return bool(host.session.selection.quake)


def has_effect(host: Host) -> bool:
    return bool(host.session.selection.finish or host.session.selection.quake)


def has_map(host: Host) -> bool:
    return bool(host.session.selection.map)


def has_sound(host: Host) -> bool:
    return bool(sound_files(host.session.shot))


def has_beats(host: Host) -> bool:
    return bool(host.session.shot.beats)


def has_aimed_effect(host: Host) -> bool:
    return kind_of(host.session.selection.aimed or "plates/none") == "effect"


def has_step(host: Host) -> bool:
    return bool(host.session.selection.step)
