"""When a parameter counts: what another one has to be."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.conventions import Value


@dataclass(frozen=True, init=False)
class When:
    """Another parameter is one of some values; without values: it is on, or anything is chosen.

    `When("shape", "linear", "radial")`, `When("split")`.
    """

    name: str
    values: tuple[str, ...]

    def __init__(self, name: str, *values: str) -> None:
        object.__setattr__(self, "name", name)
        object.__setattr__(self, "values", values)

    def holds(self, value: Value) -> bool:
        """Return whether it is so, with the other parameter's value."""
        return value in self.values if self.values else bool(value)


@dataclass(frozen=True, init=False)
class MoreThan(When):
    """Another parameter is a number above a bound. `MoreThan("layers", 1)`."""

    bound: float

    def __init__(self, name: str, bound: float) -> None:
        super().__init__(name)
        object.__setattr__(self, "bound", bound)

    def holds(self, value: Value) -> bool:
        return isinstance(value, float | int) and value > self.bound
