"""What of each sample is brought to the front: its slots, and the dials a stranger may turn."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.conventions import Value
from nimble_quake.operators.front.bringing import with_behind, with_front, with_slot
from nimble_quake.params.base import Pair
from nimble_quake.params.drives import Drive
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import found_node, value_name


@dataclass(frozen=True)
class Dial:
    """A value brought to the front under a name, with others that go along. A plate's path makes it a slot."""

    name: str
    path: str
    also: tuple[str, ...] = ()
    span: Pair | None = None
    """Its range; None: the usual one of the value."""
    like: Value = None
    """What it says at first, of a value that moves."""
    tip: str = ""
    heading: str = ""
    fit: str = "over"
    """How what is put in lies where the example lay."""
    mine: bool = False
    """Put on a picture, the whole starter goes round it: the picture comes into this slot."""


def brought(shot: Shot, dials: tuple[Dial, ...]) -> Shot:
    """Return a shot with these at its front. Raises ShotError where there is no such value."""
    for dial in dials:
        shot, path = _with(shot, dial)
        for other in dial.also if value_name(dial.path) else ():
            found = with_behind(shot, path, other)
            shot = shot if found is None else found
            assert found is not None, f"{other} does not go with {dial.name}"
        values: dict[str, Value] = {"tip": dial.tip, "heading": dial.heading}
        if not value_name(dial.path):
            values["drives"] = tuple(Drive(plate) for plate in (dial.path, *dial.also))
            values["takes_mine"] = dial.mine or ""
        if dial.span is not None:
            values |= {"low": dial.span[0], "high": dial.span[1]}
        kept = {name: value for name, value in values.items() if value != ""}
        shot = set_field(shot, path, values={**found_node(shot, path).values, **kept})
    return shot


def _with(shot: Shot, dial: Dial) -> tuple[Shot, str]:
    found_node(shot, dial.path)
    if value_name(dial.path):
        shot, path = with_front(shot, dial.path, dial.name, "", dial.like)
    else:
        shot, path = with_slot(shot, dial.path, dial.name, "", dial.fit)
    assert path, f"{dial.path} cannot be a dial"
    return shot, path
