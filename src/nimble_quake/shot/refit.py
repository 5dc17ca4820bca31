"""A shot, or a recipe, of another size, rate or length: what is in it is scaled, and happens at the same seconds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TypeVar

import msgspec

from nimble_quake.conventions import Value, Values
from nimble_quake.declared.declared import Declared
from nimble_quake.motion.files import as_text, from_text
from nimble_quake.motion.motion import Motion, is_moving
from nimble_quake.params.drives import refitted_drives
from nimble_quake.params.kinds import Drives, Exceptions, Number, Param
from nimble_quake.params.refit import PLAIN, Refit, Scaling
from nimble_quake.shot.fields import fields_of
from nimble_quake.shot.model import Map, Node, Plate, Shot, State
from nimble_quake.shot.paths import find, kind_of, node_path, value_name
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shot.spans import bar_of

Kinds = Callable[[str, str], type[Declared] | None]
"""What finds an operator by its role ("plate", "effect", "step", "sound") and kind."""
Item = TypeVar("Item", bound=msgspec.Struct)
Operated = TypeVar("Operated", bound=Node)


@dataclass(frozen=True)
class Change:
    """What a shot is to become, and how what is in it goes along."""

    width: int
    height: int
    rate: Fraction
    length: int
    scales: bool = True
    """What is in it is scaled with the frame."""
    shape: str = "fit"
    """In another shape of frame the old one lies wholly inside ("fit"), covers it ("fill"), or keeps its size."""
    places: str = "centre"
    keeps_seconds: bool = True
    """Pins, spans and markers stay at their seconds."""
    stretches: bool = False
    """They are stretched with the length."""


def refitted(shot: Shot, change: Change, kinds: Kinds) -> Shot:
    """Return a shot of another size, rate and length, with what is in it scaled and moved in time as asked."""
    by = refit_of(shot, change, kinds)
    items = {
        "plates": tuple(_plate(plate, by, kinds) for plate in shot.plates),
        "maps": tuple(_map(map, by, kinds) for map in shot.maps),
        "sounds": tuple(_node("sound", node, by, kinds) for node in shot.sounds),
        "bands": tuple(_node("sound", node, by, kinds) for node in shot.bands),
        "front": tuple(_node("front", node, by, kinds) for node in shot.front),
        "markers": tuple(_timed(marker, by) for marker in shot.markers),
        "states": tuple(_state(state, by, kinds) for state in shot.states),
    }
    own = {"width": change.width, "height": change.height, "rate": change.rate, "length": change.length}
    found = msgspec.structs.replace(_timed(shot, by), **items, **own)
    if found.loop is not None and found.loop[1] > found.length:
        found = msgspec.structs.replace(found, loop=None)
    return found


def refit_of(shot: Shot, change: Change, kinds: Kinds) -> Refit:
    """Return what becomes of the values of a shot."""
    across, down = change.width / shot.width, change.height / shot.height
    scale = {"fit": min(across, down), "fill": max(across, down)}.get(change.shape, 1.0) if change.scales else 1.0
    frames = float(change.rate / shot.rate) if change.keeps_seconds else 1.0
    seconds = frames
    if change.stretches:
        frames *= change.length / (shot.length * frames)
    moves = change.scales and (across, down) != (1, 1)
    by = Refit(
        (shot.width, shot.height),
        (change.width, change.height) if moves else (shot.width, shot.height),
        scale,
        frames,
        seconds=seconds,
        span=(0, shot.length),
        lengths=(shot.length, change.length),
        places=change.places,
        fills=change.shape == "fill" and across != down,
    )
    return asking(shot, by, kinds)


def asking(shot: Shot, by: Refit, kinds: Kinds) -> Refit:
    """Return what knows of other values of the shot, too."""

    def scaling_of(path: str) -> Scaling:
        node = find(shot, node_path(path)) if "/" in path else None
        kind = kinds(kind_of(node_path(path)), node.kind) if isinstance(node, Node) else None
        name = value_name(path)
        if kind is None or not isinstance(node, Node) or name not in kind.declared:
            return PLAIN
        return _scaling(kind.declared[name], node.values.get(name), by)

    def text_of(path: str, text: str) -> str:
        """A value of its own, as JSON text."""
        node = find(shot, path)
        kind = kinds(kind_of(path), node.kind) if isinstance(node, Node) else None
        param = kind.declared.get(value_name(path)) if kind is not None else None
        return text if param is None else as_text(param, _value(param, from_text(param, text), by))

    return replace(by, scaling_of=scaling_of, text_of=text_of)


def fitted_recipe(recipe: Recipe, width: int, height: int, kinds: Kinds) -> Recipe:
    """Return a recipe for a shot of another size in px than it was made at; places as fractions of the frame."""
    if recipe.made_at is None or recipe.made_at == (width, height):
        return recipe
    old = (float(recipe.made_at[0]), float(recipe.made_at[1]))
    scale = min(width / old[0], height / old[1])
    by = Refit(old, (float(width), float(height)), scale, places="fractions")
    coupling = None if recipe.coupling is None else _node("effect", recipe.coupling, by, kinds)
    return Recipe(map=_map(recipe.map, by, kinds), coupling=coupling, made_at=(width, height))


def moved_in_time(shot: Shot, by: Refit, kinds: Kinds) -> Shot:
    """Return a shot whose plates and maps have their pins and spans moved."""
    plates = tuple(_plate(plate, by, kinds) for plate in shot.plates)
    maps, by = tuple(_map(map, by, kinds) for map in shot.maps), asking(shot, by, kinds)
    front = tuple(_node("front", node, by, kinds) for node in shot.front)
    return msgspec.structs.replace(shot, plates=plates, maps=maps, front=front)


def _plate(plate: Plate, by: Refit, kinds: Kinds) -> Plate:
    by = by if by.span is None else replace(by, span=bar_of(plate, by.lengths[0]))
    effects = tuple(_node("effect", effect, by, kinds) for effect in plate.effects)
    return msgspec.structs.replace(_node("plate", plate, by, kinds), effects=effects)


def _map(map: Map, by: Refit, kinds: Kinds) -> Map:
    return msgspec.structs.replace(map, recipe=tuple(_node("step", step, by, kinds) for step in map.recipe))


def _state(state: State, by: Refit, kinds: Kinds) -> State:
    """Values that are kept become what those become that they were taken from."""

    def kept(role: str, row: tuple[Operated, ...]) -> tuple[Operated, ...]:
        return tuple(_node(role, node, by, kinds) for node in row)

    return msgspec.structs.replace(
        state,
        plates=kept("plate", state.plates),
        effects=kept("effect", state.effects),
        steps=kept("step", state.steps),
        sounds=kept("sound", state.sounds),
        front=kept("front", state.front),
    )


def _node(role: str, node: Operated, by: Refit, kinds: Kinds) -> Operated:
    kind, timed = kinds(role, node.kind), _timed(node, by)
    by = by if by.span is None or node.span is None else replace(by, span=node.span)
    if kind is None:
        return timed
    values = refitted_values(kind, node.values, by, role)
    aside = refitted_values(kind, node.aside, by, role) if node.aside else node.aside
    return msgspec.structs.replace(timed, values=values, aside=aside)


def _timed(item: Item, by: Refit) -> Item:
    """An item with its own frames moved."""
    changed, now = {}, msgspec.structs.asdict(item)
    for name, field in fields_of(type(item)).items():
        value = now[name]
        moved = field.refitted(value, by)
        if moved != value:
            changed[name] = field.clamped(moved)
    return msgspec.structs.replace(item, **changed) if changed else item


def refitted_values(kind: type[Declared], values: Values, by: Refit, role: str = "") -> Values:
    """Return an operator's values for another size or rate; a default in px is written down where it changes."""
    found = dict(values)
    asleep = {
        param.section
        for param in kind.declared.values()
        if isinstance(param, Number) and param.nothing_at is not None
        if values.get(param.name, param.default) == param.nothing_at
    } - {""}
    for name, param in kind.declared.items():
        value = values.get(name)
        if value is None and param.section in asleep:
            continue
        new = _value(param, param.start(*by.old) if value is None else value, by)
        if value is not None or not _alike(new, param.start(*by.new)):
            found[name] = new
        if isinstance(param, Exceptions) and value:
            found[name] = tuple((path, by.text_of(path, text)) for path, text in value)
        if isinstance(param, Drives) and value:
            found[name] = refitted_drives(value, by, by.text_of)
    return {name: value for name, value in kind.refit_rest(found, by).items() if value is not None}


def _value(param: Param, value: Value, by: Refit) -> Value:
    scaling = _scaling(param, value, by)
    if is_moving(value):
        return value.refitted(scaling, by, max(1, param.size)).clamped(param)
    return param.clamped(scaling.of(value)) if scaling.changes else value


def _scaling(param: Param, value: Value, by: Refit) -> Scaling:
    return param.refit(by, value.like() if isinstance(value, Motion) else value)


def _alike(one: Value, other: Value) -> bool:
    """Whether two values are the same, but for the last digits of numbers."""
    if isinstance(one, tuple) and isinstance(other, tuple) and len(one) == len(other):
        return all(_alike(a, b) for a, b in zip(one, other, strict=True))
    numbers = isinstance(one, int | float) and isinstance(other, int | float)
    return bool(abs(one - other) <= 1e-9 * max(1.0, abs(one)) if numbers else one == other)
