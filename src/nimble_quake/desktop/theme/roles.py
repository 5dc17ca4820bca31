"""Colour roles: one meaning each, for the dark and the light theme."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtGui import QColor


@dataclass(frozen=True)
class Roles:
    """Colours by what they mean. WCAG 2.2 AA: text roles keep 4.5:1 on window, panel and raised; the regions' colours,
    which are lines, 3:1 on panel and on plot, where graphs are drawn. A well is what pictures lie on."""

    window: str
    panel: str
    raised: str
    line: str
    text: str
    quiet: str
    dim: str
    well: str
    plot: str
    rail: str
    edited: str
    brass: str
    ember: str
    lagoon: str
    chalk: str
    fault: str
    good: str
    brass_text: str
    ember_text: str
    lagoon_text: str
    fault_text: str
    ink: str


DARK = Roles(
    window="#242424",
    panel="#2d2d2d",
    raised="#393939",
    line="#4a4a4a",
    text="#e8e6e1",
    quiet="#bcb9b2",
    dim="#a4a4a4",
    well="#1b1b1b",
    plot="#1b1b1b",
    rail="#5e5e5e",
    edited="#262626",
    brass="#d8a73c",
    ember="#e2683c",
    lagoon="#4fb0a5",
    chalk="#ddd8cc",
    fault="#e4596b",
    good="#8fbf6b",
    brass_text="#dfb04a",
    ember_text="#f28b66",
    lagoon_text="#66c2b8",
    fault_text="#f58793",
    ink="#1a1a1a",
)

LIGHT = Roles(
    window="#d6d6d6",
    panel="#e4e4e4",
    raised="#f4f4f4",
    line="#b4b4b4",
    text="#1e1e1e",
    quiet="#545250",
    dim="#5c5c5c",
    well="#8a8a8a",
    plot="#f8f8f8",
    rail="#a4a4a4",
    edited="#ffffff",
    brass="#a57818",
    ember="#d6582c",
    lagoon="#2d8d82",
    chalk="#3a3834",
    fault="#c8344a",
    good="#3b6721",
    brass_text="#6b4c00",
    ember_text="#96340f",
    lagoon_text="#0e5750",
    fault_text="#a01b30",
    ink="#111111",
)

_now = DARK


def roles() -> Roles:
    """Return the roles of the theme in use."""
    return _now


def use(name: str) -> Roles:
    """Choose "dark" or "light"."""
    global _now
    _now = LIGHT if name == "light" else DARK
    return _now


def colour(role: str, alpha: int = 255) -> QColor:
    """Return a role's colour, see-through by alpha 0...255.

    "on_chalk" is the ink of buttons filled with chalk, "on_sign" that of what lies dark over a picture in every theme,
    "fault_on_sign" that of a fault there.
    """
    if role in ("on_sign", "fault_on_sign"):
        return QColor(*_rgb(DARK.text if role == "on_sign" else DARK.fault_text), alpha)
    if role == "on_chalk":
        found = ink_on("chalk")
        found.setAlpha(alpha)
        return found
    return QColor(*_rgb(getattr(_now, role)), alpha)


@lru_cache(maxsize=128)
def _rgb(name: str) -> tuple[int, int, int]:
    """A colour written as #rrggbb; reading it takes longer than drawing with it."""
    found = QColor(name)
    return found.red(), found.green(), found.blue()


REGION_TEXT = {"brass": "brass_text", "ember": "ember_text", "lagoon": "lagoon_text", "chalk": "text"}
"""The text tint of each region's colour."""


def ink_on(role: str) -> QColor:
    """Return the text colour on a filled region colour."""
    return colour("panel") if role == "chalk" and _now is LIGHT else colour("ink")
