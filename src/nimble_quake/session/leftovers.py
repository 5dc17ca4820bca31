"""What programs that were killed left behind, removed at the next start. Work that was not saved is not among it."""

from __future__ import annotations

import threading
from pathlib import Path

from nimble_quake.files.unfinished import sweep
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.storage import recovery
from nimble_quake.session.storage.preferences import Preferences, folder


def sweep_aside(preferences: Preferences) -> threading.Thread:
    """Begin to sweep on a thread of its own: a folder of a shot may lie on a slow disk."""
    thread = threading.Thread(target=sweep_all, args=(preferences,), name="sweeping", daemon=True)
    thread.start()
    return thread


def sweep_all(preferences: Preferences) -> int:
    """Remove what is left in our own folders and beside recent shots. Returns how many files that were."""
    ours = {folder("state"), folder("state") / "tracks", folder("config"), folder("config") / "recipes"}
    count = sum(sweep(place) for place in ours | {Path(name).parent for name in preferences.recent})
    recovery.remove_locks()
    Queue().remove_leftovers()
    return count
