"""A starter in the hands of a script: filled and turned, each time a new one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

from nimble_quake.conventions import Seconds, Value
from nimble_quake.session.fronts.described import front_described
from nimble_quake.session.fronts.making import Measures, length_of, made
from nimble_quake.shot.model import Shot


@dataclass(frozen=True)
class Chosen:
    """A starter: `nq.starter("shockwave").fill(clip="street.mp4").set(reach=40).shot`."""

    origin: Shot
    """The starter's shot, with its examples."""
    values: Mapping[str, Value] = field(default_factory=dict)
    measures: Measures = field(default_factory=Measures)

    def fill(self, **slots: Value) -> Chosen:
        """Return it with slots filled, by their names: a file, "text:words" or words, a map's id, a frame."""
        return replace(self, values={**self.values, **_named(slots)})

    def set(self, **dials: Value) -> Chosen:
        """Return it with dials set, by their names: a value, a motion (Keys), or words as a shell gives them."""
        return replace(self, values={**self.values, **_named(dials)})

    def sized(
        self,
        width: int | None = None,
        height: int | None = None,
        *,
        rate: Fraction | float | None = None,
        length: Seconds | str | None = None,
        times: str = "stretch",
        shape: str = "fit",
    ) -> Chosen:
        """Return it in another size (px), rate (frames a second) and length (s): see `nimble-quake make --help`.

        length "sound": as long as its sound.
        """
        size = (width, height) if width is not None and height is not None else None
        exact = None if rate is None else Fraction(rate).limit_denominator(100_000)
        seconds, by_sound = length_of(length) if isinstance(length, str) else (length, False)
        return replace(self, measures=Measures(size, exact, seconds, times, shape, self.measures.sound, by_sound))

    def with_sound(self, file: str | Path) -> Chosen:
        """Return it with a recording, from its start."""
        return replace(self, measures=replace(self.measures, sound=str(file)))

    @property
    def shot(self) -> Shot:
        """The shot it makes. Raises NimbleQuakeError that names the slot or dial."""
        return made(self.origin, self.values, self.measures)

    def describe(self) -> list[dict[str, Value]]:
        """Return its slots and dials as plain data."""
        return front_described(self.origin)


def _named(values: Mapping[str, Value]) -> dict[str, Value]:
    """Names as Python can write them: an underscore stands for a hyphen."""
    return {name.replace("_", "-"): value for name, value in values.items()}
