"""The shot's size, rate and length: the first picture offers its own; what is in the shot goes along with another."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Values
from nimble_quake.media.source import MediaSource
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find, plate_path
from nimble_quake.shot.refit import Change, refitted

LEAST = 16
"""Pixels: a smaller picture is no shot."""


def source_of(session: Session, path: str) -> MediaSource | None:
    """Return the file that a plate shows, where it is open already; nobody waits for it."""
    node, operator = find(session.shot, path) if path else None, session.operator(path) if path else None
    if not isinstance(node, Node) or operator is None:
        return None
    files = [str(node.values[name]) for name in operator.file_names if node.values.get(name)]
    return session.engine.media.known(files[0]) if files else None


def figures(source: MediaSource) -> str:
    """Return a file's size, rate and length in a few letters."""
    words = [f"{source.width} × {source.height}"]
    if source.rate is not None and source.seconds > 0:
        words += [f"{float(source.rate):.5g} fps", f"{round(source.seconds, 2):g} s"]
    elif source.frames > 1:
        words += [f"{source.frames} pictures"]
    return " · ".join(words)


def offer_its_shape(session: Session, offered: set[str]) -> None:
    """Offer to give an empty shot the size, rate and length of its first picture, where they differ, once it is open.

    offered: what was offered before, a file once.
    """
    plates = session.shot.plates
    path = plate_path(plates[0].id) if len(plates) == 1 and not session.shot.maps and session.history.past else ""
    source = source_of(session, path)
    key = str(plates[0].values.get("file") or "") if path else ""
    if source is None or key in offered or min(source.width, source.height) < LEAST:
        return
    fields: dict[str, object] = {"width": source.width, "height": source.height}
    if source.rate is not None and source.seconds > 0:
        fields |= {"rate": source.rate, "length": max(1, round(source.seconds * float(source.rate)))}
    elif source.frames > 1:
        fields["length"] = source.frames
    shaped = set_shot(session.shot, **fields)
    if shaped == session.shot:
        return
    offered.add(key)
    name = session.name_of(path)

    def shape() -> None:
        session.edit(f"The shot as {name} is", set_shot(session.shot, **fields))

    session.offered.emit(f"{name} is {figures(source)}", "Make the shot so", shape)


def resized(session: Session, shot: Shot, change: Change, fields: Values | None = None) -> Shot:
    """Return a shot as a change asks. fields: other fields of it that are set too, such as its name."""
    found = refitted(shot, change, session.engine.operators.get)
    own = {name: value for name, value in (fields or {}).items() if name in ("name", "linear")}
    return msgspec.structs.replace(found, **own) if own else found
