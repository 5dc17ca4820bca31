"""The base of what is heard: recordings placed in time, and ranges of their frequencies."""

from __future__ import annotations

from nimble_quake.operators.base import Operator


class Sounding(Operator):
    """What is heard, not seen. It has settings only; the mixing is done by `render.mixing`."""

    family = "sound"
