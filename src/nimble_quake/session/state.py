"""The session: one open shot, its history, what is selected, and where the playhead stands."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Value, Values
from nimble_quake.errors import MotionError, NimbleQuakeError
from nimble_quake.media.pool import file_stamp
from nimble_quake.motion.kinds import Key, Keys, Motion, keys_of, with_keys_of
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Param
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import seen_answers, seen_moment
from nimble_quake.render.values.answers import ShotAnswers
from nimble_quake.render.values.resolving import resolved, shown_value
from nimble_quake.session.in_step import in_step
from nimble_quake.session.limits import clamped
from nimble_quake.session.selection import Selection, chosen, first_selection, is_quake, mended, source_name
from nimble_quake.session.signal import Signal
from nimble_quake.shot.changes import changes
from nimble_quake.shot.edits.keys import set_key
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.history import History
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, kind_of, node_path, real_path, value_name
from nimble_quake.shotfile.files import kept_aside, read_shot, write_shot

Found: TypeAlias = Plate | Map | Node | None
"""What a path of a shot can name."""


class Session:
    """All that the window shows and changes. Use it from one thread."""

    def __init__(self, engine: Engine | None = None) -> None:
        self.engine = engine or Engine()
        self.history = History(Shot())
        self.saved = self.history.now
        self.path: Path | None = None
        self._found_in: Shot | None = None
        self._found: dict[str, tuple[str, Found]] = {}
        """What was found in the shot that is open now, by path."""
        self._since: tuple[int, int] | None = None
        """The shot file's time of change and size when it was opened or saved."""
        self.selection = Selection()
        self.frame = 0
        self.clock = "timecode"
        """How time is shown: one of motion.timecode.CLOCKS."""
        self.folded: set[str] = set()
        """Paths of plates whose rows are folded away."""
        self.links: dict[str, bool] = {}
        """Whether the number at a path is linked to its partner, where somebody said so."""
        self.awaits_release = False
        """What is dragged was taken back, and is not let go of yet: what it still changes does not count."""
        self.changed = Signal()
        """(set of paths, SHAPE, SETTINGS): the shot has changed."""
        self.selected = Signal()
        """(): the selection has changed."""
        self.moved = Signal()
        """(): the playhead stands on another frame."""
        self.typing_asked = Signal()
        """(path): the value that is to be typed next."""
        self.colour_asked = Signal()
        """(path): the colour that is to be picked in the picture next."""
        self.outline_asked = Signal()
        """(path): the outline that is to be drawn in the picture next."""
        self.help_asked = Signal()
        """(a path, or the name of a help page): what somebody wants to read about."""
        self.carry_asked = Signal()
        """("copy", "cut" or "paste", path): what is to be done with an item and the clipboard."""
        self.pins_put = Signal()
        """(set of (path, frame)): the pins of a gesture that was put down."""
        self.stored = Signal()
        """(path, whether it was saved there): where the shot lies now; None for a new one."""
        self.offered = Signal()
        """(text, words of a button, what it does): something that can be done by one click, or left."""
        self.message = Signal()
        """(text): something to say in the status line."""

    @property
    def shot(self) -> Shot:
        """The shot now."""
        return self.history.now

    @property
    def dirty(self) -> bool:
        """Whether there are changes that are not saved."""
        return self.shot != self.saved

    @property
    def moment(self) -> Moment:
        """The moment at the playhead."""
        return self.moment_at(self.frame)

    def moment_at(self, frame: float) -> Moment:
        """The moment at a frame."""
        moment: Moment = seen_moment(self.engine, self.shot, frame)
        return moment

    def answers(self) -> ShotAnswers:
        """What moving values may ask of the shot now; a sound that is not decoded yet is silent."""
        return seen_answers(self.engine, self.shot)

    # Opening and saving

    def take(self, shot: Shot, path: Path | None = None, *, saved: bool = True) -> None:
        """Make a shot the open one, with a fresh history."""
        self.history = History(shot)
        self.saved = shot if saved else Shot(name="")
        self.path = path
        self._since = file_stamp(str(path)) if path is not None and saved else None
        self.frame = min(shot.playhead, shot.length - 1)
        self.stored.emit(path, False)
        self.selection = first_selection(shot)
        self.changed.emit({"shape", "settings"})
        self.selected.emit()
        self.moved.emit()

    def open(self, path: Path) -> None:
        """Open a shot file. Raises ShotError; the open shot stays then."""
        notes: list[str] = []
        self.take(read_shot(path, notes), path)
        if notes:
            more = f" (and {len(notes) - 1} more)" if len(notes) > 1 else ""
            self.message.emit(f"{path.name}: {notes[0]}{more}")

    def save(self, path: Path) -> None:
        """Save the shot. Raises SaveFailed. What another program has saved there meanwhile is kept beside it."""
        other = None
        if path == self.path and self._since is not None:
            with suppress(OSError):
                other = kept_aside(path, self._since)
        write_shot(self.to_keep(), path)
        self.path, self.saved, self._since = path, self.shot, file_stamp(str(path))
        if other is not None:
            self.message.emit(f"Another program had saved {path.name} meanwhile: that is kept as {other.name}")
        self.stored.emit(path, True)
        self.changed.emit(set())

    def to_keep(self) -> Shot:
        """Return the shot as its file holds it: with the frame it opens on."""
        return msgspec.structs.replace(self.shot, playhead=self.frame)

    # Editing

    def edit(self, label: str, shot: Shot) -> None:
        """Change the shot as one step that can be undone."""
        before, self.awaits_release = self.shot, False
        self.history.edit(label, in_step(before, clamped(before, shot)))
        self._tell(before)

    def begin(self, label: str) -> None:
        """Start a gesture, such as a drag."""
        self.awaits_release = False
        self.history.begin(label)

    def change(self, shot: Shot) -> None:
        """Change the shot within a gesture."""
        if self.awaits_release:
            return
        before = self.shot
        self.history.change(in_step(before, clamped(before, shot)))
        self._tell(before)

    def commit(self) -> None:
        """End the gesture: all its changes are one step."""
        self.awaits_release = False
        self.history.commit()

    def abort(self) -> None:
        """End the gesture and take its changes back."""
        before = self.shot
        self.history.abort()
        self._tell(before)

    def let_go(self) -> None:
        """Take the gesture under way back, and pass over what it still changes until it ends or another begins."""
        self.abort()
        self.awaits_release = True

    def undo(self) -> None:
        """Take the last step back."""
        before = self.shot
        label = self.history.undo()
        self._tell(before)
        self.message.emit(f"Undone: {label}" if label else "There is nothing to undo")

    def redo(self) -> None:
        """Do the last undone step again."""
        before = self.shot
        label = self.history.redo()
        self._tell(before)
        self.message.emit(f"Done again: {label}" if label else "There is nothing to do again")

    def _tell(self, before: Shot) -> None:
        found = changes(before, self.shot)
        if not found and before is self.shot:
            return
        if self.frame >= self.shot.length:
            self.set_frame(self.shot.length - 1)
        self._choose(mended(self.selection, self.shot))
        self.changed.emit(found)

    # Values

    def node(self, path: str) -> tuple[str, Found]:
        """Return where the values at a path really are (another's, where an effect is shared), and what is there.

        Asked hundreds of times for one change of the shot: what was found in it is kept while it stands.
        """
        if self._found_in is not self.shot:
            self._found_in, self._found = self.shot, {}
        found = self._found.get(path)
        if found is None:
            real = real_path(self.shot, path)
            found = self._found[path] = real, find(self.shot, real)
        return found

    def param(self, path: str) -> Param | None:
        """Return the declaration of the value at a path."""
        path, _ = self.node(path)
        operator = self.operator(path)
        return operator.declared.get(value_name(path)) if operator else None

    def operator(self, path: str) -> type[Operator] | None:
        """Return the operator class of the node a path names or lies in."""
        _, node = self.node(path)
        if not isinstance(node, Node):
            return None
        return registry().get(kind_of(path), node.kind)

    def operator_now(self, path: str) -> Value:
        """Return the operator at a path with its numbers at the playhead; None where there is none that works.

        A value that has no number now is at its default, as it is shown.
        """
        path, node = self.node(path)
        operator = self.operator(path) if path else None
        if not isinstance(node, Node) or operator is None:
            return None
        try:
            return resolved(operator, node, self.moment, path, lambda where, wrong: None)
        except NimbleQuakeError:
            return None

    def operator_title(self, kind: str) -> str:
        """Return what an effect's or step's kind is called."""
        found = registry().get("effect", kind) or registry().get("step", kind)
        return found.title if found else kind

    def is_quake(self, path: str) -> bool:
        """Return whether a path names a coupling of a plate."""
        return is_quake(self.shot, path)

    def values_of(self, path: str) -> Values:
        """Return the values that a node's path holds as the shot holds them: those that are not at their defaults."""
        _, node = self.node(path)
        return node.values if isinstance(node, Node) else {}

    def raw(self, path: str) -> Value:
        """Return the value at a path as the shot holds it: still or moving; None at its default."""
        return self.values_of(path).get(value_name(path))

    def shown(self, path: str) -> Value:
        """Return the value at a path now, as the settings show it."""
        path, node = self.node(path)
        param = self.param(path)
        if not isinstance(node, Node) or param is None:
            return None
        if param.follows and self.shown(f"{node_path(path)}/{param.follows[0]}"):
            return self.shown(f"{node_path(path)}/{param.follows[1]}")
        try:
            return shown_value(param, node, self.moment)
        except MotionError:  # the viewer says what is wrong; the settings show the default meanwhile
            return param.start(self.shot.width, self.shot.height)

    def fault(self, path: str) -> str:
        """Return why a value is not what its motion says now; empty where it is."""
        path, node = self.node(path)
        param = self.param(path)
        if isinstance(node, Node) and param is not None:
            try:
                shown_value(param, node, self.moment)
            except MotionError as wrong:
                return f"{wrong.line()}. Until then it is at its default."
            keys = keys_of(node.values.get(param.name))
            apart = keys.unjoined(self.frame) if keys is not None else None
            if apart is not None:
                frames, counts = (" and ".join(found) for found in zip(*map(_pin_words, apart), strict=True))
                return f"The pins at frame {frames} have {counts} points: the first holds. Give both as many."
        return ""

    def with_value(self, path: str, value: Value) -> Shot:
        """Return the shot with a value changed now: keys get one here, a rate is shifted, else it is just set."""
        path = real_path(self.shot, path)
        shot, old, param = self.shot, self.raw(path), self.param(path)
        if param is not None and param.sets:
            shot = set_value(shot, f"{node_path(path)}/{param.sets[0]}", param.sets[1])
        size = param.size if param is not None else 1
        new = old.with_value(value, self.moment, size) if isinstance(old, Motion) else value
        return set_value(shot, path, new)

    def set(self, path: str, value: Value, label: str = "") -> None:
        """Change a value now, inside the gesture under way or as a step of its own."""
        if self.awaits_release:
            return
        shot = self.with_value(path, value)
        if self.history.gesturing:
            self.change(shot)
        else:
            self.edit(label or f"Change {self.label_of(path)}", shot)

    def label_of(self, path: str) -> str:
        """Return a value's name for undo labels and rows: "Push, across reach"."""
        param = self.param(path)
        node = find(self.shot, path)
        owner = self.name_of(node_path(path)) if node else ""
        label = param.label if param else value_name(path)
        return f"{owner}, {label[:1].lower()}{label[1:]}" if owner else label

    def name_of(self, path: str) -> str:
        """Return the name of a plate, map, quake or step."""
        item = find(self.shot, path)
        if isinstance(item, Map):
            return item.name or self._map_name(item)
        if not isinstance(item, Node):
            return ""
        operator = self.operator(path)
        return item.name or (operator.title if operator else item.kind)

    def _map_name(self, map: Map) -> str:
        """The name of a map that nobody has named: that of its source, numbered where several are called so."""
        others = [m for m in self.shot.maps if not m.name and source_name(m) == source_name(map)]
        number = next((n for n, m in enumerate(others, 1) if m.id == map.id), 1)
        return source_name(map) if number == 1 else f"{source_name(map)} {number}"

    def start_moving(self, path: str) -> None:
        """Give a still value its first key, here; take the key here away from one that moves by keys."""
        path = real_path(self.shot, path)
        old, now, param = self.raw(path), self.shown(path), self.param(path)
        if isinstance(old, Motion):
            now = old.below(now, self.moment, param.size if param else 1)
        keyed = keys_of(old)
        if keyed is not None:
            keys = [key for key in keyed.keys if key.frame != self.frame]
            if len(keys) == len(keyed.keys):
                self.edit(f"Set pin: {self.label_of(path)}", set_key(self.shot, path, float(self.frame), now))
            else:
                value = with_keys_of(old, keyed.of(keys) if keys else now)
                self.edit(f"Take pin away: {self.label_of(path)}", set_value(self.shot, path, value))
            return
        value = with_keys_of(old, Keys((Key(frame=float(self.frame), value=now),)))
        self.edit(f"Let move: {self.label_of(path)}", set_value(self.shot, path, value))

    # Selection and playhead

    def select(self, **paths: str) -> None:
        """Select things by path: plate, effect (a quake or a finish), quake, finish, map, step, sound."""
        self._choose(chosen(self.selection, self.shot, paths))

    def _choose(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self.selected.emit()

    def mark(self, paths: frozenset[str]) -> None:
        """Select several things beside the ones whose settings are shown."""
        self.selection = replace(self.selection, marked=paths)
        self.selected.emit()

    def fold(self, path: str) -> None:
        """Fold away what lies in a plate, in the stack and the time strip, or show it again."""
        self.folded ^= {path}
        self.selected.emit()

    def set_frame(self, frame: int) -> None:
        """Move the playhead, held inside the shot."""
        frame = min(max(int(frame), 0), self.shot.length - 1)
        if frame != self.frame:
            self.frame = frame
            self.moved.emit()


def _pin_words(key: Key) -> tuple[str, str]:
    return f"{key.frame:g}", str(len(key.value))
