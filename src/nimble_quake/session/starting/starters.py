"""Starters: ready-made shots to begin from, or whose effects go on one's own picture."""

from __future__ import annotations

import contextlib
import os
import zlib
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

import msgspec

from nimble_quake.motion.kinds import pins_of
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import MediaFile
from nimble_quake.samples import crossing_path, moving_picture, sample_path, samples
from nimble_quake.session.crossings.laying import crossing_in, with_laid
from nimble_quake.session.crossings.meetings import sides
from nimble_quake.session.fronts.filling import with_plate
from nimble_quake.session.selection import first_selection
from nimble_quake.session.starting.map_shots import is_map, map_shot, recipe_file
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import folder
from nimble_quake.session.verbs import effects
from nimble_quake.shot import groups
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.fragment import Fragment, Landing, fragment_of, laid
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import (
    found_node,
    fresh_id,
    id_of,
    kind_of,
    nested_path,
    owner_path,
    plate_path,
    value_path,
)
from nimble_quake.shotfile import starter_file
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.starter_file import About

TITLE_SIZE = 0.145
"""A title that is typed is so high, as a fraction of the frame's width."""


LIST = moving_picture("starters").with_suffix(".json")
"""What is known of the starters that come with the program, so that none has to be read to show it."""
NOTHING = "no effects"
OWN = "Yours"
"""The sort of starters of one's own."""


def own_media() -> Path:
    """Return the folder that starters' media are unpacked into, a folder for each."""
    found = folder("state") / "starters"
    with contextlib.suppress(OSError):
        found.mkdir(parents=True, exist_ok=True)
    return found


@dataclass(frozen=True)
class Starter:
    """A ready-made shot: its file's name, its title, what it is made for, and what is done in it."""

    name: str
    title: str
    sort: str
    note: str
    file: Path
    """Where it lies."""
    damaged: bool = False
    """Its file cannot be read; the note says why."""
    about: About | None = None
    """What is said of one's own, or of somebody else's; None for those that come with the program."""

    @property
    def shot(self) -> Shot:
        """The shot itself, read when it is wanted; media that it carries are unpacked. Raises ShotError."""
        if is_map(self.name) and self.sort != OWN:
            return map_shot(self.file)
        if self.file.name.endswith(starter_file.SUFFIX):
            return starter_file.unpacked(self.file, own_media() / starter_file.mark_of(self.file))
        return read_shot(self.file) if self.sort == OWN else _shipped_shot(self.file)

    @property
    def picture(self) -> Path:
        """The file of its moving picture."""
        if self.sort != OWN:
            return moving_picture(self.name)
        return folder("state") / "pictures" / f"{self.file.stem}-{zlib.crc32(os.fsencode(self.file)):08x}.jpg"

    def matches(self, text: str) -> bool:
        """Return whether every word of a text is found in what is said of it."""
        words = f"{self.about.words} {self.about.author}" if self.about is not None else ""
        said = f"{self.title} {self.note} {self.sort} {self.name} {words}".lower()
        return all(word in said for word in text.lower().split())


SORTS = ("Titles", "Logos", "Clips", "Maps", "Crossings")
CROSSED = "cross-"
"""A crossing's name begins so."""
"""What starters are made for."""


@lru_cache(maxsize=96)
def _shipped_shot(file: Path) -> Shot:
    """The shot of a starter that comes with the program: it does not change while it runs."""
    return read_shot(file)


@cache
def shipped() -> tuple[Starter, ...]:
    """Return the starters that come with the program, as they are listed with their moving pictures."""
    listed = msgspec.json.decode(LIST.read_bytes(), type=dict[str, tuple[str, str, str]])
    paths = [(name, sample_path(name)) for name in samples() if name in listed]
    paths += [(name, crossing_path(name.removeprefix(CROSSED))) for name in listed if name.startswith(CROSSED)]
    paths += [(name, recipe_file(name)) for name in listed if is_map(name)]
    return tuple(Starter(name, *listed[name], file=path) for name, path in paths if path is not None)


def described(shot: Shot) -> tuple[str, str, str]:
    """Return what is listed of a starter: its title, what it is made for, what is done in it."""
    return shot.name, _sort(shot), note_of(shot)


def _main(shot: Shot) -> Plate | None:
    """The plate that a starter is about: that of its first coupling, else the one with the most effects."""
    first = first_selection(shot)
    if first.quake:
        return shot.plate(id_of(first.plate))
    return max(shot.plates, key=lambda plate: len(plate.effects), default=None)


def _sort(shot: Shot) -> str:
    plate = _main(shot)
    kind = registry().get("plate", plate.kind) if plate is not None else None
    if kind is None or not issubclass(kind, PlateKind):
        return "Maps"
    if kind.asks_for:
        return "Titles"
    return "Clips" if kind.plays or kind.beneath else "Logos" if kind.file_names else "Maps"


def note_of(shot: Shot) -> str:
    """Return what the effects of a shot are called, each once."""
    kinds = (registry().get("effect", effect.kind) for plate in shot.plates for effect in plate.effects)
    return ", ".join(dict.fromkeys(kind.title.lower() for kind in kinds if kind is not None)) or NOTHING


def with_title(shot: Shot, words: str) -> Shot:
    """Return a starter's shot with its title said otherwise: the words of its top text."""
    for plate in shot.plates:
        kind = registry().get("plate", plate.kind)
        if words and kind is not None and issubclass(kind, PlateKind) and kind.asks_for:
            return set_value(shot, value_path(plate_path(plate.id), kind.asks_for), words)
    return shot


@lru_cache(maxsize=64)
def piece_of(starter: Starter) -> Fragment | None:
    """Return what of a starter goes on another picture: the effects of what it is about; a lens whole."""
    shot = starter.shot
    plate = _main(shot)
    if plate is None:
        return None
    kind, path = registry().get("plate", plate.kind), plate_path(plate.id)
    through = kind is not None and issubclass(kind, PlateKind) and kind.beneath
    paths = [path] if through else [nested_path(path, effect.id) for effect in plate.effects]
    return fragment_of(shot, paths, registry().get) if paths else None


def with_starter(session: Session, starter: Starter) -> tuple[Shot, tuple[str, ...]]:
    """Return the open shot with a starter on the selected plate, and what was laid; nothing changes yet.

    Its effects go on the plate; where a slot of it takes the picture, the whole starter goes round the plate, as a
    group.
    """
    plate = session.selection.plate
    at = next((n for n, each in enumerate(session.shot.plates) if plate_path(each.id) == plate), None)
    if at is None:
        return session.shot, ()
    if crossing_in(starter.shot) is not None:
        shot, path = with_laid(session.shot, starter.shot, sides(session), starter.title)
        return shot, ((path,) if path else ())
    if any(node.values.get("takes_mine") for node in starter.shot.front):
        return _round_picture(session.shot, starter, plate, at)
    piece = piece_of(starter)
    if piece is None:
        return session.shot, ()
    landing = Landing(plate=plate, at=at if piece.sort == "plate" else None)
    shot, paths = laid(session.shot, piece, landing, registry().get)
    fills = _fills(session.shot.plates[at])
    for path in paths if piece.sort == "effect" else ():
        node = found_node(shot, path)
        if not fills:  # beyond a title or a logo there is nothing to be repeated
            shot = set_value(shot, value_path(path, "edge"), None)
        elif node.values.get("edge") in (None, "empty") and _stays_near(
            node, shot.width
        ):  # its border would be pulled into view
            kind = registry().get("effect", node.kind)
            shot = set_value(shot, value_path(path, "edge"), "mirror") if kind and "edge" in kind.declared else shot
    return shot, paths


FAR = 0.2
"""What is pushed farther than this part of the frame is to leave it: nothing is put in its place."""


def _stays_near(node: Node, width: int) -> bool:
    """Whether an effect moves what it works on by a small part of the frame."""
    reaches = (node.values.get(name) for name in ("reach_x", "reach_y", "height", "amplitude", "strength"))
    numbers = [key.value for value in reaches for key in pins_of(value)]
    numbers += [value for value in (node.values.get(n) for n in ("reach_x", "reach_y")) if isinstance(value, float)]
    return max((abs(number) for number in numbers if isinstance(number, int | float)), default=0.0) < FAR * width


def _round_picture(shot: Shot, starter: Starter, plate: str, at: int) -> tuple[Shot, tuple[str, ...]]:
    """A whole starter as a group in the place of a plate, which comes into its slot."""
    found, group = laid_as_group(shot, starter, at, 0)
    slots = [node for node in found.front if node.inside == group and node.values.get("takes_mine")]
    for node in slots:
        found = with_plate(found, node, plate)
    return found, (plate_path(group),)


def _fills(plate: Plate) -> bool:
    """Return whether a plate is a picture with a border, or endless: what lies beyond it may be its own repeated."""
    kind = registry().get("plate", plate.kind)
    if kind is None or not issubclass(kind, PlateKind):
        return False
    sorts = {param.sort for param in kind.declared.values() if isinstance(param, MediaFile)}
    return kind.endless or kind.beneath or bool(sorts & {"picture", "clip"})


def put_on(session: Session, starter: Starter) -> bool:
    """Put a starter's effects and maps on the selected plate, as one step. Returns whether there was one."""
    shot, paths = with_starter(session, starter)
    if not paths:
        session.message.emit("Select a plate to put it on")
        return False
    session.edit(f"{starter.title} on {session.name_of(session.selection.plate)}", shot)
    owner = owner_path(paths[0])  # a group, or the plate that effects went on
    has_front = any(node.inside == id_of(owner) for node in session.shot.front)
    session.select(**({"plate": owner} if has_front else {kind_of(paths[0]): paths[0]}))
    return True


def put_in(session: Session, starter: Starter) -> bool:
    """Put a whole starter into the open shot, as a group with its dials and slots, as one step. Returns whether it is.

    It begins where the playhead stands.
    """
    shot, group = laid_as_group(session.shot, starter, 0, session.frame)
    if not group:
        session.message.emit(f"{starter.title} has no plates")
        return False
    session.edit(f"Put in {starter.title}", shot)
    session.select(plate=plate_path(group))
    return True


def laid_as_group(shot: Shot, starter: Starter, at: int, later: int) -> tuple[Shot, str]:
    """Return a shot with a whole starter laid into it as a group, so many frames later, and the group's id."""
    begun, known = starter.shot, {node.id for node in shot.front}
    loose = [plate_path(plate.id) for plate in begun.plates if not plate.inside]
    piece = fragment_of(begun, loose, registry().get)
    found, paths = laid(shot, piece, Landing(at=at, later=later), registry().get)
    free = [id_of(path) for path in paths if kind_of(path) == "plate" and not _inside(found, path)]
    if not free:
        return shot, ""
    grouped, path = groups.grouped(found, free)
    grouped, group = set_field(grouped, path, name=starter.title), id_of(path)
    front = tuple(
        msgspec.structs.replace(node, inside=group) if node.id not in known else node for node in grouped.front
    )
    return with_origin(msgspec.structs.replace(grouped, front=front), starter, group), group


def version_of(starter: Starter) -> int:
    """Return a starter's version."""
    return starter.about.version if starter.about is not None else 1


def with_origin(shot: Shot, starter: Starter, inside: str) -> Shot:
    """Return a shot that says what it, or a group of it, was made with."""
    rest = tuple(node for node in shot.front if not (node.kind == "origin" and node.inside == inside))
    id = fresh_id("origin", {node.id for node in rest})
    values = {"starter": starter.name, "made_with": float(version_of(starter))}
    return msgspec.structs.replace(shot, front=(*rest, Node(id=id, kind="origin", inside=inside, values=values)))


def _inside(shot: Shot, path: str) -> str:
    plate = shot.plate(id_of(path))
    return plate.inside if plate is not None else ""


def begin_with_title(session: Session, words: str) -> None:
    """Begin a new shot with a title that moves: a text, pushed by a map of its own."""
    shot = Shot(name=words[:60] or "Untitled")
    size = min(TITLE_SIZE * shot.width, 1.4 * shot.width / max(len(words), 1))
    values = {"words": words, "size": float(round(size))}
    made, path = add_plate(shot, Plate(id="title", name="Title", kind="text", values=values))
    session.take(made, saved=False)
    session.select(plate=path)
    effects.new_quake(session)
