"""Finding operators: every module of the operator packages, in sorted order, and installed additions."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cache, cached_property

from nimble_quake.declared.discovery import classes_added, classes_in
from nimble_quake.operators.base import Operator
from nimble_quake.operators.front.base import Front
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.quake import Quake
from nimble_quake.operators.sounding import Sounding
from nimble_quake.operators.steps import Finish, Shaper, Source, Step

FAMILIES: dict[str, tuple[str, type[Operator]]] = {
    "source": ("nimble_quake.sources", Source),
    "shaper": ("nimble_quake.shapers", Shaper),
    "quake": ("nimble_quake.quakes", Quake),
    "finish": ("nimble_quake.finishes", Finish),
    "plate": ("nimble_quake.plates", PlateKind),
    "sound": ("nimble_quake.sounds", Sounding),
    "front": ("nimble_quake.front", Front),
}
APART = frozenset({"plate", "sound", "front"})
"""Families that share their place with no other; the others stand in recipes and among effects."""
ROLES = {"step": "map", "effect": "picture"}
"""Where an operator may stand, and on what it works there: in a recipe, or among the effects of a plate."""
ENTRY_POINTS = "nimble_quake.operators"


@dataclass(frozen=True)
class Registry:
    """All operators by family and kind."""

    kinds: dict[tuple[str, str], type[Operator]] = field(default_factory=dict)

    def get(self, role: str, kind: str) -> type[Operator] | None:
        """Return the operator of a kind in a role: a family, "step" (works on maps) or "effect" (on pictures)."""
        return self._by_role.get((role, kind))

    @cached_property
    def _by_role(self) -> dict[tuple[str, str], type[Operator]]:
        found = dict(self.kinds)
        for operator in self.kinds.values():
            works_on = operator.works_on if issubclass(operator, Step) else ()
            for role, on in ROLES.items():
                if on in works_on:
                    found[role, operator.kind] = operator
        return found

    def playing(self, role: str) -> list[type[Operator]]:
        """Return the operators that have a role."""
        return [operator for (found, _), operator in self._by_role.items() if found == role]

    def all(self, family: str | None = None) -> list[type[Operator]]:
        """Return the operators, of one family or all."""
        return [op for (fam, _), op in self.kinds.items() if family in (None, fam)]


@cache
def registry() -> Registry:
    """Return all operators. Raises TypeError on an empty module or a kind that is there twice."""
    kinds: dict[tuple[str, str], type[Operator]] = {}
    for family, (package, base) in FAMILIES.items():
        for operator in classes_in(package, base):
            _add(kinds, family, operator)
    for operator in classes_added(ENTRY_POINTS, Operator):
        _add(kinds, operator.family, operator)
    return Registry(kinds)


def _add(kinds: dict[tuple[str, str], type[Operator]], family: str, operator: type[Operator]) -> None:
    taken = {family} if family in APART else set(FAMILIES) - APART
    if any((fam, operator.kind) in kinds for fam in taken):
        raise TypeError(f"there are two operators called {family} {operator.kind!r}")
    kinds[(family, operator.kind)] = operator
