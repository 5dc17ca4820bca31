"""A shot of another size, rate or length, with what is in it going along."""

from __future__ import annotations

import msgspec

from nimble_quake.params.refit import Values
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Shot
from nimble_quake.shot.refit import Change, refitted


def resized(session: Session, shot: Shot, change: Change, fields: Values | None = None) -> Shot:
    """Return a shot as a change asks. fields: other fields of it that are set too, such as its name."""
    found = refitted(shot, change, session.engine.operators.get)
    own = {name: value for name, value in (fields or {}).items() if name in ("name", "linear")}
    return msgspec.structs.replace(found, **own) if own else found
