"""The pieces that sample shots are put together from in few words."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from nimble_quake.conventions import Value
from nimble_quake.motion.easing import PRESETS
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.samples import FOLDER
from nimble_quake.shot.model import Map, Node, Plate, Shot

MEDIA = FOLDER / "media"
WIDTH, HEIGHT, RATE = 1280, 720, Fraction(24)
GOLD = (0.97, 0.84, 0.54, 1.0)
SHOTS: dict[str, Callable[[], Shot]] = {}


def sample(name: str) -> Callable[[Callable[[], Shot]], Callable[[], Shot]]:
    """Name the file of a shot."""

    def keep(make: Callable[[], Shot]) -> Callable[[], Shot]:
        SHOTS[name] = make
        return make

    return keep


def shot(name: str, length: int, plates: list[Plate], maps: list[Map], **more: Value) -> Shot:
    return Shot(
        name=name, width=WIDTH, height=HEIGHT, rate=RATE, length=length, plates=tuple(plates), maps=tuple(maps), **more
    )


def step(kind: str, id: str = "", /, **values: Value) -> Node:
    name = values.pop("called", "")
    return Node(id=id or kind.replace("_", "-"), kind=kind, name=name, values=values)


def map_of(id: str, name: str, *steps: Node) -> Map:
    return Map(id=id, name=name, recipe=steps)


def plate(kind: str, id: str, name: str, *effects: Node, **values: Value) -> Plate:
    return Plate(id=id, kind=kind, name=name, values=values, effects=effects)


def clip(file: str, *effects: Node, **values: Value) -> Plate:
    return plate("clip", file, file.title(), *effects, file=str(MEDIA / f"{file}.mp4"), fit="cover", **values)


def title(words: str, *effects: Node, **values: Value) -> Plate:
    return plate("text", "title", "Title", *effects, **({"words": words, "size": 170.0, "colour": GOLD} | values))


def emblem(*effects: Node, **values: Value) -> Plate:
    return plate("artwork", "emblem", "Emblem", *effects, file=str(MEDIA / "emblem.svg"), fit="centre", **values)


def night() -> Plate:
    return plate("fill", "night", "Night", shape="linear", colour=(0.07, 0.05, 0.14, 1.0))


def keys(*pairs: tuple[float, Value], after: str = "eased", ease: str = "ease-in-out", anchor: str = "") -> Keys:
    some = (Key(frame=float(frame), value=value, after=after, ease=PRESETS[ease]) for frame, value in pairs)
    return Keys(tuple(some), anchor)
