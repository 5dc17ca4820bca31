"""States of a shot: its values as they were, taken and given back."""

from __future__ import annotations

from collections.abc import Callable, Container
from typing import TypeVar

from nimble_quake.conventions import Values
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Plate, Shot, State
from nimble_quake.shot.paths import all_nodes, kind_of

Kept = TypeVar("Kept", bound=Node)
Stays = Callable[[str, Node], Container[str]]
"""Which values of the item at a path belong to no state: the files it shows."""


def state_of(shot: Shot, id: str, name: str) -> State:
    """Return the values of a shot now, as a state."""
    now = all_nodes(shot)

    def kept(role: str, struct: type[Kept]) -> tuple[Kept, ...]:
        row = [(path, node) for path, node in now if kind_of(path) == role]
        return tuple(
            struct(id=str(n), kind=node.kind, version=node.version, on=node.on, shared=path, values=node.values)
            for n, (path, node) in enumerate(row)
        )

    return State(
        id=id,
        name=name,
        plates=kept("plate", Plate),
        effects=kept("effect", Node),
        steps=kept("step", Node),
        sounds=kept("sound", Node),
        front=kept("front", Node),
    )


def with_state(shot: Shot, state: State, stays: Stays) -> Shot:
    """Return a shot with the values of a state.

    What has come since then keeps its own; what is gone, or is of another kind now, is passed over.
    """
    for path, on, values in _changed(shot, state, stays):
        shot = set_field(shot, path, on=on, values=values)
    return shot


def differs(shot: Shot, state: State, stays: Stays) -> bool:
    """Return whether a shot has other values than a state."""
    return bool(_changed(shot, state, stays))


def _changed(shot: Shot, state: State, stays: Stays) -> list[tuple[str, bool, Values]]:
    """The items that a state changes: the path of each, whether it is on then, and its values then."""
    rows = (state.plates, state.effects, state.steps, state.sounds, state.front)
    kept = {node.shared: node for row in rows for node in row}
    found = []
    for path, node in all_nodes(shot):
        old = kept.get(path)
        if old is None or old.kind != node.kind:
            continue
        staying = stays(path, node)
        values = {name: value for name, value in old.values.items() if name not in staying}
        values |= {name: value for name, value in node.values.items() if name in staying}
        if (old.on, values) != (node.on, node.values):
            found.append((path, old.on, values))
    return found
