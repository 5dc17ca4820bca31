"""The base of all that is declared: operators, and the drivers of moving values.

A subclass declares its parameters as class attributes (see `params.kinds`), its names and help as class variables. An
instance holds values, so a method reads `self.size_x` as a plain float.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import ClassVar

from nimble_quake.conventions import Value, Values
from nimble_quake.params.kinds import Param
from nimble_quake.params.refit import Refit


class Declared:
    """Values of what a subclass declares."""

    kind: ClassVar[str] = ""
    """Its name in files: that of its module."""
    title: ClassVar[str] = ""
    help: ClassVar[str] = ""
    called: ClassVar[str] = ""
    """What people also call it, in words that the command finder and the boards look for too."""
    group: ClassVar[str] = ""
    """The heading it stands under on a board."""
    rank: ClassVar[int] = 100
    """Where it stands among others: low comes first. On a board a group stands where its first one does."""
    version: ClassVar[int] = 1
    upgrades: ClassVar[tuple[Callable[[dict[str, object]], dict[str, object]], ...]] = ()
    """What turns the values of version 1, 2, ... as a file holds them into those of the next version."""
    sections: ClassVar[tuple[str, ...]] = ()
    """The folding sections of its settings, in order."""
    without: ClassVar[frozenset[str]] = frozenset()
    """Parameters of its base that it does not have."""
    declared: ClassVar[dict[str, Param]] = {}
    """Its parameters by name, in the order of its settings: found from its class and its bases."""

    def __init_subclass__(cls, **kwargs: object) -> None:
        super().__init_subclass__(**kwargs)
        cls.kind = cls.__module__.rsplit(".", 1)[-1]
        found: dict[str, Param] = {}
        for base in cls.__mro__:  # its own first, then those of what is mixed in
            for name, value in vars(base).items():
                if isinstance(value, Param):
                    found.setdefault(name, value)
        order = {section: n for n, section in enumerate(cls.sections)}
        kept = {name: param for name, param in found.items() if name not in cls.without}
        cls.declared = dict(sorted(kept.items(), key=lambda item: order.get(item[1].section, _last(item[1], order))))
        if len(cls.upgrades) != cls.version - 1:
            raise TypeError(f"{cls.kind} is of version {cls.version}, so it needs {cls.version - 1} upgrades")

    def __init__(self, values: Mapping[str, object]) -> None:
        self._values = dict(values)
        self.__dict__.update(self._values)  # asked before the parameter of that name: ten times as fast

    @property
    def values(self) -> Mapping[str, Value]:
        """Its values, by name."""
        return self._values

    @classmethod
    def given(cls, values: Mapping[str, Value], name: str) -> Value:
        """Return a value as a shot holds it, which may be a motion: the default where it holds none."""
        return values[name] if name in values else cls.declared[name].default

    def hears_beats(self) -> bool:
        """Whether it asks for the shot's beats or markers."""
        return False

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        """Return its values for a shot of another size or rate, once all that is declared in px or frames is scaled.

        What depends on the frame's size otherwise is scaled here.
        """
        return values

    @classmethod
    def upgraded(cls, values: dict[str, object], version: int) -> dict[str, object]:
        """Return the values of an older version, as a file holds them, as those of today's."""
        for upgrade in cls.upgrades[version - 1 :]:
            values = upgrade(values)
        return values


def _last(param: Param, order: Mapping[str, int]) -> int:
    """Where a parameter stands whose section is not listed: after all that are, or before them if it is in none."""
    return len(order) if param.section else -1
