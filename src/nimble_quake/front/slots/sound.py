"""Slot of a sound."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import MediaFile, Param


class Sound(Front):
    """A recording that the next user puts in."""

    title = "Sound"
    help = "A sound, put in by whoever uses it next"
    rank = 4
    slot = True
    card = True
    sort = "chalk"

    value = MediaFile(label="Value", help="The file of the sound", sort="sound")
    standard = MediaFile(label="Example", help="The example's own sound", sort="sound")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, MediaFile) and param.sort == "sound"
