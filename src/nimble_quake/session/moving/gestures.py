"""Gestures: whole courses of a value over a range, put down as ordinary pins."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from nimble_quake.conventions import Value
from nimble_quake.motion.easing import PRESETS
from nimble_quake.motion.kinds import EASE_IN_OUT, Ease, Key, Keys
from nimble_quake.params.kinds import Number, Param, Place
from nimble_quake.session.moving.motions import usual_of
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find, node_path, owner_path, real_path, value_name, value_path
from nimble_quake.shot.spans import bar_of

Course = tuple[tuple[float, float, str], ...]
"""Pins: the share of the range, how far (0 rest, 1 much, -1 the other way), and how it goes on."""

DWELL = 0.36
"""The share of the range after which a dwell begins; it ends as long before the end."""
FADE = 0.5
"""The share of the time to the next beat over which a kick dies away."""
STEP = 3
"""Frames between one thing and the next that is staggered."""


@dataclass(frozen=True)
class Gesture:
    """A ready course. course: of its range; beats: it is put down at every beat instead; ease: of what is eased."""

    title: str
    help: str
    course: Course
    beats: bool = False
    ease: Ease = EASE_IN_OUT
    comes_or_goes: bool = False
    """Of something that can be not there at all, its far end is that it is not."""
    anchor: str = ""
    """From which end its times are kept, where what it belongs to gets another length and it was put at that end."""


@dataclass(frozen=True)
class Over:
    """A range a gesture is put over, and what it is called. middle: the frame of its half; None: half way."""

    words: str
    first: float
    last: float
    middle: float | None = None

    def at(self, fraction: float) -> float:
        """Return the frame of a fraction of it."""
        middle = (self.first + self.last) / 2 if self.middle is None else self.middle
        begin, end, part = (self.first, middle, fraction) if fraction < 0.5 else (middle, self.last, fraction - 0.5)
        return begin + (end - begin) * part * 2


AROUND = 1.0
"""Seconds that a gesture lasts before, and after, a marker that its middle is put on."""
FROM_HERE = (0.5, 1.0, 2.0)
"""Seconds from the playhead on that a gesture may take."""

GESTURES: dict[str, Gesture] = {
    "swell": Gesture(
        "Nothing → much → nothing",
        "Comes from nothing, is most in the middle, and goes",
        ((0, 0, "eased"), (0.5, 1, "eased"), (1, 0, "eased")),
    ),
    "sway": Gesture(
        "−A → 0 → +A", "From one side through rest to the other", ((0, -1, "eased"), (0.5, 0, "eased"), (1, 1, "eased"))
    ),
    "arrive": Gesture(
        "Arrive",
        "From much to rest, more and more slowly; what can be not there comes in",
        ((0, 1, "eased"), (1, 0, "eased")),
        ease=PRESETS["ease-out"],
        comes_or_goes=True,
        anchor="start",
    ),
    "leave": Gesture(
        "Leave",
        "From rest to much, faster and faster; what can be not there goes",
        ((0, 0, "eased"), (1, 1, "eased")),
        ease=PRESETS["ease-in"],
        comes_or_goes=True,
        anchor="end",
    ),
    "dwell": Gesture(
        "Dwell in the middle",
        "Arrives, rests for a while, and leaves to the other side",
        ((0, -1, "eased"), (DWELL, 0, "straight"), (1 - DWELL, 0, "eased"), (1, 1, "eased")),
        anchor="both",
    ),
    "beats": Gesture(
        "Every beat", "Much at every beat, dying away before the next", ((0, 1, "eased"), (FADE, 0, "hold")), beats=True
    ),
}


def ranges(session: Session, path: str) -> list[Over]:
    """Return the ranges a gesture can be put over: the one that suggests itself first, then from the playhead on."""
    here, rate, end = float(session.frame), float(session.shot.rate), float(session.shot.length - 1)
    some = [Over(f"{seconds:g} s from here", here, min(here + round(seconds * rate), end)) for seconds in FROM_HERE]
    found = [range_of(session, path), *(over for over in some if over.last > over.first)]
    for marker in session.shot.markers:
        at = float(marker.frame)
        first, last = max(0.0, at - round(AROUND * rate)), min(end, at + round(AROUND * rate))
        if first < at < last:
            found.append(Over(f"a second about {marker.name or f'the marker at {marker.frame}'}", first, last, at))
    return found


def range_of(session: Session, path: str) -> Over:
    """Return the range that suggests itself: the loop, between markers, a span, or the shot."""
    shot = session.shot
    if shot.loop is not None:
        return Over("the loop", float(shot.loop[0]), float(shot.loop[1] - 1))
    marks = sorted({marker.frame for marker in shot.markers})
    before = [frame for frame in marks if frame <= session.frame]
    after = [frame for frame in marks if frame > session.frame]
    if before and after:
        return Over("what lies between markers", float(before[-1]), float(after[0]))
    words, start, end = _lifetime(shot, path)
    return Over(words, float(start), float(max(1, end - 1)))


def with_gesture(session: Session, path: str, gesture: Gesture, over: Over | None = None) -> Shot:
    """Return the shot with a gesture put down on the value at a path; over: where, else where it suggests itself."""
    path = real_path(session.shot, path)
    param = session.param(path)
    assert param is not None
    at = _measure(param, session.shown(path), session.shot.width, gesture)
    anchor = ""
    if gesture.beats:
        keys = _at_beats(session, gesture, at)
    else:
        over = over or range_of(session, path)
        anchor = gesture.anchor if _keeps(session.shot, path, gesture, over) else ""
        over = replace(over, last=max(over.last, over.first + len(gesture.course) - 1))
        keys = [_key(over.at(fraction), at(far), after, gesture.ease) for fraction, far, after in gesture.course]
    by_frame = {key.frame: key for key in keys}
    return set_value(session.shot, path, Keys(tuple(by_frame[frame] for frame in sorted(by_frame)), anchor))


def _lifetime(shot: Shot, path: str) -> tuple[str, int, int]:
    """When what a value belongs to is there: the span of an effect, the bar of a plate, or the whole shot."""
    node, owner = find(shot, node_path(path)), find(shot, owner_path(path))
    if isinstance(node, Node) and node.span is not None:
        return "its span", *node.span
    if isinstance(owner, Plate) and (owner.start is not None or owner.end is not None):
        return "its plate", *bar_of(owner, shot.length)
    return "the shot", 0, shot.length


def _keeps(shot: Shot, path: str, gesture: Gesture, over: Over) -> bool:
    """Whether a range lies at the ends that its gesture is kept from; one that ends at a marker goes with that."""
    _, start, end = _lifetime(shot, path)
    marks = {float(marker.frame) for marker in shot.markers}
    at_start, at_end = over.first <= start, over.last >= end - 1
    starts = at_start if gesture.anchor != "end" else over.first not in marks
    return starts and (at_end if gesture.anchor != "start" else over.last not in marks)


def _key(frame: float, value: Value, after: str, ease: Ease = EASE_IN_OUT) -> Key:
    return Key(frame=float(round(frame)), value=value, after=after, ease=ease)


def _measure(param: Param, now: Value, width: float, gesture: Gesture) -> Callable[[float], Value]:
    """What a gesture's 0 and 1 mean for a value: what changes nothing, and what it is now.

    Of a place: where it is, and far off. Of what can be not there: as it is, and not there, where it comes or goes.
    """
    if isinstance(now, tuple):
        far = (width, 0.0) if isinstance(param, Place) else (usual_of(param)[1] / 2,) * len(now)
        return lambda fraction: tuple(n + fraction * f for n, f in zip(now, far, strict=True))
    if isinstance(param, Number):
        return _between(param, float(now), gesture)
    much = now if now else usual_of(param)[1] / 2
    return lambda fraction: fraction * much


def _between(param: Number, now: float, gesture: Gesture) -> Callable[[float], float]:
    """As `_measure`, of a number."""
    if param.gone is not None:
        seen = now if now != param.gone else param.neutral
        low, high = (seen, param.gone) if gesture.comes_or_goes else (param.gone, seen)
    else:
        low, far = param.neutral, usual_of(param)[1]
        high = now if abs(now - low) > 1e-9 else low + (far - low) / 2
    return lambda fraction: param.clamp(low + fraction * (high - low))


def _at_beats(session: Session, gesture: Gesture, at: Callable[[float], Value]) -> list[Key]:
    beats = session.shot.beats or tuple(float(marker.frame) for marker in session.shot.markers)
    found = []
    for here, then in zip(beats, (*beats[1:], session.shot.length), strict=True):
        found += [_key(here + fraction * (then - here), at(far), after) for fraction, far, after in gesture.course]
    return found or [_key(session.frame, at(1), "eased"), _key(session.frame + 12, at(0), "hold")]


def stagger(session: Session, path: str, step: int = STEP) -> None:
    """Give the value's pins to all that is selected with it, each `step` frames later than the one before."""
    path = real_path(session.shot, path)
    raw, name = session.raw(path), value_name(path)
    others = [each for each in sorted(session.selection.marked) if each != node_path(path)]
    others = [each for each in others if session.param(value_path(each, name)) is not None]
    if not isinstance(raw, Keys) or not others:
        session.message.emit("Give one value pins, select others of its kind with Ctrl and click, then stagger")
        return
    shot = session.shot
    for number, other in enumerate(others, 1):
        later = (Key(frame=k.frame + number * step, value=k.value, after=k.after, ease=k.ease) for k in raw.keys)
        shot = set_value(shot, value_path(other, name), raw.of(later))
    session.edit(f"Stagger {session.label_of(path)} over {len(others) + 1}", shot)
