"""Brackets: steps taken together. A bracket's steps follow it in the recipe and name it in `inside`."""

from __future__ import annotations

import msgspec

from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import find, fresh_id, nested_path, owner_path, with_node

BRACKET = "bracket"


def bracketed(shot: Shot, path: str) -> tuple[Shot, str]:
    """Put a step into a bracket: the one it follows, else a new one. Returns the shot and the bracket's path."""
    map = find(shot, owner_path(path))
    step = find(shot, path)
    if not isinstance(map, Map) or not isinstance(step, Node) or step.kind == BRACKET or step.inside:
        return shot, path
    at = map.recipe.index(step)
    above = map.recipe[at - 1] if at else None
    head = (above.id if above.kind == BRACKET else above.inside) if above else ""
    recipe = list(map.recipe)
    if not head:
        head = fresh_id(BRACKET, {s.id for s in map.recipe})
        recipe.insert(at, Node(id=head, kind=BRACKET))
        at += 1
    recipe[at] = msgspec.structs.replace(step, inside=head)
    return _with_recipe(shot, owner_path(path), tuple(recipe)), nested_path(path, head)


def freed(shot: Shot, path: str) -> Shot:
    """Take a step out of its bracket: it follows it."""
    map, step = find(shot, owner_path(path)), find(shot, path)
    if not isinstance(map, Map) or not isinstance(step, Node) or not step.inside:
        return shot
    rest = [s for s in map.recipe if s is not step]
    at = max((n for n, s in enumerate(rest) if step.inside in (s.inside, s.id)), default=len(rest) - 1) + 1
    rest.insert(at, msgspec.structs.replace(step, inside=""))
    return _with_recipe(shot, owner_path(path), tuple(rest))


def members(map: Map, id: str) -> tuple[Node, ...]:
    """Return the steps inside a bracket."""
    return tuple(step for step in map.recipe if step.inside == id)


def regrouped(recipe: tuple[Node, ...]) -> tuple[Node, ...]:
    """Return a recipe in which every bracket's steps follow it; steps of a bracket that is gone stand free."""
    heads = {step.id for step in recipe if step.kind == BRACKET}
    out: list[Node] = []
    for step in recipe:
        if step.inside in heads and step.kind != BRACKET:
            continue
        out.append(msgspec.structs.replace(step, inside="") if step.inside else step)
        if step.kind == BRACKET:
            out += [s for s in recipe if s.inside == step.id and s.kind != BRACKET]
    return tuple(out)


def landed(recipe: tuple[Node, ...], id: str) -> tuple[Node, ...]:
    """Return a recipe after a step was moved: between a bracket's steps it belongs to it, elsewhere it stands free."""
    at = next((n for n, step in enumerate(recipe) if step.id == id), -1)
    if at < 0 or recipe[at].kind == BRACKET:
        return regrouped(recipe)
    above = recipe[at - 1] if at else None
    below = recipe[at + 1] if at + 1 < len(recipe) else None
    head = (above.id if above.kind == BRACKET else above.inside) if above else ""
    between = below is not None and below.inside == head
    first = above is not None and above.kind == BRACKET
    within = bool(head) and (first or between or recipe[at].inside == head)
    moved = msgspec.structs.replace(recipe[at], inside=head if within else "")
    return regrouped((*recipe[:at], moved, *recipe[at + 1 :]))


def alone(shot: Shot, path: str) -> Shot:
    """Return the shot with every other step of the map switched off; a bracket keeps its own, a step its bracket."""
    map, step = find(shot, owner_path(path)), find(shot, path)
    if not isinstance(map, Map) or not isinstance(step, Node):
        return shot
    recipe = tuple(
        msgspec.structs.replace(s, on=(s.on and step.id in (s.inside, s.id)) or s.id == step.inside)
        if s is not step
        else msgspec.structs.replace(s, on=True)
        for s in map.recipe
    )
    return _with_recipe(shot, owner_path(path), recipe)


def _with_recipe(shot: Shot, map_path: str, recipe: tuple[Node, ...]) -> Shot:
    return with_node(shot, map_path, lambda map: msgspec.structs.replace(map, recipe=recipe))
