"""Reshaping many pins at once: stretched, reversed, repeated, thinned out, smoothed; spans of effects."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from nimble_quake.motion.kinds import Key, pins_of
from nimble_quake.params.kinds import Number, Param
from nimble_quake.session.moving.motions import corners
from nimble_quake.session.moving.pins import Chosen, by_path
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.keys import keys_at, with_keys
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import all_nodes, find, value_path

THIN = 0.02
"""Pins that leave their trace within this share of its span are not needed."""


def all_pins(session: Session) -> Chosen:
    """Return every pin of the shot."""
    return {
        (value_path(path, name), key.frame)
        for path, node in all_nodes(session.shot)
        for name, value in node.values.items()
        for key in pins_of(value)
    }


def _each(shot: Shot, chosen: Chosen, change: Callable[[list[Key]], list[Key]]) -> Shot:
    """The shot with the chosen pins of every value changed together."""
    for path, frames in by_path(chosen).items():
        keys = keys_at(shot, path)
        those = [key for key in keys if key.frame in frames]
        kept = [key for key in keys if key.frame not in frames]
        shot = with_keys(shot, path, [*kept, *change(those)])
    return shot


def stretched(shot: Shot, chosen: Chosen, about: float, times: float) -> Shot:
    """Return the shot with pins moved away from a frame, or towards it, whole frames."""

    def change(keys: list[Key]) -> list[Key]:
        return [msgspec.structs.replace(k, frame=float(round(about + (k.frame - about) * times))) for k in keys]

    return _each(shot, chosen, change)


def drawn_out(shot: Shot, chosen: Chosen, grabbed: float, to: float) -> tuple[Shot, Chosen]:
    """Return the shot with pins stretched so that those at one frame come to another, and where they are then.

    The far end of them stays: the last pin if the first half is dragged, else the first. They never swap places.
    """
    frames = [frame for _, frame in chosen]
    first, last = min(frames), max(frames)
    about = last if grabbed - first < last - grabbed else first
    times = max((to - about) / (grabbed - about), 1 / (last - first))
    return stretched(shot, chosen, about, times), {
        (path, float(round(about + (f - about) * times))) for path, f in chosen
    }


def drawn_up(shot: Shot, chosen: Chosen, path: str, grabbed: float, to: float, param: Param | None) -> Shot:
    """Return the shot with the chosen pins of a value stretched in value, so that one at `grabbed` comes to `to`.

    The far end of them stays: the lowest if the upper half is dragged, else the highest.
    """
    frames = by_path(chosen).get(path, set())
    values = [key.value for key in keys_at(shot, path) if key.frame in frames and isinstance(key.value, float | int)]
    if not isinstance(param, Number) or not values or min(values) == max(values):
        return shot
    about = min(values) if grabbed - min(values) >= max(values) - grabbed else max(values)
    times = (to - about) / (grabbed - about)

    def change(keys: list[Key]) -> list[Key]:
        return [
            msgspec.structs.replace(k, value=round(param.clamp(about + (k.value - about) * times), 4)) for k in keys
        ]

    return _each(shot, {(path, frame) for frame in frames}, change)


def reverse(session: Session, chosen: Chosen) -> None:
    """Let pins run backwards between the first and the last of them; the curves between them run backwards too."""
    frames = [frame for _, frame in chosen]
    if len(set(frames)) < 2:
        session.message.emit("Choose two pins at least, then reverse them")
        return
    first, last = min(frames), max(frames)

    def change(keys: list[Key]) -> list[Key]:
        found = []
        for number, key in enumerate(keys):
            before = keys[number - 1] if number else keys[-1]
            x1, y1, x2, y2 = before.ease
            ease = (round(1 - x2, 9), round(1 - y2, 9), round(1 - x1, 9), round(1 - y1, 9))
            found.append(msgspec.structs.replace(key, frame=first + last - key.frame, after=before.after, ease=ease))
        return found

    session.edit("Reverse pins", _each(session.shot, chosen, change))


def repeat(session: Session, chosen: Chosen) -> None:
    """Repeat pins to the end of the shot, each time from where they end."""
    frames = [frame for _, frame in chosen]
    length = max(frames) - min(frames) if frames else 0
    if length <= 0:
        session.message.emit("Choose the pins of one round, then repeat them")
        return
    rounds = int((session.shot.length - min(frames)) / length)

    def change(keys: list[Key]) -> list[Key]:
        later = [msgspec.structs.replace(k, frame=k.frame + n * length) for n in range(rounds + 1) for k in keys]
        return [key for key in later if key.frame <= session.shot.length]

    session.edit(f"Repeat pins {rounds} times", _each(session.shot, chosen, change))


def simplify(session: Session, chosen: Chosen) -> None:
    """Take pins away that their neighbours do without."""
    before = sum(len(frames) for frames in by_path(chosen).values())
    shot = session.shot
    for path, frames in by_path(chosen).items():
        keys = [key for key in keys_at(shot, path) if key.frame in frames]
        if len(keys) > 2 and all(isinstance(key.value, float | int | tuple) for key in keys):
            needed = {keys[n].frame for n in corners([key.value for key in keys], THIN, [key.frame for key in keys])}
            gone = {key.frame for key in keys if key.frame not in needed}
            shot = with_keys(shot, path, [key for key in keys_at(shot, path) if key.frame not in gone])
    after = sum(len([k for k in keys_at(shot, path) if k.frame in fs]) for path, fs in by_path(chosen).items())
    session.edit(f"Simplify {before} pins to {after}", shot)
    session.message.emit(f"{before} pins, now {after}")


def smooth_all(session: Session) -> None:
    """Let every value run through its pins without a corner."""
    shot, chosen = session.shot, all_pins(session)
    shot = _each(shot, chosen, lambda keys: [msgspec.structs.replace(key, after="smooth") for key in keys])
    session.edit(f"Smooth all {len(chosen)} pins", shot)


# Spans of effects


def give_span(session: Session, path: str) -> None:
    """Give an effect a span: the loop, else a second from the playhead; or take it away again."""
    node = find(session.shot, path)
    if not isinstance(node, Node):
        session.message.emit("Choose an effect first, then give it a span")
        return
    if node.span is not None:
        session.edit(f"{session.name_of(path)} acts always", set_field(session.shot, path, span=None, fades=(0, 0)))
        return
    second = max(2, round(float(session.shot.rate)))
    span = session.shot.loop or (session.frame, min(session.shot.length, session.frame + second))
    fade = max(0, min(second // 6, (span[1] - span[0]) // 3))
    session.edit(f"Give {session.name_of(path)} a span", set_field(session.shot, path, span=span, fades=(fade, fade)))


def with_span(shot: Shot, path: str, span: tuple[int, int], *, pins: bool) -> Shot:
    """Return the shot with an effect's span changed; with `pins` its values' pins inside are stretched with it."""
    node = find(shot, path)
    if not isinstance(node, Node) or node.span is None:
        return shot
    (first, end), (to, to_end) = node.span, span
    times = (to_end - to) / max(1, end - first)
    if pins:
        chosen = {
            (value_path(path, name), key.frame)
            for name, value in node.values.items()
            for key in pins_of(value)
            if first <= key.frame <= end
        }
        shot = _each(shot, chosen, lambda keys: [_carried(key, first, to, times) for key in keys])
    return set_field(shot, path, span=span)


def _carried(key: Key, first: int, to: int, times: float) -> Key:
    return msgspec.structs.replace(key, frame=float(round(to + (key.frame - first) * times)))
