"""A shot as JSON and back. Every error is found in one pass and named by its path."""

from __future__ import annotations

import os
import re
from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE, Json
from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.motion.reading import Note
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Colour, MediaFile, shown
from nimble_quake.shot.groups import MOST_DEEP, Holding
from nimble_quake.shot.model import FORMAT, Map, Marker, Node, Plate, Shot
from nimble_quake.shotfile.names import name_of_text, text_of_name
from nimble_quake.shotfile.upgrades import recipe_upgraded, shot_upgraded
from nimble_quake.shotfile.values import decoded_value, encoded_value

MOST = {"plates": 1000, "maps": 500, "effects": 100, "recipe": 200, "markers": 10_000, "sounds": 100, "bands": 200}
MOST_BEATS = 100_000
MARK = "nimble_quake"
RATE = re.compile(r"[0-9]{1,7}(/[0-9]{1,7}|\.[0-9]{1,9})?")
"""A frame rate as text. An exponent could name a number that takes years to write out."""

NODE_KEYS = ("id", "kind", "version", "name", "on", "inside", "values", "shared", "side", "aside", "span", "fades")
PLATE_KEYS = (*NODE_KEYS, "start", "end", "locked", "effects")


class _Reader:
    """Reads parts of a file, keeping going after an error, so that all are told at once."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder
        self.errors: list[ShotError] = []
        self.notes: list[str] = []
        """What was read otherwise than it stands in the file, a line each."""

    def wrong(self, where: str, what: str, cure: str = "") -> None:
        self.errors.append(ShotError(what, where=where, cure=cure))

    def noting(self, where: str) -> Note:
        """Return what takes a note on a value."""
        return lambda words: self.notes.append(f"{where}: {words}")

    def get(self, raw: dict[str, Json], key: str, kind: type | tuple[type, ...], default: Any, where: str) -> Any:
        value = raw.get(key, default)
        if value is default:
            return default
        if not isinstance(value, kind) or (isinstance(value, bool) and kind is not bool):
            self.wrong(f"{where}.{key}" if where else key, f"expected {_word(kind)}, got {shown(value)}")
            return default
        return value

    def whole(self, raw: dict[str, Json], key: str, low: int, high: int, default: Any, where: str = "") -> Any:
        value = self.get(raw, key, int, default, where)
        if value is not None and value is not default and not low <= value <= high:
            self.wrong(f"{where}.{key}" if where else key, f"{value} is outside {low} to {high}")
            return default
        return value

    def items(self, raw: dict[str, Json], key: str, where: str) -> list[tuple[str, dict[str, Json]]]:
        at = f"{where}.{key}" if where else key
        found = self.get(raw, key, list, [], where)
        if len(found) > MOST[key]:
            self.wrong(at, f"{len(found)} is more than we open", cure=f"keep them under {MOST[key]}")
            return []
        good = []
        for number, item in enumerate(found):
            if isinstance(item, dict):
                good.append((f"{at}[{number}]", item))
            else:
                self.wrong(f"{at}[{number}]", f"expected an object, got {shown(item)}")
        return good

    def shot(self, raw: dict[str, Json]) -> Shot:
        plates = tuple(self.plate(item, where) for where, item in self.items(raw, "plates", ""))
        maps = tuple(self.map(item, where) for where, item in self.items(raw, "maps", ""))
        markers = {}
        for where, item in self.items(raw, "markers", ""):
            frame = self.whole(item, "frame", 0, MAX_FRAMES, 0, where)
            markers[frame] = Marker(frame=frame, name=self.get(item, "name", str, "", where)[:200])
        length = self.whole(raw, "length", 1, MAX_FRAMES, 150)
        for plate in Holding(plates).refused():
            where = f"plates[{plates.index(plate)}].inside"
            self.notes.append(f"{where}: groups lie in a loop or over {MOST_DEEP} deep; it stands free")
        known = {*Shot.__struct_fields__, MARK} - {"extra"}
        self.unique(plates, "plates")
        self.unique(maps, "maps")
        heard = {key: self.sounds(raw, key) for key in ("sounds", "bands")}
        return Shot(
            name=self.get(raw, "name", str, "Untitled", "")[:200],
            width=self.whole(raw, "width", 1, MAX_SIDE, 1920),
            height=self.whole(raw, "height", 1, MAX_SIDE, 1080),
            rate=self.rate(raw.get("rate", "30")),
            length=length,
            ground=self.colour(raw.get("ground", "#000000")),
            linear=self.get(raw, "linear", bool, False, ""),
            plates=plates,
            maps=maps,
            **heard,
            beats=self.beats(raw.get("beats", [])),
            seamless=self.get(raw, "seamless", bool, False, ""),
            markers=tuple(markers[frame] for frame in sorted(markers)),
            loop=self.loop(raw.get("loop"), length),
            playhead=min(self.whole(raw, "playhead", 0, MAX_FRAMES, 0), length - 1),
            extra={key: value for key, value in raw.items() if key not in known},
        )

    def sounds(self, raw: dict[str, Json], key: str) -> tuple[Node, ...]:
        found = tuple(self.node(item, "sound", where) for where, item in self.items(raw, key, ""))
        self.unique(found, key)
        return found

    def beats(self, raw: Json) -> tuple[float, ...]:
        good = isinstance(raw, list) and len(raw) <= MOST_BEATS
        if good and all(type(n) in (int, float) and 0 <= n <= MAX_FRAMES for n in raw):  # type: ignore[union-attr,operator]
            return tuple(sorted({float(n) for n in raw}))  # type: ignore[union-attr,arg-type]
        self.wrong("beats", f"expected frames of beats, got {shown(raw)}")
        return ()

    def unique(self, items: tuple[Any, ...], where: str) -> None:
        seen: set[str] = set()
        for number, item in enumerate(items):
            if item.id in seen:
                self.wrong(f"{where}[{number}].id", f'"{item.id}" is there twice', cure="give each its own id")
            seen.add(item.id)

    def rate(self, raw: Json) -> Fraction:
        try:
            rate = Fraction(str(raw)) if RATE.fullmatch(str(raw)) else Fraction(0)
            if Fraction(1, 10) <= rate <= 1000:
                return rate.limit_denominator(100_000)
        except (ValueError, ZeroDivisionError):
            pass
        self.wrong("rate", f"{shown(raw)} is no frame rate", cure='use "25" or "24000/1001"')
        return Fraction(30)

    def colour(self, raw: Json) -> tuple[float, float, float, float]:
        try:
            return Colour().check(raw)
        except ShotError as error:
            self.wrong("ground", error.what, error.cure)
            return (0.0, 0.0, 0.0, 1.0)

    def loop(self, raw: Json, length: int) -> tuple[int, int] | None:
        if raw is None:
            return None
        whole = isinstance(raw, list) and len(raw) == 2 and all(type(item) is int for item in raw)
        if whole and 0 <= raw[0] < raw[1] <= length:
            return raw[0], raw[1]
        self.wrong("loop", f"expected two frames inside the shot, got {shown(raw)}")
        return None

    def map(self, raw: dict[str, Json], where: str) -> Map:
        steps = tuple(self.node(item, "step", at) for at, item in self.items(raw, "recipe", where))
        self.unique(steps, f"{where}.recipe")
        id = self.id(raw, where)
        extra = {key: value for key, value in raw.items() if key not in ("id", "name", "recipe")}
        return Map(id=id, name=self.get(raw, "name", str, "", where)[:200], recipe=steps, extra=extra)

    def id(self, raw: dict[str, Json], where: str) -> str:
        id = raw.get("id")
        if not isinstance(id, str) or not 0 < len(id) <= 100 or "/" in id:
            self.wrong(f"{where}.id", f"expected a short name without slashes, got {shown(id)}")
            return f"nameless-{len(self.errors)}"
        return id

    def node(self, raw: dict[str, Json], family: str, where: str, keys: tuple[str, ...] = NODE_KEYS) -> Node:
        kind = self.get(raw, "kind", str, "", where)
        if not kind:
            self.wrong(f"{where}.kind", "the kind is missing", cure='name one, such as "noise"')
        version = self.whole(raw, "version", 1, 10_000, 1, where)
        operator = registry().get(family, kind)
        values = self.get(raw, "values", dict, {}, where)
        if operator is not None and version < operator.version:
            values, version = operator.upgraded(values, version), operator.version
        known, unknown = self.values(operator, version, values, where)
        other = self.get(raw, "aside", dict, {}, where)
        aside, _ = self.values(operator, version, other, f"{where}.aside") if other else ({}, {})
        extra = {key: value for key, value in raw.items() if key not in keys}
        if unknown:
            extra["values"] = unknown
        return Node(
            id=self.id(raw, where),
            kind=kind,
            version=version,
            name=self.get(raw, "name", str, "", where)[:200],
            on=self.get(raw, "on", bool, True, where),
            inside=self.get(raw, "inside", str, "", where)[:100],
            values=known,
            shared=self.get(raw, "shared", str, "", where)[:300],
            side="B" if raw.get("side") == "B" else "A",
            aside=aside,
            span=self.span(raw.get("span"), where),
            fades=self.fades(raw.get("fades"), where),
            extra=extra,
        )

    def span(self, raw: Json, where: str) -> tuple[int, int] | None:
        if raw is None:
            return None
        found = self._frames(raw)
        if found is not None and found[0] < found[1]:
            return found
        self.wrong(f"{where}.span", f"expected two frames, the second one later, got {shown(raw)}")
        return None

    def fades(self, raw: Json, where: str) -> tuple[int, int]:
        found = (0, 0) if raw is None else self._frames(raw)
        if found is not None and min(found) >= 0:
            return found
        self.wrong(f"{where}.fades", f"expected two counts of frames, got {shown(raw)}")
        return (0, 0)

    @staticmethod
    def _frames(raw: Json) -> tuple[int, int] | None:
        whole = isinstance(raw, list) and len(raw) == 2 and all(type(n) is int and abs(n) <= MAX_FRAMES for n in raw)  # type: ignore[arg-type]
        return (raw[0], raw[1]) if whole else None  # type: ignore[index,return-value]

    def values(
        self, operator: type[Operator] | None, version: int, raw: dict[str, Json], where: str
    ) -> tuple[dict[str, Any], dict[str, Json]]:
        """Return the clean values, and those this version does not know, kept as they are."""
        if operator is None or version > operator.version:
            return dict(raw), {}
        known, unknown = {}, {}
        for name, value in raw.items():
            param = operator.declared.get(name)
            if param is None:
                unknown[name] = value
                continue
            try:
                clean = decoded_value(param, value, self.noting(f"{where}.{name}"))
                known[name] = self.absolute(clean) if isinstance(param, MediaFile) else clean
            except NimbleQuakeError as error:
                self.wrong(f"{where}.{name}", error.what, error.cure)
        return known, unknown

    def absolute(self, file: str) -> str:
        file = name_of_text(file)
        if not file or self.folder is None or Path(file).is_absolute():
            return file
        return os.path.normpath(self.folder / file)

    def plate(self, raw: dict[str, Json], where: str) -> Plate:
        base = self.node(raw, "plate", where, PLATE_KEYS)
        effects = tuple(self.node(item, "effect", at) for at, item in self.items(raw, "effects", where))
        self.unique(effects, f"{where}.effects")
        start, end = (self.whole(raw, key, -MAX_FRAMES, MAX_FRAMES, None, where) for key in ("start", "end"))
        fields = {name: getattr(base, name) for name in base.__struct_fields__}
        return Plate(
            **fields, start=start, end=end, locked=self.get(raw, "locked", bool, False, where), effects=effects
        )


def _word(kind: type | tuple[type, ...]) -> str:
    words = {int: "a whole number", str: "text", bool: "true or false", list: "a list", dict: "an object"}
    return words.get(kind, "a value") if isinstance(kind, type) else "a number"


def decoded(raw: Json, folder: Path | None = None, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file's JSON. Raises ShotError; its `all` holds every error found.

    notes: is given a line for each value that lay beyond its limits and was held there.
    """
    if not isinstance(raw, dict) or MARK not in raw:
        raise ShotError("this is not a Nimble Quake shot", cure="open a file that ends in .nquake")
    format = raw[MARK]
    if not isinstance(format, int) or isinstance(format, bool) or not 1 <= format <= FORMAT:
        raise ShotError(f"its format is {shown(format)}, we read up to {FORMAT}", cure="open it with a newer version")
    reader = _Reader(folder)
    shot = reader.shot(shot_upgraded(raw, format))
    if reader.errors:
        raise several(reader.errors)
    if notes is not None:
        notes += reader.notes
    return shot


def several(errors: list[ShotError]) -> ShotError:
    """Return one error that carries all: the first as its line, the rest counted."""
    first, more = errors[0], len(errors) - 1
    what = first.what + (f" (and {more} more, see nimble-quake check)" if more else "")
    found = ShotError(what, where=first.where, cure=first.cure)
    found.all = [*errors]
    return found


def encoded(shot: Shot, folder: Path | None = None) -> dict[str, Json]:
    """Return a shot as JSON, keys in a steady order, media relative to `folder`."""
    out: dict[str, Json] = {
        MARK: FORMAT,
        "name": shot.name,
        "width": shot.width,
        "height": shot.height,
        "rate": str(shot.rate),
        "length": shot.length,
        "ground": Colour().encode(shot.ground),
    }
    if shot.linear:
        out["linear"] = True
    if shot.loop:
        out["loop"] = list(shot.loop)
    if shot.playhead:
        out["playhead"] = shot.playhead
    out["markers"] = [{"frame": marker.frame, "name": marker.name} for marker in shot.markers]
    out["maps"] = [_encoded_map(map, folder) for map in shot.maps]
    out["plates"] = [_encoded_plate(plate, folder) for plate in shot.plates]
    if shot.sounds:
        out["sounds"] = [_encoded_node(sound, "sound", folder) for sound in shot.sounds]
    if shot.bands:
        out["bands"] = [_encoded_node(band, "sound", folder) for band in shot.bands]
    if shot.beats:
        out["beats"] = list(shot.beats)
    if shot.seamless:
        out["seamless"] = True
    return out | shot.extra


def _encoded_map(map: Map, folder: Path | None) -> Json:
    steps = [_encoded_node(step, "step", folder) for step in map.recipe]
    return {"id": map.id, "name": map.name, "recipe": steps} | map.extra


def _encoded_node(node: Node, family: str, folder: Path | None) -> dict[str, Json]:
    out: dict[str, Json] = {"id": node.id, "kind": node.kind, "version": node.version}
    if node.name:
        out["name"] = node.name
    if not node.on:
        out["on"] = False
    if node.inside:
        out["inside"] = node.inside
    operator = registry().get(family, node.kind)
    values = _encoded_values(operator, node, folder)
    if node.shared:
        out["shared"] = node.shared
    if node.side != "A":
        out["side"] = node.side
    if node.aside:
        other = msgspec.structs.replace(node, values=node.aside)
        out["aside"] = _encoded_values(operator, other, folder)
    if node.span is not None:
        out["span"] = list(node.span)
    if node.fades != (0, 0):
        out["fades"] = list(node.fades)
    extra = dict(node.extra)
    out["values"] = values | extra.pop("values", {})
    return out | extra


def _encoded_values(operator: type[Operator] | None, node: Node, folder: Path | None) -> dict[str, Json]:
    if operator is None or node.version > operator.version:
        return dict(node.values)
    out = {}
    for name, param in operator.declared.items():
        if name in node.values:
            value = encoded_value(param, node.values[name])
            out[name] = _relative(value, folder) if isinstance(param, MediaFile) else value
    return out


def _relative(file: str, folder: Path | None) -> str:
    if not file or folder is None:
        return text_of_name(file)
    return text_of_name(Path(os.path.relpath(file, folder)).as_posix())


def _encoded_plate(plate: Plate, folder: Path | None) -> Json:
    out = _encoded_node(plate, "plate", folder)
    spans = {"start": plate.start, "end": plate.end, "locked": plate.locked or None}
    out |= {key: value for key, value in spans.items() if value is not None}
    out["effects"] = [_encoded_node(effect, "effect", folder) for effect in plate.effects]
    return out


RECIPE_MARK = "nimble_quake_recipe"


def decoded_recipe(raw: Json, folder: Path | None = None) -> Map:
    """Return the map of a recipe file's JSON. Raises ShotError; its `all` holds every error found."""
    if not isinstance(raw, dict) or RECIPE_MARK not in raw:
        raise ShotError("this is not a Nimble Quake recipe", cure="use a file that ends in .nquake-recipe")
    format = raw[RECIPE_MARK]
    if not isinstance(format, int) or isinstance(format, bool) or not 1 <= format <= FORMAT:
        raise ShotError(f"its format is {shown(format)}, we read up to {FORMAT}", cure="open it with a newer version")
    reader = _Reader(folder)
    found = reader.map({**recipe_upgraded(raw, format), "id": "recipe"}, "")
    if reader.errors:
        raise several(reader.errors)
    extra = {key: value for key, value in found.extra.items() if key not in (RECIPE_MARK, "width", "height")}
    sizes = [raw.get(key) for key in ("width", "height")]
    if all(isinstance(size, int) and not isinstance(size, bool) and 0 < size <= MAX_SIDE for size in sizes):
        extra["made_at"] = sizes
    return Map(id="", name=found.name or "Recipe", recipe=found.recipe, extra=extra)


def encoded_recipe(map: Map, size: tuple[int, int], folder: Path | None = None) -> dict[str, Json]:
    """Return a map as a recipe file's JSON; `size` is the shot's, so that places can be fitted to another."""
    steps: list[Json] = [_encoded_node(step, "step", folder) for step in map.recipe]
    return {RECIPE_MARK: FORMAT, "name": map.name, "width": size[0], "height": size[1], "recipe": steps}
