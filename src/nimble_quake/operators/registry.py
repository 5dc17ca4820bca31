"""Finding operators: every module of the operator packages, in sorted order, and installed additions.

A kind has the name of its file, so that a file is loaded only where its operator is asked for.
"""

from __future__ import annotations

from functools import cache, cached_property

from nimble_quake.declared.discovery import class_in, classes_added, modules_in
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
"""Families that share their place with no other."""
TOGETHER = tuple(family for family in FAMILIES if family not in APART)
"""The others, which stand in recipes and among effects."""
ROLES = {"step": "map", "effect": "picture"}
"""Where an operator may stand, and on what it works there: in a recipe, or among the effects of a plate."""
ENTRY_POINTS = "nimble_quake.operators"


class Registry:
    """All operators by family and kind. One is loaded when it is asked for: a shot has few of them."""

    def __init__(self) -> None:
        """Know the names. Raises TypeError on a kind that is there twice."""
        self._modules = {
            (family, module.rsplit(".", 1)[1]): module
            for family, (package, _) in FAMILIES.items()
            for module in modules_in(package)
        }
        self._loaded: dict[tuple[str, str], type[Operator]] = {}
        self._found: dict[tuple[str, str], type[Operator]] = {}
        """By role and kind."""
        for family, kind in self._modules:
            self._refuse_double(family, kind, 1)

    def get(self, role: str, kind: str) -> type[Operator] | None:
        """Return the operator of a kind in a role: a family, "step" (works on maps) or "effect" (on pictures)."""
        if (role, kind) in self._found:
            return self._found[role, kind]
        families = (role,) if role in APART else TOGETHER if role in FAMILIES or role in ROLES else ()
        names = [(family, kind) for family in families]
        name = next((name for name in names if name in self._modules), None)
        found = self._ours(name) if name else next((self._added[name] for name in names if name in self._added), None)
        if found is None or not _has_role(found, role):
            return None
        self._found[role, kind] = found
        return found

    def playing(self, role: str) -> list[type[Operator]]:
        """Return the operators that have a role."""
        return [op for op in self.all() if _has_role(op, role)]

    def all(self, family: str | None = None) -> list[type[Operator]]:
        """Return the operators, of one family or all."""
        ours = [self._ours(name) for name in self._modules if family in (None, name[0])]
        return ours + [op for (fam, _), op in self._added.items() if family in (None, fam)]

    def _ours(self, name: tuple[str, str]) -> type[Operator]:
        """An operator of our own. Raises TypeError where its file is empty, or has another name."""
        found = self._loaded.get(name)
        if found is None:
            found = self._loaded[name] = class_in(self._modules[name], FAMILIES[name[0]][1])
            if found.kind != name[1]:
                raise TypeError(f"{found.__module__} defines {found.kind!r}: a kind has the name of its file")
        return found

    @cached_property
    def _added(self) -> dict[tuple[str, str], type[Operator]]:
        """What installed packages add. Raises TypeError on a kind that is there already."""
        added = classes_added(ENTRY_POINTS, Operator)
        for operator in added:
            self._refuse_double(operator.family, operator.kind, 0)
        return {(operator.family, operator.kind): operator for operator in added}

    def _refuse_double(self, family: str, kind: str, expected: int) -> None:
        sharing = {family} if family in APART else TOGETHER
        if sum((fam, kind) in self._modules for fam in sharing) > expected:
            raise TypeError(f"there are two operators called {family} {kind!r}")


def _has_role(operator: type[Operator], role: str) -> bool:
    """Whether it is of a family, or works on what stands in a recipe or among effects."""
    if role in ROLES:
        return issubclass(operator, Step) and ROLES[role] in operator.works_on
    return operator.family == role


@cache
def registry() -> Registry:
    """Return all operators."""
    return Registry()
