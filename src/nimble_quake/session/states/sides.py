"""The two sides of an item, A and B: set one up on each, and flip between them."""

from __future__ import annotations

from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import find, found_node, nested_path, real_path


def side_of(shot: Shot, path: str) -> str:
    """Return on which side an item is; a map is where its first step is. Empty where there is no such thing."""
    item = find(shot, real_path(shot, path)) if path else None
    if isinstance(item, Map):
        return item.recipe[0].side if item.recipe else ""
    return item.side if isinstance(item, Node) else ""


def flip_side(session: Session, path: str, side: str) -> None:
    """Go to the other side of an item, or of all steps of a map; the first time it begins as a copy of this one."""
    shot, item = session.shot, find(session.shot, path)
    paths = [nested_path(path, step.id) for step in item.recipe] if isinstance(item, Map) else [path]
    for each in paths:
        shot = _flipped(shot, real_path(shot, each), side)
    if shot is not session.shot:
        session.edit(f"Side {side} of {session.name_of(path)}", shot)


def _flipped(shot: Shot, path: str, side: str) -> Shot:
    node = found_node(shot, path)
    if side == node.side:
        return shot
    return set_field(shot, path, side=side, values=node.aside or dict(node.values), aside=dict(node.values))


def flip(session: Session) -> None:
    """Go to the other side of the selected quake, else of the finish, else of the plate."""
    chosen = session.selection
    path = chosen.quake or chosen.finish or chosen.plate
    if path:
        flip_side(session, path, "A" if side_of(session.shot, path) == "B" else "B")
