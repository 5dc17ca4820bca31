"""How values move: giving a value a motion, laying others over it, baking it to pins."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import (
    ANCHORS,
    Driven,
    Key,
    Keys,
    Layered,
    Motion,
    is_moving,
    keys_of,
    motions,
    with_keys_of,
)
from nimble_quake.motion.motion import value_at
from nimble_quake.params.kinds import Colour, Number, Param
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.paths import real_path


def motion_kinds(param: Param) -> dict[str, str]:
    """Return the motions a value can have, with their titles; points, words and switches have no speed."""
    plain = {each.word: each.title for each in motions() if each.title and (param.size or each.any_value)}
    driven = {kind: driver.title for kind, driver in drivers().items()} if param.size else {}
    return {"still": "Still"} | plain | driven


def kind_of_motion(value: Value) -> str:
    """Return which of `motion_kinds` a value has; what is laid over it does not count."""
    return value.kind if isinstance(value, Motion) else "still"


def usual_of(param: Param) -> tuple[float, float]:
    """Return the span of values that are common for a parameter."""
    if isinstance(param, Number):
        return param.usual
    return (0.0, 1.0) if isinstance(param, Colour) or param.factor != 1 else (-100.0, 100.0)


def driven(session: Session, path: str, kind: str, *, over: bool = False) -> Driven:
    """Return the driven value that a value at a path begins with; `over`: to lie over what it is."""
    param, now = session.param(path), session.shown(path)
    assert param is not None
    driver = drivers()[kind]
    base, amount, settings = driver.begun(now, usual_of(param), param.size)
    if "band" in driver.declared and session.shot.bands:
        settings["band"] = session.shot.bands[0].id
    if "of" in driver.declared and kind == "beat" and not session.shot.beats:
        settings["of"] = "markers" if session.shot.markers else "tempo"
    if over:
        base = (0.0,) * param.size if param.size > 1 else 0.0
    return Driven(base, amount, driver(settings))


def begun(session: Session, path: str, kind: str) -> Value:
    """Return what a value is when it gets a motion of a kind: it begins with what it is now."""
    now, param = session.shown(path), session.param(path)
    if param is None or kind == "still":
        return now
    plain = next((each for each in motions() if each.word == kind and each.title), None)
    if plain is not None:
        return plain.begun(now, session.frame, param.size)
    return driven(session, path, kind)


def set_motion(session: Session, path: str, kind: str) -> None:
    """Change the kind of a value's motion, beginning at its value now; what is laid over it stays."""
    path = real_path(session.shot, path)
    raw, param = session.raw(path), session.param(path)
    if param is None:
        return
    made = begun(session, path, kind)
    if isinstance(raw, Layered) and kind != "still":
        made = Layered(made, raw.over)
    title = motion_kinds(param).get(kind, kind).lower()
    session.edit(f"Motion of {session.label_of(path)}: {title}", set_value(session.shot, path, made))


def laid_over(session: Session, path: str, motion: Driven) -> Value:
    """Return the value at a path with one more motion laid over it."""
    raw = session.raw(path)
    if raw is None:
        raw = session.shown(path)
    return Layered(raw.first, (*raw.over, motion)) if isinstance(raw, Layered) else Layered(raw, (motion,))


def lay_over(session: Session, path: str, kind: str) -> None:
    """Lay a further motion over a value."""
    path = real_path(session.shot, path)
    motion = driven(session, path, kind, over=True)
    label = f"{motion.driver.title} over {session.label_of(path)}"
    session.edit(label, set_value(session.shot, path, laid_over(session, path, motion)))


def take_off(session: Session, path: str, number: int) -> None:
    """Take one of the motions that are laid over a value away."""
    path = real_path(session.shot, path)
    raw = session.raw(path)
    if isinstance(raw, Layered):
        over = raw.over[:number] + raw.over[number + 1 :]
        value = Layered(raw.first, over) if over else raw.first
        session.edit(f"Take a motion off {session.label_of(path)}", set_value(session.shot, path, value))


def follow(session: Session, path: str, other: str) -> None:
    """Let a value follow another; refused, and said, where that one follows it."""
    path, other = real_path(session.shot, path), real_path(session.shot, other)
    motion = driven(session, path, "follow")
    settings = {**motion.driver.values, "path": other}
    value = Driven(motion.base, motion.amount, type(motion.driver)(settings))
    before = session.shot
    shot = set_value(before, path, value)
    said = f"{session.label_of(path)} follows {session.label_of(other)}"
    session.edit(said, shot)
    try:
        param = session.param(path)
        value_at(value, session.moment, param.size if param else 1)
    except NimbleQuakeError as wrong:
        session.undo()
        session.message.emit(wrong.line())
        return
    session.message.emit(said)


def bake(session: Session, path: str) -> None:
    """Turn any motion into pins: one where it bends, as few as keep it within a hundredth of its span."""
    path = real_path(session.shot, path)
    raw, param = session.raw(path), session.param(path)
    if param is None or not is_moving(raw) or not param.size:
        session.message.emit("Only a value that moves can be baked to pins")
        return
    frames = list(range(session.shot.length + 1))
    try:
        values = [value_at(raw, session.moment_at(float(frame)), param.size) for frame in frames]
    except NimbleQuakeError as wrong:
        session.message.emit(wrong.line())
        return
    keys = tuple(Key(frame=float(frames[n]), value=values[n], after="straight") for n in corners(values))
    session.edit(f"Bake {session.label_of(path)} to {len(keys)} pins", set_value(session.shot, path, Keys(keys)))


def keep_from(session: Session, path: str, anchor: str) -> None:
    """Say what becomes of the times of a value's pins with another length: one of `ANCHORS`."""
    path = real_path(session.shot, path)
    raw = session.raw(path)
    keys = keys_of(raw)
    if keys is not None:
        value = with_keys_of(raw, msgspec.structs.replace(keys, anchor=anchor))
        said = f"With another length: {session.label_of(path)} {ANCHORS[anchor].lower()}"
        session.edit(said, set_value(session.shot, path, value))


def corners(values: list[Value], fraction: float = 0.01, at: list[float] | None = None) -> list[int]:
    """Return the numbers of the values that straight lines between keep all others within a share of their span.

    at: where the values stand along time; evenly where it is not given.

    Ramer (1972) and Douglas and Peucker (1973), with the distance taken along the value.
    """
    rows = [value if isinstance(value, tuple) else (value,) for value in values]
    span = max((max(column) - min(column) for column in zip(*rows, strict=True)), default=0.0)
    if len(rows) < 3 or span == 0:
        return [0] if span == 0 else list(range(len(rows)))
    at = at or [float(n) for n in range(len(rows))]
    kept, todo = {0, len(rows) - 1}, [(0, len(rows) - 1)]
    while todo:
        a, b = todo.pop()
        far, worst = a, 0.0
        for n in range(a + 1, b):
            t = (at[n] - at[a]) / (at[b] - at[a])
            pairs = zip(rows[n], rows[a], rows[b], strict=True)
            off = max(abs(here - (first + (last - first) * t)) for here, first, last in pairs)
            if off > worst:
                far, worst = n, off
        if worst > fraction * span:
            kept.add(far)
            todo += [(a, far), (far, b)]
    return sorted(kept)
