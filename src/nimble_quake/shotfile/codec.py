"""A shot as JSON and back, field by field. Every error is found in one pass and named by its path."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any, cast

import msgspec

from nimble_quake.conventions import MAX_SIDE, Json, Values
from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.motion.files import decoded_value, encoded_value
from nimble_quake.motion.reading import Note
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import MediaFile, shown
from nimble_quake.shot.fields import Items, defaults_of, fields_of
from nimble_quake.shot.groups import MOST_DEEP, Holding
from nimble_quake.shot.model import FORMAT, ITEMS, Map, Marker, Node, Shot, State
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile.names import name_of_text, text_of_name
from nimble_quake.shotfile.upgrades import recipe_upgraded, shot_upgraded

MARK = "nimble_quake"


class _Report:
    """What is found while a file is read; reading goes on after an error, so that all are reported at once."""

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


class _Place:
    """A place in a file: reads the object, or the list of items, that stands there."""

    def __init__(self, report: _Report, where: str = "") -> None:
        self.report = report
        self.where = where

    def within(self, name: str) -> str:
        """Return where a field of this object stands."""
        return f"{self.where}.{name}" if self.where else name

    def fields(self, struct: type[msgspec.Struct], raw: dict[str, Json], known: tuple[str, ...] = ()) -> Values:
        """Return the clean fields that stand in an object, and in `extra` what is not known."""
        fields = fields_of(struct)
        found: Values = {}
        for name, field in fields.items():
            if name in raw:
                at = self.within(name)
                try:
                    found[name] = field.read(raw[name], _Place(self.report, at))
                except ShotError as error:
                    self.report.wrong(at, error.what, error.cure)
        found["extra"] = {key: value for key, value in raw.items() if key not in fields and key not in known}
        return found

    def items(self, of: Items, raw: Sequence[Json]) -> tuple[msgspec.Struct, ...]:
        """Return the clean items of a list."""
        found = []
        for number, item in enumerate(raw):
            place = _Place(self.report, f"{self.where}[{number}]")
            if isinstance(item, dict):
                found.append(place.item(of.item, item))
            else:
                self.report.wrong(place.where, f"expected an object, got {shown(item)}")
        self.unique([item for item in found if not isinstance(item, Marker)])
        return tuple(found)

    def unique(self, items: list[Any]) -> None:
        seen: set[str] = set()
        for number, item in enumerate(items):
            if item.id in seen:
                where = f"{self.where}[{number}].id"
                self.report.wrong(where, f'"{item.id}" is there twice', cure="give each its own id")
            seen.add(item.id)

    def item(self, word: str, raw: dict[str, Json]) -> Any:
        """Return one item: a plate, a map, a marker, or an operator of this family."""
        struct = ITEMS[word]
        if struct is Marker:
            return Marker(**self.fields(Marker, raw))
        found = self.fields(struct, {"id": None, **raw})
        found.setdefault("id", f"nameless-{len(self.report.errors)}")
        if issubclass(struct, Node):
            if not found.setdefault("kind", ""):
                self.report.wrong(self.within("kind"), "the kind is missing", cure='name one, such as "noise"')
            self.values_of(registry().get(word, found["kind"]), found)
        return struct(**found)

    def values_of(self, operator: type[Operator] | None, found: Values) -> None:
        """Make the values of an operator clean; those this version does not know go to `extra`."""
        version, values = found.get("version", 1), found.get("values", {})
        if operator is not None and version < operator.version:
            values, version = operator.upgraded(values, version), operator.version
        known, unknown = self.values(operator, version, values)
        other = found.get("aside", {})
        aside = _Place(self.report, self.within("aside")).values(operator, version, other)[0] if other else {}
        found |= {"version": version, "values": known, "aside": aside}
        if unknown:
            found["extra"]["values"] = unknown

    def values(
        self, operator: type[Operator] | None, version: int, raw: dict[str, Json]
    ) -> tuple[Values, dict[str, Json]]:
        """Return the clean values, and those this version does not know, kept as they are."""
        if operator is None or version > operator.version:
            return dict(raw), {}
        known: Values = {}
        unknown: dict[str, Json] = {}
        for name, value in raw.items():
            param = operator.declared.get(name)
            if param is None:
                unknown[name] = value
                continue
            try:
                clean = decoded_value(param, value, self.report.noting(self.within(name)))
                known[name] = _absolute(clean, self.report.folder) if isinstance(param, MediaFile) else clean
            except NimbleQuakeError as error:
                self.report.wrong(self.within(name), error.what, error.cure)
        return known, unknown

    def shot(self, raw: dict[str, Json]) -> Shot:
        """Return the shot, with what holds between its fields."""
        shot = Shot(**self.fields(Shot, raw, (MARK,)))
        for plate in Holding(shot.plates).refused():
            where = f"plates[{shot.plates.index(plate)}].inside"
            self.report.notes.append(f"{where}: groups lie in a loop or over {MOST_DEEP} deep; it stands free")
        if shot.loop is not None and shot.loop[1] > shot.length:
            self.report.wrong("loop", f"expected two frames inside the shot, got {shown(list(shot.loop))}")
        markers = {marker.frame: marker for marker in shot.markers}
        return msgspec.structs.replace(
            shot,
            playhead=min(shot.playhead, shot.length - 1),
            markers=tuple(markers[frame] for frame in sorted(markers)),
        )


def _absolute(file: str, folder: Path | None) -> str:
    file = name_of_text(file)
    if not file or folder is None or Path(file).is_absolute():
        return file
    return os.path.normpath(folder / file)


def decoded(raw: Json, folder: Path | None = None, notes: list[str] | None = None) -> Shot:
    """Return the shot of a file's JSON. Raises ShotError; its `all` holds every error found.

    notes: is given a line for each value that lay beyond its limits and was held there.
    """
    if not isinstance(raw, dict) or MARK not in raw:
        raise ShotError("this is not a Nimble Quake shot", cure="open a file that ends in .nquake")
    format = raw[MARK]
    if not isinstance(format, int) or isinstance(format, bool) or not 1 <= format <= FORMAT:
        raise ShotError(f"its format is {shown(format)}, we read up to {FORMAT}", cure="open it with a newer version")
    report = _Report(folder)
    shot = _Place(report).shot(shot_upgraded(raw, format))
    if report.errors:
        raise several(report.errors)
    if notes is not None:
        notes += report.notes
    return shot


def several(errors: list[ShotError]) -> ShotError:
    """Return one error that carries all: the first as its line, the rest counted."""
    first, more = errors[0], len(errors) - 1
    what = first.what + (f" (and {more} more, see nimble-quake check)" if more else "")
    found = ShotError(what, where=first.where, cure=first.cure)
    found.all = [*errors]
    return found


class _Writer:
    """Writes items of the document as JSON, fields in a steady order, media relative to a folder."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder

    def fields(self, item: msgspec.Struct) -> dict[str, Json]:
        """Return the fields of an item that are written: those that must be, and those that differ from the default."""
        now, usual = msgspec.structs.asdict(item), defaults_of(type(item))
        return {
            name: field.write(now[name], self.item)
            for name, field in fields_of(type(item)).items()
            if field.written or now[name] != usual.get(name)
        }

    def item(self, of: Items, item: Node | Map | Marker | State) -> Json:
        """Return one item as JSON."""
        out = self.fields(item)
        if isinstance(item, Marker):
            return out | item.extra
        extra = dict(item.extra)
        if isinstance(item, Node):
            operator = registry().get(of.item, item.kind)
            written = {name: values for name, values in (("aside", item.aside), ("values", item.values)) if name in out}
            if operator is not None and item.version <= operator.version:
                written = {name: self.values(operator, values) for name, values in written.items()}
            unknown = extra.pop("values", None)
            if isinstance(unknown, dict):
                written["values"] = written["values"] | unknown
            out |= written
        return out | extra

    def values(self, operator: type[Operator], values: Values) -> dict[str, Json]:
        """Return values of an operator as JSON, in the order they are declared."""
        out = {}
        for name, param in operator.declared.items():
            if name in values:
                value = encoded_value(param, values[name])
                out[name] = _relative(str(value), self.folder) if isinstance(param, MediaFile) else value
        return out


def encoded(shot: Shot, folder: Path | None = None) -> dict[str, Json]:
    """Return a shot as JSON, keys in a steady order, media relative to `folder`."""
    return {MARK: FORMAT, **_Writer(folder).fields(shot)} | shot.extra


def _relative(file: str, folder: Path | None) -> str:
    if not file or folder is None:
        return text_of_name(file)
    return text_of_name(Path(os.path.relpath(file, folder)).as_posix())


RECIPE_MARK = "nimble_quake_recipe"
COUPLING = Items(item="effect", most=1, word="couplings")


def decoded_recipe(raw: Json, folder: Path | None = None) -> Recipe:
    """Return the recipe of a file's JSON. Raises ShotError; its `all` holds every error found."""
    if not isinstance(raw, dict) or RECIPE_MARK not in raw:
        raise ShotError("this is not a Nimble Quake recipe", cure="use a file that ends in .nquake-recipe")
    format = raw[RECIPE_MARK]
    if not isinstance(format, int) or isinstance(format, bool) or not 1 <= format <= FORMAT:
        raise ShotError(f"its format is {shown(format)}, we read up to {FORMAT}", cure="open it with a newer version")
    report = _Report(folder)
    found: Map = _Place(report).item("map", {**recipe_upgraded(raw, format), "id": "recipe"})
    coupling = raw.get("coupling")
    if coupling is not None and not isinstance(coupling, dict):
        report.wrong("coupling", f"expected an object, got {shown(coupling)}")
    effect = (
        _Place(report, "coupling").item("effect", {"id": "coupling", **coupling})
        if isinstance(coupling, dict)
        else None
    )
    if report.errors:
        raise several(report.errors)
    known = (RECIPE_MARK, "width", "height", "coupling")
    extra = {key: value for key, value in found.extra.items() if key not in known}
    sizes = (raw.get("width"), raw.get("height"))
    sized = all(isinstance(size, int) and not isinstance(size, bool) and 0 < size <= MAX_SIDE for size in sizes)
    map = Map(id="", name=found.name or "Recipe", recipe=found.recipe, extra=extra)
    return Recipe(map=map, coupling=effect, made_at=cast("tuple[int, int]", sizes) if sized else None)


def encoded_recipe(recipe: Recipe, folder: Path | None = None) -> dict[str, Json]:
    """Return a recipe as its file's JSON."""
    writer, made = _Writer(folder), recipe.made_at
    out: dict[str, Json] = {RECIPE_MARK: FORMAT, "name": recipe.map.name}
    if made is not None:
        out |= {"width": made[0], "height": made[1]}
    out["recipe"] = writer.fields(recipe.map)["recipe"]
    if recipe.coupling is not None:
        out["coupling"] = writer.item(COUPLING, recipe.coupling)
    return out | recipe.map.extra
