"""Let an effect stand on several plates: change one, and all follow; or part them again."""

from __future__ import annotations

from typing import Any

import msgspec

from nimble_quake.shot.edits.add import add_effect
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, find, found_node, real_path, with_node, with_shared


def share(shot: Shot, path: str, plate_path: str) -> tuple[Shot, str]:
    """Put an effect on another plate too. Returns the shot and the new effect's path."""
    original = real_path(shot, path)
    node = found_node(shot, original)
    return add_effect(shot, plate_path, msgspec.structs.replace(node, id=node.id, shared=original))


def parted(shot: Shot, path: str) -> Shot:
    """Give an effect values of its own, as they are now."""
    return with_node(shot, path, lambda node: msgspec.structs.replace(with_shared(shot, node), shared=""))


def sharers(shot: Shot, path: str) -> list[str]:
    """Return the paths of the effects that share the one at a path."""
    return [found for found, node in all_nodes(shot) if node.shared == path]


def without_original(shot: Shot, path: str) -> Shot:
    """Return the shot before the effect (or plate) at a path goes: the first that shared it becomes the original."""
    owners = [found for found, _ in all_nodes(shot) if found == path or found.startswith(f"{path}/")]
    for original in owners:
        heirs = [heir for heir in sharers(shot, original) if not heir.startswith(f"{path}/")]
        if not heirs or find(shot, original) is None:
            continue
        shot = parted(shot, heirs[0])
        for heir in heirs[1:]:
            shot = with_node(shot, heir, _sharing(heirs[0]))
    return shot


def _sharing(path: str) -> Any:
    return lambda node: msgspec.structs.replace(node, shared=path)
