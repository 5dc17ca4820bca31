"""Dial that shows the result, or a map or mask in its place."""

from __future__ import annotations

from nimble_quake.conventions import Value, Values
from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import Drive, StillMapRef


class View(Front):
    """What is seen: the result, or one of the maps over it. Behind it stands a plate that shows a map."""

    title = "Show"
    help = "The result, or a map in its place"
    rank = 95

    value = StillMapRef(label="Value", help="What is shown in the place of the result", none="Result")
    standard = StillMapRef(label="Standard", help="What it goes back to", none="Result")

    @classmethod
    def behind(cls, values: Values, drive: Drive, own: Value) -> Value:
        """The plate is on while a map is chosen, and shows that one."""
        now = cls.now(values)
        return bool(now) if drive.path.endswith("/on") else now or own or ""
