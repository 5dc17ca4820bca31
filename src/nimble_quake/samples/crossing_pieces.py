"""What crossings are made of: two clips that meet, maps that grow, values that follow the crossing."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven
from nimble_quake.params.kinds import Stop
from nimble_quake.samples import FOLDER
from nimble_quake.samples.fronts import Dial, brought
from nimble_quake.samples.pieces import clip, map_of, plate, shot, step
from nimble_quake.shot.crossings import with_courses
from nimble_quake.shot.model import Map, Node, Shot

START, END, LENGTH = 24, 48, 72
"""Frames: the crossing lasts a second in the middle of three."""
TARGET = FOLDER / "crossings"


def follow(what: str, amount: float, base: float = 0.0) -> Driven:
    """A number that goes with the crossing's progress, strength or mix."""
    return Driven(base, amount, Follow({"path": f"plates/crossing/{what}"}))


def cross(
    name: str,
    *effects: Node,
    maps: tuple[Map, ...] = (),
    sides: tuple[tuple[Node, ...], tuple[Node, ...]] = ((), ()),
    clips: tuple[str, str] = ("stall", "lanterns"),
    dials: tuple[Dial, ...] = (),
    **values: Value,
) -> Shot:
    """A shot in which two clips cross. sides: effects of the first and of the second that belong to the crossing."""
    first, second = (clip(file) for file in clips)
    first = msgspec.structs.replace(first, end=END, effects=tuple(map(_belongs, sides[0])))
    second = msgspec.structs.replace(second, start=START, effects=tuple(map(_belongs, sides[1])))
    made = plate("crossing", "crossing", name, *effects, before=clips[0], after=clips[1], **values)
    made = with_courses(msgspec.structs.replace(made, start=START, end=END))
    found = shot(name, LENGTH, [made, second, first], list(maps), playhead=(START + END) // 2)
    slots = (Dial("From", f"plates/{clips[0]}"), Dial("To", f"plates/{clips[1]}"))
    return brought(found, (*slots, *dials, Dial("Strongest", "plates/crossing/strongest", span=(0, 1))))


def _belongs(effect: Node) -> Node:
    return msgspec.structs.replace(effect, inside="crossing", span=(START, END))


def ramp(id: str, start: tuple[float, float], end: tuple[float, float], *more: Node) -> Map:
    stops = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 1.0, 1.0, 1.0)))
    return map_of(id, id.title(), step("gradient", stops=stops, start=start, end=end), *more)


ACROSS = ramp("across", (0.0, 360.0), (1280.0, 360.0))
SLANTED = ramp("slanted", (180.0, 0.0), (1100.0, 720.0))
NOISE = map_of("clouds", "Clouds", step("noise", size_x=320.0, size_y=220.0, octaves=4, churn=0.6, contrast=1.3))
SOFT = Dial("Softness", "plates/crossing/soft", span=(0, 1.5), tip="How soft the border between them is")


def grown(id: str, name: str, rim: float, soft: float) -> Map:
    """A ring, or a disc, that grows with the progress."""
    size, middle = follow("progress", 1900.0), 0.0 if rim else 1.0
    look: dict[str, Value] = {"rim": rim, "soft": soft, "middle": middle, "spin": 0.0}
    return map_of(id, name, step("shape", form="ellipse", width=size, height=size, **look))


def amount(effect: str, value: str) -> str:
    return f"plates/crossing/effects/{effect}/{value}"


MIRROR: dict[str, Value] = {"edge": "mirror"}
STRENGTH = follow("strength", 1.0)
