"""What goes along with an edit, whoever makes it: values behind dials, and crossings with their bars."""

from __future__ import annotations

from nimble_quake.operators.front.turning import followed
from nimble_quake.shot.crossings import kept
from nimble_quake.shot.model import Shot


def in_step(before: Shot, after: Shot) -> Shot:
    """Return `after` with what goes along: see `operators.front.turning` and `shot.crossings`."""
    return kept(before, followed(before, after))
