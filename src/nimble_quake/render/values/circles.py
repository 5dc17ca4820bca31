"""What is under way, so that a circle is found where it closes, whatever kind of reference closes it, and named."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from nimble_quake.errors import MotionError, ShotError


class EvaluationStack:
    """The things that wait for one another, the first one first: pictures, maps, moving values."""

    def __init__(self, wrong: type[ShotError] | type[MotionError] = ShotError) -> None:
        self.paths: list[str] = []
        self._wrong = wrong

    @contextmanager
    def on(self, path: str, what: str, cure: str) -> Iterator[None]:
        """Note that something is under way. Raises ShotError or MotionError, with the path, where it is already."""
        if path in self.paths:
            circle = _shown([*self.paths[self.paths.index(path) :], path])
            if self._wrong is MotionError:
                raise MotionError(f"{what}: {circle}", cure=cure)
            raise self._wrong(what, where=circle, cure=cure)
        self.paths.append(path)
        try:
            yield
        finally:
            self.paths.pop()


OWN = " (its own picture)"


def own_picture(plate: str) -> str:
    """Return the name under which a plate's picture without its effects is under way."""
    return plate + OWN


def _shown(circle: list[str]) -> str:
    """A circle in words: a plate that waits for its own picture is named once."""
    names = [path.removesuffix(OWN) for path in circle]
    short = [name for n, name in enumerate(names) if n == 0 or name != names[n - 1]]
    return " -> ".join(short if len(short) > 1 else short * 2)
