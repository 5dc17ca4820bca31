"""Finding operators: every module of the operator packages, in sorted order, and installed additions."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from dataclasses import dataclass, field
from functools import cache
from importlib.metadata import entry_points

from nimble_quake.operators.base import Operator, PlateKind, Quake
from nimble_quake.operators.steps import Shaper, Source

FAMILIES: dict[str, tuple[str, type[Operator]]] = {
    "source": ("nimble_quake.sources", Source),
    "shaper": ("nimble_quake.shapers", Shaper),
    "quake": ("nimble_quake.quakes", Quake),
    "plate": ("nimble_quake.plates", PlateKind),
}
ENTRY_POINTS = "nimble_quake.operators"


@dataclass(frozen=True)
class Registry:
    """All operators by family and kind."""

    kinds: dict[tuple[str, str], type[Operator]] = field(default_factory=dict)

    def get(self, family: str, kind: str) -> type[Operator] | None:
        """Return the operator of a kind; a step may be a source or a shaper ("step")."""
        if family == "step":
            return self.kinds.get(("source", kind)) or self.kinds.get(("shaper", kind))
        return self.kinds.get((family, kind))

    def all(self, family: str | None = None) -> list[type[Operator]]:
        """Return the operators, of one family or all."""
        return [op for (fam, _), op in self.kinds.items() if family in (None, fam)]


def _operator_in(module_name: str, base: type[Operator]) -> type[Operator]:
    module = importlib.import_module(module_name)
    found = [
        item
        for item in vars(module).values()
        if inspect.isclass(item) and issubclass(item, base) and item.__module__ == module_name
    ]
    if len(found) != 1:
        raise ImportError(f"{module_name} must define exactly one {base.__name__}, it defines {len(found)}")
    return found[0]


@cache
def registry() -> Registry:
    """Return all operators. Raises ImportError on an empty module or a kind that is there twice."""
    kinds: dict[tuple[str, str], type[Operator]] = {}
    for family, (package_name, base) in FAMILIES.items():
        package = importlib.import_module(package_name)
        for info in sorted(pkgutil.iter_modules(package.__path__), key=lambda item: item.name):
            _add(kinds, family, _operator_in(f"{package_name}.{info.name}", base))
    for point in sorted(entry_points(group=ENTRY_POINTS), key=lambda item: item.name):
        operator = point.load()
        _add(kinds, operator.family, operator)
    return Registry(kinds)


def _add(kinds: dict[tuple[str, str], type[Operator]], family: str, operator: type[Operator]) -> None:
    taken = {"source", "shaper"} if family in ("source", "shaper") else {family}
    if any((fam, operator.kind) in kinds for fam in taken):
        raise ImportError(f"there are two operators called {family} {operator.kind!r}")
    kinds[(family, operator.kind)] = operator
