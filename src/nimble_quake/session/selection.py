"""What is selected in the open shot."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from nimble_quake.operators.registry import registry
from nimble_quake.shot.model import Map
from nimble_quake.shot.paths import map_path, nested_path


@dataclass(frozen=True)
class Selection:
    """Paths of what is selected; empty where nothing is."""

    plate: str = ""
    quake: str = ""
    """The coupling whose settings are shown: of the selected plate."""
    finish: str = ""
    """The finish whose settings are shown instead of its plate's."""
    map: str = ""
    step: str = ""
    sound: str = ""
    """The sound or band whose settings are shown."""
    marked: frozenset[str] = frozenset()
    """What else is selected, to be removed, copied or switched together."""

    def now(self) -> dict[str, Any]:
        """Return the fields by name."""
        return {name: getattr(self, name) for name in self.__dataclass_fields__}


def source_name(map: Map) -> str:
    """Return what a map is made of, as its name where nobody gave it one."""
    for step in map.recipe:
        operator = registry().get("source", step.kind)
        if operator is not None:
            return step.name or operator.title
    return "Map"


def path_of_map(map: Map | None) -> str:
    """Return a map's path; empty for none."""
    return map_path(map.id) if map else ""


def first_step(map: Map | None) -> str:
    """Return the path of a map's first step; empty where it has none."""
    return nested_path(map_path(map.id), map.recipe[0].id) if map and map.recipe else ""
