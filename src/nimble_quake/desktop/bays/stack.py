"""The stack: a list of plates, the top one first, each with its effects; groups with what is in them."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QSize, pyqtSignal
from PyQt6.QtWidgets import QMenu

from nimble_quake.desktop.bays.row_list import RowList, add_clipboard, add_switches
from nimble_quake.desktop.bays.row_painting import Row
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.widgets.parts import add_question
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.plate_kind import BLENDS
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import effect_summary
from nimble_quake.session.verbs import carry, effects, glass, grouping, items
from nimble_quake.shot.groups import holder_of, holders_of, in_order, members_of
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, id_of, kind_of, map_path, nested_path, owner_path, plate_path
from nimble_quake.shot.spans import ACTS


class Stack(RowList):
    """Shows the plates of the session's shot, and does what is asked of its rows."""

    cover_asked = pyqtSignal(str, bool)
    """(plate's path, whether the enlargement moves): its gaps are to be covered."""

    def __init__(self, session: Session, frames: Frames) -> None:
        super().__init__("Stack", 22, QSize(32, 18))
        self.session, self.frames = session, frames
        self._described: dict[str, tuple[Node, object, bool, int, str, int, Row]] = {}
        """Rows of effects: what they were made from, and the row."""
        self._plates: dict[str, tuple[Plate, bool, int, bool | None, int | None, Row]] = {}
        """Rows of plates, likewise."""
        self.empty_text = "Nothing to see yet. Add a plate, or drop pictures and clips on the window."
        self.chosen.connect(lambda path: session.select(**{kind_of(path): path}))
        self.switched.connect(lambda path: items.switch_all(session, path))
        self.switched_here.connect(lambda path: items.switch_here(session, path))
        self.removed.connect(lambda path: items.remove_all(session, path))
        self.marked.connect(self._mark)
        self.renamed.connect(lambda path, name: items.rename(session, path, name))
        self.moved.connect(self._move)
        self.carries = lambda path, onto: kind_of(path) == "effect" and owner_path(path) != owner_path(onto)
        self.carried.connect(lambda path, onto, copies: carry.carry(session, path, onto, copies=copies))
        self.folded.connect(self._fold)
        self.menu_asked.connect(self._row_menu)
        self.note_asked.connect(self._choose_blend)
        self.level_asked.connect(lambda path: session.typing_asked.emit(f"{path}/opacity"))

    def refresh(self) -> None:
        """Show the document and what is selected in it."""
        chosen = self.session.selection
        paths = (chosen.plate, chosen.quake, chosen.finish, *chosen.marked)
        self.show_rows(self._rows(), tuple(path for path in paths if path))

    def _rows(self) -> list[Row]:
        rows = []
        for plate in in_order(self.session.shot.plates):
            holders = holders_of(self.session.shot.plates, plate)
            if any(plate_path(holder.id) in self.session.folded for holder in holders):
                continue
            path, depth = plate_path(plate.id), len(holders)
            has_rows = bool(plate.effects) or bool(members_of(self.session.shot.plates, plate.id))
            opened = (path not in self.session.folded) if has_rows else None
            on = all(items.acts_now(self.session, plate_path(each.id)) for each in (plate, *holders))
            rows.append(self._plate_row(plate, on, depth, opened, path))
            if opened:
                rows += [
                    self._effect_row(effect, on, depth + 1, nested_path(path, effect.id)) for effect in plate.effects
                ]
        return rows

    def _plate_row(self, plate: Plate, on: bool, depth: int, opened: bool | None, path: str) -> Row:
        """A plate: its name, its kind, how it blends. One that is as it was is not described again."""
        moving = any(is_moving(plate.values.get(name)) for name in ("blend", "opacity", ACTS))
        moves = self.session.frame if moving else None
        kept = self._plates.get(path)
        if kept is not None and kept[0] is plate and kept[1:5] == (on, depth, opened, moves):
            return kept[5]
        operator = self.session.operator(path)
        row = Row(
            path,
            self.session.name_of(path),
            operator.title.lower() if operator else plate.kind,
            self._note(path),
            chooses=True,
            level=self._level(path),
            on=on,
            depth=depth,
            region="lagoon",
            open=opened,
            pinned=is_moving(plate.values.get(ACTS)),
            locked=plate.locked,
        )
        self._plates[path] = plate, on, depth, opened, moves, row
        return row

    def _effect_row(self, effect: Node, on: bool, depth: int, path: str) -> Row:
        """An effect: its name, by which map, how strong it is. One that is as it was is not described again."""
        acts = items.acts_now(self.session, path) and on and self._acts(path)
        cost = self.frames.costs.note(path) if acts else ""
        maps, frame = self.session.shot.maps, self.session.frame
        kept = self._described.get(path)
        same = kept is not None and kept[0] is effect and kept[1] is maps and kept[2:5] == (on, depth, cost)
        if kept is not None and same and (kept[5] == frame or not any(map(is_moving, effect.values.values()))):
            return kept[6]
        row = self._described_row(effect, on, depth, path, cost)
        if not effect.shared:
            self._described[path] = effect, maps, on, depth, cost, frame, row
        return row

    def _acts(self, path: str) -> bool:
        """Whether an effect does anything with the numbers it has now: what does nothing takes no time."""
        operator = self.session.operator_now(path)
        return operator is not None and bool(operator.parts())

    def _described_row(self, effect: Node, on: bool, depth: int, path: str, cost: str) -> Row:
        quake, operator = self.session.is_quake(path), self.session.operator(path)
        map = self.session.shot.map(str(self.session.shown(f"{path}/map") or ""))
        by = self.session.name_of(map_path(map.id)) if map else ""
        if quake and not by and operator is not None and operator.needs_map:
            by = "no map"
        return Row(
            path,
            self.session.name_of(path),
            note=effect_summary(self.session, path),
            cost=cost,
            depth=depth,
            small=True,
            on=items.acts_now(self.session, path) and on,
            pinned=is_moving(self.session.raw(f"{path}/{ACTS}")),
            region="ember" if quake else "lagoon",
            map_name=by,
            shared=bool(effect.shared),
            masked=bool(self.session.shown(f"{path}/mask")),
        )

    def _note(self, path: str) -> str:
        own = self.session.raw(f"{path}/blend")
        blend = str(self.session.shown(f"{path}/blend") if own is None or is_moving(own) else own)
        return next((option.label for option in BLENDS if option.value == blend), "")

    def _level(self, path: str) -> str:
        """How much a plate covers now."""
        opacity = self.session.shown(f"{path}/opacity")
        return f"{100 * float(opacity):.0f} %" if opacity is not None else ""

    def _choose_blend(self, path: str, at: QPoint) -> None:
        menu = QMenu(self)
        now = self.session.shown(f"{path}/blend")
        for option in BLENDS:
            action = menu.addAction(option.label, lambda value=option.value: self.session.set(f"{path}/blend", value))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(option.value == now)
        menu.exec(at)

    def _fold(self, path: str) -> None:
        self.session.fold(path)

    def _move(self, path: str, to: int) -> None:
        """Move what was dragged; `to` counts the rows that are shown, the document what is folded away too."""
        if kind_of(path) == "plate":
            shown = [row.path for row in self.rows if kind_of(row.path) == "plate" and row.path != path]
            all_ = [plate_path(p.id) for p in in_order(self.session.shot.plates) if plate_path(p.id) != path]
            to = all_.index(shown[to]) if to < len(shown) else len(all_)
        items.move_item(self.session, path, to)

    def _row_menu(self, path: str, at: QPoint) -> None:
        menu = QMenu(self)
        add_clipboard(menu, self.session, path)
        menu.addAction("Duplicate", lambda: items.duplicate_all(self.session, path))
        menu.addAction("Rename", lambda: self.rename(path))
        add_switches(menu, self.session, path, items.switch_all)
        if kind_of(path) == "effect":
            self._effect_menu(menu, path)
        if kind_of(path) == "plate":
            self._group_menu(menu, path)
            menu.addAction("Lock or free", lambda: items.lock(self.session, path))
            menu.addAction("Centre across", lambda: items.centre(self.session, path, "x"))
            menu.addAction("Centre down", lambda: items.centre(self.session, path, "y"))
            menu.addAction("Fill the frame", lambda: items.fill_frame(self.session, path))
            if glass.can_be_glass(self.session, path):
                menu.addAction("Make it glass", lambda: glass.make_glass(self.session, path))
            menu.addAction("Lay on a plane", lambda: grouping.lay_on_plane(self.session, path))
            menu.addAction("Split by its mask: subject and rest", lambda: grouping.split(self.session, path))
            menu.addAction("Cover the gaps, over the whole shot", lambda: self.cover_asked.emit(path, False))
            menu.addAction("Cover the gaps, frame by frame", lambda: self.cover_asked.emit(path, True))
        menu.addAction("Remove", lambda: items.remove_all(self.session, path))
        add_question(menu, self.session.help_asked.emit, path)
        menu.exec(at)

    def _effect_menu(self, menu: QMenu, path: str) -> None:
        """What can be done to an effect alone."""
        seen = self.frames.upto == path
        menu.addAction(
            "See the whole plate again" if seen else "See the plate up to here", lambda: self.frames.show_upto(path)
        )
        node = find(self.session.shot, path)
        if isinstance(node, Node) and node.shared:
            menu.addAction(
                f"Go to what it shares: {self.session.name_of(node.shared)}",
                lambda: self.session.select(effect=node.shared),
            )
            menu.addAction("Part it: values of its own", lambda: effects.part(self.session, path))
        others = [plate_path(p.id) for p in self.session.shot.plates if plate_path(p.id) != owner_path(path)]
        shared = menu.addMenu("Share with")
        if shared is not None:
            for other in others:
                shared.addAction(
                    self.session.name_of(other), lambda other=other: effects.share_with(self.session, path, other)
                )
            shared.setEnabled(bool(others))

    def _mark(self, path: str) -> None:
        """Select something more, or no longer."""
        chosen = self.session.selection
        first = self.current or chosen.finish or chosen.quake or chosen.plate
        now = chosen.marked or frozenset({first} if first else ())
        self.session.mark(now ^ {path})

    def _group_menu(self, menu: QMenu, path: str) -> None:
        """What can be done with groups, and with live copies."""
        menu.addAction("Put into a group", lambda: grouping.group(self.session, path))
        plate = find(self.session.shot, path)
        if isinstance(plate, Plate) and holder_of(self.session.shot.plates, plate) is not None:
            menu.addAction("Take out of its group", lambda: grouping.take_out(self.session, path))
        if members_of(self.session.shot.plates, id_of(path)):
            menu.addAction("Take the group away, keep what is in it", lambda: grouping.ungroup(self.session, path))
        menu.addAction("Live copy: shown once more, follows this one", lambda: grouping.live_copy(self.session, path))
