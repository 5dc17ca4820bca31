"""Nimble Quake: animated displacement maps that shake, ripple and bend text, logos and clips.

For scripts: `import nimble_quake as nq`, then `nq.open`, `nq.picture`, `nq.push` and what else `__all__` lists. They
are loaded when they are first asked for; `__init__.pyi` tells type checkers what they are.
"""

from __future__ import annotations

from importlib import import_module

__version__ = "0.1.0"

__all__ = [
    "Formula",
    "Key",
    "Keys",
    "Map",
    "NimbleQuakeError",
    "Node",
    "Plate",
    "Rate",
    "Shot",
    "add_effect",
    "add_map",
    "add_plate",
    "add_step",
    "collect",
    "couple",
    "data",
    "describe",
    "drop",
    "hold",
    "make",
    "map_values",
    "new",
    "open",
    "picture",
    "play",
    "push",
    "render_to",
    "save",
    "save_starter",
    "set",
    "show",
    "starter",
]

_ALIASES = {"new": "new_shot", "open": "open_shot", "save": "save_shot", "set": "set_number"}
_HOMES = {
    "errors": ("NimbleQuakeError",),
    "motion.kinds": ("Formula", "Key", "Keys", "Rate"),
    "shot.model": ("Map", "Node", "Plate", "Shot"),
}


def __getattr__(name: str) -> object:
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    home = next((module for module, names in _HOMES.items() if name in names), "api")
    return getattr(import_module(f"{__name__}.{home}"), _ALIASES.get(name, name))


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
