"""Outlines that are drawn in the picture."""

from __future__ import annotations

from collections.abc import Sequence

from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.paths import node_path, value_path


def trace(session: Session, path: str, points: Sequence[tuple[float, float]]) -> None:
    """Lay an outline, by the path of its value, through points, shot pixels."""
    node = node_path(path)
    operator = session.operator(node)
    if operator is None or operator.traced is None:
        return
    shot = session.shot
    for name, value in operator.traced.values(points).items():
        shot = set_value(shot, value_path(node, name), value)
    session.edit(f"Draw the outline of {session.name_of(node)}", shot)
