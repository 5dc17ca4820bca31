"""Preferences: a small JSON file in the user's configuration folder."""

from __future__ import annotations

import os
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path

import msgspec
import platformdirs

from nimble_quake.errors import SaveFailed
from nimble_quake.shotfile.files import put_bytes, write_whole


@dataclass
class Preferences:
    """What the program remembers between sessions."""

    theme: str = "dark"
    preview: str = "auto"
    recent: list[str] = field(default_factory=list)
    autosave_seconds: int = 20
    cache_mb: int = 112
    window: list[int] = field(default_factory=list)
    splitters: dict[str, list[int]] = field(default_factory=dict)

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
        raw = msgspec.json.decode((folder("config") / "preferences.json").read_bytes())
    except (OSError, msgspec.DecodeError):
        return Preferences()
    found, standard = {}, Preferences()
    for item in fields(Preferences):
        if isinstance(raw, dict) and type(raw.get(item.name)) is type(getattr(standard, item.name)):
            found[item.name] = raw[item.name]
    return Preferences(**found)


def save(preferences: Preferences) -> None:
    """Save the preferences; a full disk is no reason to stop."""
    try:
        target = folder("config") / "preferences.json"
        target.parent.mkdir(parents=True, exist_ok=True)
        data = msgspec.json.format(msgspec.json.encode(asdict(preferences)), indent=1)
        write_whole(target, lambda path: put_bytes(path, data))
    except (OSError, SaveFailed):
        pass
