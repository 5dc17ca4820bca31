"""Preferences: a small JSON file in the user's configuration folder."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

import msgspec
import platformdirs

from nimble_quake.errors import NimbleQuakeError, SaveFailed
from nimble_quake.motion.timecode import CLOCKS
from nimble_quake.shotfile.files import put_bytes, read_plain, write_whole
from nimble_quake.shotfile.names import name_of_text, text_of_name

MOST_BYTES = 1_000_000


@dataclass
class Preferences:
    """What the program remembers between sessions."""

    theme: str = "dark"
    preview: str = "auto"
    clock: str = "timecode"
    """How time is shown: one of motion.timecode.CLOCKS."""
    recent: list[str] = field(default_factory=list)
    autosave_seconds: int = 20
    cache_mb: int = 64
    frames_mb: int = 88
    """Memory for frames that are prepared, to be played."""
    prepares: bool = True
    """The range that plays is prepared while one does nothing."""
    window: list[int] = field(default_factory=list)
    sections: dict[str, list[str]] = field(default_factory=dict)
    """The sections of settings that are unfolded, by kind of operator."""
    splitters: dict[str, list[int]] = field(default_factory=dict)

    guides: list[str] = field(default_factory=list)
    """Which lines lie over the picture: names of `desktop.placing.guides.PRESETS`, and "own" for the shot's own."""
    snaps: bool = True
    """What is dragged in the picture snaps to guides, plates and the frame."""
    start_page: bool = True
    """The program opens with the page one begins from, not with an empty bench."""
    pasted_pins: str = ""
    """Pins of what is pasted "keep" their frames or "move" with the playhead; empty: not asked yet."""

    def remember(self, path: Path) -> None:
        """Put a shot file at the head of the recent ones."""
        name = str(path.absolute())
        self.recent = [name, *(old for old in self.recent if old != name)][:12]


def folder(kind: str) -> Path:
    """Return our folder for "config" or "state"; NIMBLE_QUAKE_HOME puts both in one place (for tests)."""
    home = os.environ.get("NIMBLE_QUAKE_HOME")
    if home:
        return Path(home) / kind
    found = platformdirs.user_config_path if kind == "config" else platformdirs.user_state_path
    return found("nimble-quake")


def load() -> Preferences:
    """Return the saved preferences; what is missing or damaged is at its default."""
    try:
        raw = msgspec.json.decode(read_plain(folder("config") / "preferences.json", MOST_BYTES))
    except (OSError, ValueError, RecursionError, NimbleQuakeError):
        return Preferences()
    standard = Preferences()
    if not isinstance(raw, dict):
        return standard
    found: dict[str, Any] = {}
    for item in fields(Preferences):
        value: Any = raw.get(item.name)
        if item.name in raw and USABLE[item.name](value):
            found[item.name] = [name_of_text(name) for name in value] if item.name == "recent" else value
    return Preferences(**found)


def _whole(low: int, high: int) -> Callable[[object], bool]:
    return lambda value: isinstance(value, int) and not isinstance(value, bool) and low <= value <= high


_SIDE = _whole(0, 100_000)

USABLE: dict[str, Callable[[object], bool]] = {
    "theme": lambda value: value in ("dark", "light"),
    "clock": lambda value: value in CLOCKS,
    "preview": lambda value: value in ("auto", "full", "half", "third"),
    "start_page": lambda value: isinstance(value, bool),
    "guides": lambda value: isinstance(value, list) and all(isinstance(name, str) for name in value),
    "snaps": lambda value: isinstance(value, bool),
    "pasted_pins": lambda value: value in ("", "keep", "move"),
    "recent": lambda value: isinstance(value, list) and all(isinstance(name, str) for name in value),
    "autosave_seconds": _whole(5, 600),
    "cache_mb": _whole(32, 8192),
    "frames_mb": _whole(32, 65_536),
    "prepares": lambda value: isinstance(value, bool),
    "window": lambda value: isinstance(value, list) and len(value) in (0, 2) and all(map(_whole(200, 32_000), value)),
    "sections": lambda value: (
        isinstance(value, dict)
        and all(isinstance(names, list) and all(isinstance(n, str) for n in names) for names in value.values())
    ),
    "splitters": lambda value: (
        isinstance(value, dict) and all(isinstance(sizes, list) and all(map(_SIDE, sizes)) for sizes in value.values())
    ),
}
"""What a saved value must be to be used."""


def save(preferences: Preferences) -> None:
    """Save the preferences; a full disk is no reason to stop."""
    raw = asdict(preferences)
    raw["recent"] = [text_of_name(name) for name in preferences.recent]
    try:
        target = folder("config") / "preferences.json"
        target.parent.mkdir(parents=True, exist_ok=True)
        data = msgspec.json.format(msgspec.json.encode(raw), indent=1)
        write_whole(target, lambda path: put_bytes(path, data))
    except (OSError, SaveFailed):
        pass
