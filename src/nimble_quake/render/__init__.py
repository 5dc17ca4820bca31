"""A shot at a frame becomes a picture: resolving, maps, plates, caches, and the scheduler."""

from __future__ import annotations

from nimble_quake.media.pool import MediaPool
from nimble_quake.media.source import ShotFile


def _open_shot(path: str, here: str, layer: str, media: MediaPool) -> ShotFile:
    """Open a shot file as a clip. Loaded when there is one: it is the whole renderer."""
    from nimble_quake.render.nested import ShotSource

    return ShotSource(path, here, layer, media)


MediaPool.open_shot = staticmethod(_open_shot)
