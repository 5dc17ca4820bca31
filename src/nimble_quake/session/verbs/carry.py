"""Carrying: what is selected copied, cut and laid elsewhere, in this shot or another, with all that it needs."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from nimble_quake.motion.motion import is_moving
from nimble_quake.params.words import Ref
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.items import chosen_with
from nimble_quake.session.verbs.maps import own_map
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.fragment import Fragment, Landing, fragment_of, laid
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import (
    all_nodes,
    find,
    found_node,
    id_of,
    kind_of,
    map_path,
    node_path,
    owner_path,
    plate_path,
)

WORDS = {"plate": "plate", "effect": "effect", "step": "step", "map": "map"}


def counted(paths: Sequence[str]) -> str:
    """Return how many of what, in words: "2 effects"."""
    word = WORDS[kind_of(paths[0])]
    return f"{len(paths)} {word}s" if len(paths) > 1 else word


def taken(session: Session, path: str) -> Fragment | None:
    """Return a path, and what of its sort is selected with it, to be laid elsewhere; None for nothing."""
    if not path or find(session.shot, path) is None:
        return None
    paths = [each for each in chosen_with(session, path) if kind_of(each) == kind_of(path)]
    return fragment_of(session.shot, paths, session.engine.operators.get, session.frame)


def alone(session: Session) -> Shot | None:
    """Return what is selected as a shot of its own, with all that it needs; None where nothing is."""
    chosen = session.selection
    path = chosen.aimed if kind_of(chosen.aimed) in ("plate", "effect") else chosen.plate
    fragment = taken(session, path) if path else None
    if fragment is None:
        return None
    if fragment.sort == "effect":  # with the plate they act on
        fragment = fragment_of(session.shot, [owner_path(path)], session.engine.operators.get, session.frame)
    own = {"plates": (), "maps": (), "sounds": (), "bands": (), "front": (), "beats": (), "markers": ()}
    empty = msgspec.structs.replace(session.shot, name=session.name_of(path), playhead=0, extra={}, **own)
    return laid(empty, fragment, Landing(), session.engine.operators.get)[0]


def cut_out(session: Session, fragment: Fragment) -> None:
    """Take out what was taken to be laid elsewhere, as one step."""
    shot = session.shot
    for path in fragment.picked:
        shot = remove(shot, path) if find(shot, path) is not None else shot
    session.edit(f"Cut {counted(fragment.picked)}", shot)


def moves(session: Session, fragment: Fragment) -> bool:
    """Return whether it makes a difference to move its pins and spans with the playhead."""
    if session.frame == fragment.frame:
        return False
    nodes = [node for _, node in all_nodes(fragment.shot)]
    timed = any(node.span is not None or (isinstance(node, Plate) and node.start is not None) for node in nodes)
    return timed or any(is_moving(value) for node in nodes for value in node.values.values())


def lay(session: Session, fragment: Fragment, *, links: bool = False, later: int = 0) -> tuple[str, ...]:
    """Lay a fragment where the selection says, as one step; effects on every selected plate. Returns their paths."""
    shot, kinds, found = session.shot, session.engine.operators.get, tuple[str, ...]()
    for landing in _landings(session, fragment, links, later):
        if fragment.sort == "step" and not landing.map:
            shot, path = own_map(shot)
            shot = set_field(shot, path, recipe=()) if find(shot, path) is not None else shot
            landing = Landing(map=path, at=0, links=links, later=later)
        shot, paths = laid(shot, fragment, landing, kinds)
        found = (*found, *paths)
    if not found:
        session.message.emit(
            "Select a plate to put it on" if fragment.sort == "effect" else "There is no place for it here"
        )
        return ()
    session.edit(f"Paste {counted(found)}", shot)
    session.select(**{kind_of(found[0]): found[0]})
    return found


def _landings(session: Session, fragment: Fragment, links: bool, later: int) -> list[Landing]:
    """Where it is laid: above the selected plate, after the selected effect or step."""
    shot, chosen = session.shot, session.selection
    if fragment.sort == "plate":
        at = _number(shot, chosen.plate)
        return [Landing(at=at, links=links, later=later)]
    if fragment.sort == "step":
        after = _number(shot, chosen.step)
        return [Landing(map=chosen.map, at=None if after is None else after + 1, links=links, later=later)]
    if fragment.sort == "map":
        return [Landing(links=links, later=later)]
    marked = [path for path in sorted(chosen.marked) if kind_of(path) == "plate"]
    plates = list(dict.fromkeys([chosen.plate, *marked])) if chosen.plate else marked
    aimed = chosen.aimed if kind_of(chosen.aimed or "plates/x") == "effect" else ""
    landings = []
    for plate in plates:
        after = _number(shot, aimed) if aimed and owner_path(aimed) == plate else None
        landings.append(Landing(plate=plate, at=None if after is None else after + 1, links=links, later=later))
    return landings


def _number(shot: Shot, path: str) -> int | None:
    """Where an item stands in its row; None where nothing is selected."""
    item = find(shot, path) if path else None
    owner = find(shot, owner_path(path)) if path else None
    if isinstance(item, Plate):
        return shot.plates.index(item)
    if isinstance(item, Node) and isinstance(owner, Plate):
        return owner.effects.index(item)
    return owner.recipe.index(item) if isinstance(item, Node) and isinstance(owner, Map) else None


def lay_values(session: Session, fragment: Fragment) -> None:
    """Give the selected item of the same kind the values that were copied; what it refers to stays."""
    node = find(fragment.shot, fragment.picked[0])
    chosen = session.selection
    path = {"step": chosen.step, "plate": chosen.plate}.get(fragment.sort, chosen.aimed)
    mine = find(session.shot, path) if path else None
    if (
        not isinstance(node, Node)
        or not isinstance(mine, Node)
        or (mine.kind, kind_of(path)) != (node.kind, fragment.sort)
    ):
        word = WORDS.get(fragment.sort, "item")
        session.message.emit(f"Values go to a {word} of the same kind: select one first")
        return
    kind = session.engine.operators.get(fragment.sort, node.kind)
    refers = {name for name, param in kind.declared.items() if isinstance(param, Ref)} if kind is not None else set()
    values = {name: value for name, value in node.values.items() if name not in refers}
    kept = {name: value for name, value in mine.values.items() if name in refers}
    session.edit(f"Paste values on {session.name_of(path)}", set_field(session.shot, path, values={**values, **kept}))


def carry(session: Session, path: str, onto: str, *, copies: bool) -> None:
    """Lay an effect on another plate, after the row it was dropped on; itself, or a copy with maps of its own."""
    fragment = taken_one(session, path)
    plate = plate_path(id_of(owner_path(node_path(onto))))
    after = _number(session.shot, onto) if kind_of(onto) == "effect" else None
    landing = Landing(plate=plate, at=0 if after is None else after + 1, links=not copies)
    shot, paths = laid(session.shot, fragment, landing, session.engine.operators.get)
    if not paths:
        return
    shot = shot if copies else remove(shot, path)
    word = "Copy" if copies else "Carry"
    session.edit(f"{word} {session.name_of(path)} to {session.name_of(plate)}", shot)
    session.select(effect=paths[0])


def taken_one(session: Session, path: str) -> Fragment:
    """Return one path to be laid elsewhere, whatever else is selected."""
    return fragment_of(session.shot, [path], session.engine.operators.get, session.frame)


def remove_with_maps(session: Session, path: str) -> None:
    """Take out an effect, and the maps that nothing but it reads, as one step."""
    effect = found_node(session.shot, path)
    shot = remove(session.shot, path)
    needed = fragment_of(session.shot, [path], session.engine.operators.get).shot.maps
    gone = 0
    for map in needed:
        if not is_read(session, shot, map):
            shot, gone = remove(shot, map_path(map.id)), gone + 1
    also = f" and {gone} {'map' if gone == 1 else 'maps'}" if gone else ""
    session.edit(f"Remove {session.name_of(path) or effect.kind}{also}", shot)


def is_read(session: Session, shot: Shot, map: Map) -> bool:
    """Return whether anything else in a shot reads a map."""
    others = [path for path, _ in all_nodes(shot) if owner_path(node_path(path)) != map_path(map.id)]
    kinds = session.engine.operators.get
    return any(
        map.id in {found.id for found in fragment_of(shot, [path], kinds).shot.maps}
        for path in others
        if kind_of(path) in ("plate", "effect", "step")
    )
