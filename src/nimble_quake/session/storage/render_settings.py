"""Render settings by name: the outputs that are asked for together, and those of the last time."""

from __future__ import annotations

import msgspec

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.export.outputs import Output
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shotfile.files import put_bytes, read_plain, write_whole

LAST = ""
"""Under this name the last ones lie."""
MOST_BYTES, MOST, MOST_OUTPUTS, LONGEST = 1_000_000, 100, 20, 60
Settings = dict[str, tuple[Output, ...]]


def settings() -> Settings:
    """Return what was kept, by name; what is damaged, or of a format that is not here, is left out."""
    try:
        raw = msgspec.json.decode(read_plain(folder("config") / "render-settings.json", MOST_BYTES))
    except (OSError, ValueError, RecursionError, NimbleQuakeError):
        return {}
    found: Settings = {}
    for name, items in raw.items() if isinstance(raw, dict) else ():
        outputs = tuple(output for item in items if (output := _read(item))) if isinstance(items, list) else ()
        if outputs and len(name) <= LONGEST and len(found) <= MOST:
            found[name] = outputs[:MOST_OUTPUTS]
    return found


def _read(item: object) -> Output | None:
    try:
        output = msgspec.convert(item, Output)
    except (ValueError, RecursionError):
        return None
    return output if output.known and 0 < output.scale < 100 and 1 <= output.every < 10**7 else None


def keep(name: str, outputs: tuple[Output, ...]) -> None:
    """Keep outputs under a name; none forgets it. Raises SaveFailed."""
    found = settings()
    found.pop(name, None)
    if outputs:
        found[name] = outputs[:MOST_OUTPUTS]
    target = folder("config") / "render-settings.json"
    data = msgspec.json.format(msgspec.json.encode(found), indent=1)
    target.parent.mkdir(parents=True, exist_ok=True)
    write_whole(target, lambda path: put_bytes(path, data))
