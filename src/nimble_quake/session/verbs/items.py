"""What a person does to the shot, by name: each is one undoable step."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from nimble_quake.conventions import Value, Values
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media.flipbook import gaps, numbered, pattern_of
from nimble_quake.media.pool import sort_of
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.operators.steps import Step, placed_values
from nimble_quake.params.kinds import MapRef, MediaFile, PlateRef
from nimble_quake.render.plates.grounds import bars_shown
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.add import add_map, add_plate, add_step
from nimble_quake.shot.edits.brackets import bracketed, freed
from nimble_quake.shot.edits.duplicate import duplicate
from nimble_quake.shot.edits.move import move
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.edits.swap import with_kind
from nimble_quake.shot.edits.switching import acts, switched_from
from nimble_quake.shot.fragment import needed
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, found_node, id_of, kind_of, neighbour, owner_path, value_path
from nimble_quake.shot.paths import map_path as path_of_map


@dataclass(frozen=True)
class LookOfKind:
    """A way to set a kind of step that has a name of its own; an empty name is the kind as it is."""

    kind: str
    name: str = ""
    values: Values = field(default_factory=dict)


def new_plate(session: Session, kind: str, **values: Value) -> str:
    """Add a plate on top, and select it. Returns its path."""
    operator = registry().get("plate", kind)
    shows = operator.shows_param if operator is not None and issubclass(operator, PlateKind) else ""
    if operator is not None:
        values = {**operator.begins_with(session.shot.width, session.shot.height), **values}
    if shows and session.selection.plate:
        values = {shows: id_of(session.selection.plate), **values}
    if operator is not None and isinstance(operator.declared.get("map"), MapRef) and session.selection.map:
        values = {"map": id_of(session.selection.map), **values}
    plate = Plate(id="", name=_unused(session, operator.title if operator else kind), kind=kind, values=dict(values))
    shot, path = add_plate(session.shot, plate)
    session.edit(f"New plate: {plate.name}", shot)
    session.select(plate=path, quake="")
    if isinstance(operator, type) and issubclass(operator, PlateKind) and operator.asks_for:
        session.typing_asked.emit(value_path(path, operator.asks_for))
    return path


def _unused(session: Session, name: str) -> str:
    """A name no plate has yet: "Text", then "Text 2"."""
    taken = {plate.name for plate in session.shot.plates}
    return next(each for each in (name, *(f"{name} {n}" for n in range(2, 10_000))) if each not in taken)


def plate_from_file(session: Session, file: str) -> str:
    """Add a plate for a still, SVG or clip. Returns its path; empty where we read no such file."""
    kind = sort_of(file)
    if not kind:
        session.message.emit(f"{Path(file).name} is no kind of file we read: use a picture, an SVG or a clip")
        return ""
    found = Path(file).absolute()
    plate = Plate(id="", name=found.stem, kind=kind, values={"file": str(found)})
    shot, path = add_plate(session.shot, plate)
    session.edit(f"New plate: {found.name}", shot)
    session.select(plate=path, quake="")
    if kind == "still" and pattern_of(str(found)):
        session.message.emit(f"{found.name} is one of several: Plate > Use the whole sequence")
    return path


def as_sequence(session: Session, path: str) -> None:
    """Make a clip of all numbered pictures that a still is one of. Missing numbers are said."""
    plate = find(session.shot, path)
    pattern = pattern_of(str(plate.values.get("file") or "")) if isinstance(plate, Plate) else ""
    if not isinstance(plate, Plate) or not pattern:
        session.message.emit(f"{session.name_of(path)} is not one of several numbered pictures")
        return
    values = {name: value for name, value in plate.values.items() if name != "file"}
    shot = set_field(session.shot, path, kind="clip", values={**values, "file": pattern}, name=Path(pattern).stem)
    session.edit(f"Use the whole sequence {Path(pattern).name}", shot)
    count, missing = len(numbered(pattern)), gaps(pattern)
    session.message.emit(
        f"{count} pictures, {missing} missing: the one before stands for them" if missing else f"{count} pictures"
    )


def new_step(session: Session, kind: str, after: str = "") -> str:
    """Add a step to the selected map, after the selected one or at the end. Returns its path."""
    shot, path = with_step(session.shot, session.selection.map, kind, after or session.selection.step)
    operator = registry().get("step", kind)
    session.edit(f"Add step: {operator.title if operator else kind}", shot)
    session.select(step=path)
    return path


def with_step(
    shot: Shot, map_path: str, kind: str, after: str = "", settings: Values | None = None, name: str = ""
) -> tuple[Shot, str]:
    """Return the shot with a new step in a map, and the step's path. A source after others is added about rest.

    Without a map one is made for it.
    """
    if not map_path:
        shot, map_path = add_map(shot, Map(id=kind, name=""))
    map = find(shot, map_path)
    place = None
    if isinstance(map, Map) and after:
        ids = [step.id for step in map.recipe]
        place = ids.index(id_of(after)) + 1 if id_of(after) in ids else None
    later = isinstance(map, Map) and bool(map.recipe) and place != 0
    source = registry().get("source", kind) is not None
    values: dict[str, object] = {"combine": "add"} if source and later else {}
    operator, clip = registry().get("step", kind), _only_clip(shot)
    if operator is not None and clip:
        named = (name for name, param in operator.reference_params if isinstance(param, PlateRef) and param.tracked)
        values |= dict.fromkeys(named, clip)
    references = operator.reference_params if operator is not None else ()
    wanted = [name for name, param in references if isinstance(param, MapRef) and param.wanted]
    if wanted and (other := _map_to_read(shot, map_path)):
        values |= dict.fromkeys(wanted, other)
    values |= settings or {}
    return add_step(shot, map_path, Node(id=kind, kind=kind, name=name, values=values), place)


def _map_to_read(shot: Shot, path: str) -> str:
    """The last map of the shot that does not read the one at a path itself; empty for none."""
    able = [
        map.id
        for map in shot.maps
        if path_of_map(map.id) != path and path not in needed(shot, [path_of_map(map.id)], registry().get)
    ]
    return able[-1] if able else ""


def _only_clip(shot: Shot) -> str:
    """The id of the only plate that shows a clip, else nothing: what tracked points can be asked of."""
    found = []
    for plate in shot.plates:
        operator = registry().get("plate", plate.kind)
        file = operator.declared.get(operator.media_param) if operator is not None else None
        if isinstance(file, MediaFile) and file.sort == "clip":
            found.append(plate.id)
    return found[0] if len(found) == 1 else ""


def encloses(session: Session, path: str) -> bool:
    """Return whether a step is one that other steps lie in."""
    operator = session.operator(path)
    return operator is not None and issubclass(operator, Step) and operator.encloses


def put_in_bracket(session: Session, path: str) -> None:
    """Put a step into the bracket it follows, or into a new one."""
    shot, bracket = bracketed(session.shot, path)
    session.edit(f"Put {session.name_of(path)} into a bracket", shot)
    session.select(step=bracket)


def take_out(session: Session, path: str) -> None:
    """Take a step out of its bracket."""
    session.edit(f"Take {session.name_of(path)} out of its bracket", freed(session.shot, path))


def swap_kind(session: Session, path: str, kind: str) -> None:
    """Swap a step for another kind."""
    swap_look(session, path, LookOfKind(kind))


def with_look(shot: Shot, path: str, look: LookOfKind) -> Shot:
    """Return the shot with a step swapped for a kind set as a look says; values both kinds have stay."""
    role = kind_of(path)
    operator = registry().get(role, look.kind)
    node = found_node(shot, path)
    old = registry().get(role, node.kind)
    if operator is None:
        return shot
    if node.kind != look.kind:
        shot = with_kind(shot, path, look.kind, registry().get)
    values = {**found_node(shot, path).values, **placed_values(operator, look.values, shot.width, shot.height)}
    looks = {name for name, _, _ in (*(old.looks if old else ()), *operator.looks)}
    name = look.name if look.name or node.name in looks else node.name  # a name a person gave stays
    return set_field(shot, path, values=values, name=name)


def swap_look(session: Session, path: str, look: LookOfKind) -> None:
    """Swap a step for another kind, or for a look of its own kind."""
    if path and (look.values or found_node(session.shot, path).kind != look.kind):
        session.edit(f"Swap {'step' if kind_of(path) == 'step' else 'effect'}", with_look(session.shot, path, look))


def reset(session: Session, path: str) -> None:
    """Set all of a node's values to their defaults."""
    if path:
        kept = {
            k: v for k, v in found_node(session.shot, path).values.items() if k in ("map", "file", "plate", "words")
        }
        session.edit(f"Reset {session.name_of(path)}", set_field(session.shot, path, values=kept))


def switch(session: Session, path: str) -> None:
    """Switch a plate, quake or step on or off."""
    node = found_node(session.shot, path)
    word = "off" if node.on else "on"
    session.edit(f"Switch {session.name_of(path)} {word}", set_field(session.shot, path, on=not node.on))


def acts_now(session: Session, path: str) -> bool:
    """Return whether a plate, effect or step is switched on at the playhead."""
    return acts(session.shot, path, session.frame)


def switch_here(session: Session, path: str) -> None:
    """Switch an item, and all that is selected with it, from the playhead on, until the next pin of each."""
    now, paths, shot = not acts_now(session, path), chosen_with(session, path), session.shot
    for each in paths:
        if isinstance(find(shot, each), Node):
            shot = switched_from(shot, each, session.frame, now)
    what = session.name_of(path) if len(paths) == 1 else f"{len(paths)} things"
    session.edit(f"Switch {what} {'on' if now else 'off'} from here on", shot)


def lock(session: Session, path: str) -> None:
    """Lock a plate against the mouse, or free it."""
    plate = find(session.shot, owner_path(path))
    if isinstance(plate, Plate):
        session.edit(
            f"{'Free' if plate.locked else 'Lock'} {session.name_of(path)}",
            set_field(session.shot, owner_path(path), locked=not plate.locked),
        )


def leave_out(session: Session, path: str) -> None:
    """Leave a plate out of the shutter, so that it stays sharp, or let it smear."""
    plate = find(session.shot, owner_path(path))
    if isinstance(plate, Plate):
        words = "smears" if plate.sharp else "stays sharp"
        shot = set_field(session.shot, owner_path(path), sharp=not plate.sharp)
        session.edit(f"{session.name_of(path)} {words}", shot)


def rename(session: Session, path: str, name: str) -> None:
    """Give a plate, map, quake or step a name."""
    session.edit(f"Rename to {name}", set_field(session.shot, path, name=name[:200]))


def remove_item(session: Session, path: str) -> None:
    """Take a plate, map, quake or step out; its neighbour is selected then."""
    if path:
        near = neighbour(session.shot, path)
        session.edit(f"Remove {session.name_of(path)}", remove(session.shot, path))
        if near and find(session.shot, near) is not None:
            session.select(**{kind_of(near): near})


def move_item(session: Session, path: str, to: int) -> None:
    """Change the order."""
    session.edit(f"Move {session.name_of(path)}", move(session.shot, path, to))


def duplicate_item(session: Session, path: str) -> None:
    """Make a copy and select it."""
    if not path:
        return
    shot, copy = duplicate(session.shot, path)
    session.edit(f"Duplicate {session.name_of(path)}", shot)
    session.select(**{kind_of(copy): copy})


def centre(session: Session, path: str, axis: str) -> None:
    """Put a plate's middle in the frame's middle, across ("x") or down ("y")."""
    if not path:
        return
    if session.param(f"{path}/position") is None:
        session.message.emit(f"{session.name_of(path)} fills everything; there is nothing to centre")
        return
    x, y = session.shown(f"{path}/position")
    ax, ay = session.shown(f"{path}/anchor")
    if (ax, ay) != (0.5, 0.5):
        session.begin("Centre")
        session.set(f"{path}/anchor", (0.5, 0.5))
    place = (session.shot.width / 2, y) if axis == "x" else (x, session.shot.height / 2)
    session.set(f"{path}/position", place, f"Centre {session.name_of(path)}")
    session.commit()


def fill_frame(session: Session, path: str) -> None:
    """Lay a plate over the whole frame, straight and in its middle; what has a shape of its own takes that size."""
    if session.param(value_path(path, "position")) is None:
        session.message.emit(f"{session.name_of(path)} fills the frame as it is")
        return
    shot = session.shot
    placement = {
        "position": (shot.width / 2, shot.height / 2),
        "anchor": (0.5, 0.5),
        "turn": 0.0,
        "scale_x": 1.0,
        "scale_y": 1.0,
        "width": float(shot.width),
        "height": float(shot.height),
        "fit": "cover",
    }
    session.begin(f"Fill the frame with {session.name_of(path)}")
    for name, value in placement.items():
        if session.param(value_path(path, name)) is not None:
            session.set(value_path(path, name), value)
    session.commit()


def crop_bars(session: Session, path: str) -> None:
    """Cut away dark bars that are baked into a plate's picture, as it is at this frame."""
    plate = find(session.shot, owner_path(path))
    if not isinstance(plate, Plate) or session.param(value_path(path, "crop_sides")) is None:
        session.message.emit("Choose a plate with a picture first")
        return
    try:
        left, right, top, bottom = bars_shown(frame_job(session.engine, session.shot, session.frame), plate.id)
    except NimbleQuakeError as wrong:  # it is too large to be looked at, or its file is gone
        session.message.emit(wrong.line())
        return
    if not any((left, right, top, bottom)):
        session.message.emit(f"{session.name_of(path)} has no bars at its sides")
        return
    session.begin(f"Crop the bars of {session.name_of(path)}")
    session.set(value_path(path, "crop_sides"), (round(left, 4), round(right, 4)))
    session.set(value_path(path, "crop_ends"), (round(top, 4), round(bottom, 4)))
    session.commit()


def chosen_with(session: Session, path: str) -> list[str]:
    """Return what is meant when something is done to a path: all that is selected together, where it is among them."""
    marked = session.selection.marked
    return sorted(marked) if path in marked else [path]


def remove_all(session: Session, path: str) -> None:
    """Take out a path and all that is selected with it, as one step."""
    paths = chosen_with(session, path)
    if len(paths) == 1:
        remove_item(session, path)
        return
    shot = session.shot
    for each in paths:
        shot = remove(shot, each) if find(shot, each) is not None else shot
    session.edit(f"Remove {len(paths)} things", shot)


def switch_all(session: Session, path: str) -> None:
    """Switch a path, and all that is selected with it, on or off, as one step."""
    paths = chosen_with(session, path)
    if len(paths) == 1:
        switch(session, path)
        return
    on, shot = not found_node(session.shot, path).on, session.shot
    for each in paths:
        if isinstance(find(shot, each), Node):
            shot = set_field(shot, each, on=on)
    session.edit(f"Switch {len(paths)} things {'on' if on else 'off'}", shot)


def duplicate_all(session: Session, path: str) -> None:
    """Copy a path and all that is selected with it, as one step."""
    paths = chosen_with(session, path)
    if len(paths) == 1:
        duplicate_item(session, path)
        return
    shot = session.shot
    for each in paths:
        shot, _ = duplicate(shot, each)
    session.edit(f"Duplicate {len(paths)} things", shot)
