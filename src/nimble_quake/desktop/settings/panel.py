"""A settings panel: one row for each parameter of an operator, made from its declaration."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from nimble_quake.conventions import Values
from nimble_quake.desktop.settings.bound import motion_of
from nimble_quake.desktop.settings.field_grid import FieldGrid
from nimble_quake.desktop.settings.name_label import NameLabel
from nimble_quake.desktop.settings.picture_editors import OutlineEditor
from nimble_quake.desktop.settings.section_head import SectionChip, SectionChips, SectionHead
from nimble_quake.desktop.settings.text_editors import WordsEditor
from nimble_quake.desktop.widgets.levels_bar import LevelsBar
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.quake import CHIPS, FOOT
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown, section_acts, section_summary, switch_of
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find


class Touched:
    """Which values of a node may be other ones than at the last look, while one is dragged."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._seen: tuple[Values, object] = ({}, None)
        """The values at the last look, and of what that was."""
        self._declared: Mapping[str, Param] = {}
        self._depends: dict[str, frozenset[str]] = {}

    def since(self, path: str, fields: int) -> frozenset[str] | None:
        """Return the values that may have changed since the last look; None: all of them.

        Beside those that were changed, all that move: they may follow what is changed elsewhere. fields: how many are
        shown, since a new one was not looked at.
        """
        session = self._session
        values, at = session.values_of(path), (path, session.frame, fields)
        operator = session.operator(path)
        self._declared = operator.declared if operator is not None else {}
        before, self._seen = self._seen, (values, at)
        if not session.history.gesturing or before[1] != at:
            return None
        names = values.keys() | before[0].keys()
        return frozenset(n for n in names if values.get(n) is not before[0].get(n) or is_moving(values.get(n)))

    def stands_on(self, name: str) -> frozenset[str]:
        """Return a value and all that says whether it is shown, or what it shows."""
        if name not in self._depends:
            self._depends[name] = _named_by(self._declared, name)
        return self._depends[name]


class SettingsPanel(QScrollArea):
    """The settings of the node at a path. Two columns where there is room, else one."""

    def __init__(self, session: Session, region: str, *, names: int = 66, chips: bool = False) -> None:
        """chips: the heads of its sections are chips, all in view, of which one is open."""
        super().__init__()
        self.session, self.region, self._names, self._as_chips = session, region, names, chips
        self.path = ""
        self.skip: frozenset[str] = frozenset()
        self.wanted: Callable[[Param], bool] = lambda param: True
        """Which parameters it shows at all."""
        self.under: dict[str, Callable[[], QWidget]] = {}
        """What stands under the field of a value, by its name."""
        self.opened: dict[str, list[str]] = {}
        """The sections that are unfolded, by kind of operator; shared with whoever remembers them."""
        self.heads: dict[str, SectionHead | SectionChip] = {}
        self.fields = FieldGrid(session, region, "", 1, names)
        self.stand_ins: dict[str, float] = {}
        """What numbers count as now where a choice decides it (a rest level found automatically), by name."""
        self.levels: LevelsBar | None = None
        self._touched = Touched(session)
        self._columns = 0
        self._waiting = False
        self._sought = ""
        self._kind: tuple[str, str] = ("", "")
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Settings")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    @property
    def editors(self) -> dict[str, Any]:
        """The editors made so far, by the name of their value."""
        return self.fields.editors

    @property
    def name_labels(self) -> dict[str, NameLabel]:
        """The names beside editors, by the name of their value."""
        return self.fields.name_labels

    def show_node(self, path: str) -> None:
        """Show the settings of a node; an empty path shows none."""
        node = find(self.session.shot, path) if path else None
        kind = (path, node.kind if isinstance(node, Node) else "")
        if kind != self._kind:
            self.path, self._kind = path, kind
            if not self.isVisible():  # built when it is seen, at the width it then has
                self._waiting = True
                return
            self._build()
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._waiting:
            self._waiting = False
            self._build()
            self.refresh()

    def refresh(self) -> None:
        """Show the document's values."""
        if not isinstance(find(self.session.shot, self.path) if self.path else None, Node):
            return
        for section in self._open_sections():
            self.fields.make(section)
        touched = self._touched.since(self.path, len(self.editors))
        self._show_heads(touched)
        for name, editor in self.editors.items():
            if touched is not None and not touched & self._touched.stands_on(name):
                continue
            shown = self.is_field_shown(name)
            editor.setVisible(shown)
            if name in self.fields.under:
                self.fields.under[name].setVisible(shown)
            if name in self.name_labels:
                self.name_labels[name].setVisible(shown)
                if shown:
                    self.fields.show_name(name)
            if shown:
                editor.setEnabled(not self._follows(name))
                editor.refresh()
                editor.show_mark()
                if name in self.stand_ins:
                    editor.show_instead(self.stand_ins[name])
        for link in self.fields.links:
            link.refresh()
        self._mark_faults()
        if self.levels is not None:
            black, middle, white = (self.session.shown(f"{self.path}/{name}") for name in ("black", "middle", "white"))
            self.levels.show_levels(black, middle, white)

    def show_histogram(self, bars: list[float], rest: float, mean: float, clipped: float) -> None:
        """Show the live histogram wherever values are set on it."""
        if self.levels is not None:
            self.levels.show_histogram(bars, rest, mean, clipped)
        for editor in self.editors.values():
            if isinstance(editor, OutlineEditor):
                editor.pad.show_histogram(bars, rest, mean, clipped)

    def follow(self) -> None:
        """Show what moves as it is at the playhead; nothing else can have changed."""
        for name, editor in self.editors.items():
            moves = motion_of(self.session, f"{self.path}/{name}") != "still" or self._follows(name)
            if moves and editor.isVisibleTo(self):
                editor.refresh()
                editor.show_mark()
        self._mark_faults()

    def _mark_faults(self) -> None:
        values = self.session.values_of(self.path)
        for name, label in self.name_labels.items():
            label.show_fault(self.session.fault(f"{self.path}/{name}") if is_moving(values.get(name)) else "")

    def _follows(self, name: str) -> bool:
        """Whether a value goes along with another one and cannot be changed by itself now."""
        param = self.session.param(f"{self.path}/{name}")
        return bool(param is not None and param.follows and self.session.shown(f"{self.path}/{param.follows[0]}"))

    def stand_in(self, name: str, value: float | None) -> None:
        """Show in a number's field what it counts as now; None shows its own value again."""
        if self.stand_ins.get(name) == value:
            return
        if value is None:
            del self.stand_ins[name]
        else:
            self.stand_ins[name] = value
        if name in self.editors and self.is_field_shown(name):
            self.editors[name].refresh()
            if value is not None:
                self.editors[name].show_instead(value)

    def is_field_shown(self, name: str) -> bool:
        param = self.session.param(f"{self.path}/{name}")
        if param is None or (param.section in self.heads and param.section not in self._open_sections()):
            return False
        return is_shown(self.session, self.path, param)

    # Sections

    def _open_sections(self) -> list[str]:
        return self.opened.setdefault(self._kind[1], [])

    def _section(self, section: str) -> list[Param]:
        operator = self.session.operator(self.path)
        return [p for p in operator.declared.values() if p.section == section] if operator else []

    def _show_heads(self, touched: frozenset[str] | None = None) -> None:
        for section, head in self.heads.items():
            params = self._section(section)
            if touched is not None and not any(touched & self._touched.stands_on(param.name) for param in params):
                continue
            switch = switch_of(params)
            on = switch is None or bool(self.session.shown(f"{self.path}/{switch.name}"))
            words = section_summary(self.session, self.path, params)
            state = (section in self._open_sections(), on, words)
            if isinstance(head, SectionChip):
                head.show_state(*state, section_acts(self.session, self.path, params))
            else:
                head.show_state(*state)

    def _fold(self, section: str, open: bool) -> None:
        sections = self._open_sections()
        if open:
            sections.remove(section)
        elif section not in sections:
            if self._as_chips:
                sections.clear()
            sections.append(section)
        self.refresh()

    def _switch(self, section: str) -> None:
        """Switch a section; one that is switched on unfolds."""
        switch = switch_of(self._section(section))
        if switch is None:
            return
        on = not self.session.shown(f"{self.path}/{switch.name}")
        if on and section not in self._open_sections():
            self._fold(section, open=False)
        self.session.set(f"{self.path}/{switch.name}", on, f"{section} {'on' if on else 'off'}")

    def show_section(self, section: str) -> None:
        """Unfold a section and bring it into view."""
        if section in self.heads:
            if section not in self._open_sections():
                self._fold(section, open=False)
            self._sought = section
            QTimer.singleShot(0, self._show_sought)  # once it is laid out

    def _show_sought(self) -> None:
        head = self.heads.get(self._sought)
        if head is not None:
            self.ensureWidgetVisible(head, 0, 90)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._columns and self._wanted_columns() != self._columns:
            self._build()
            self.refresh()

    def _wanted_columns(self) -> int:
        return 2 if self.width() >= 270 else 1

    def _build(self) -> None:
        self._columns = self._wanted_columns()
        self.fields = FieldGrid(self.session, self.region, self.path, self._columns, self._names)
        self.levels, self.heads, self._touched = None, {}, Touched(self.session)
        body = QWidget()
        body.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        outer = QVBoxLayout(body)
        outer.setContentsMargins(0, 0, 6, 4)
        outer.setSpacing(0)
        operator = self.session.operator(self.path) if self.path else None
        declared = operator.declared.values() if operator else ()
        params = [p for p in declared if p.name not in self.skip and not p.in_row and self.wanted(p)]
        self.fields.under = {p.name: self.under[p.name]() for p in params if p.name in self.under}
        row = 0
        if operator is not None and operator.histogram:
            row = self._add_levels(row)
        row = self.fields.place([p for p in params if not p.section], row)
        by_section = {
            name: [p for p in params if p.section == name] for name in dict.fromkeys(p.section for p in params)
        }
        by_section.pop("", None)
        if self._as_chips and by_section:
            row = self._place_chips(by_section, row)
        for section, fields in by_section.items():
            row = self._place_section(section, fields, row)
        outer.addLayout(self.fields.grid)
        if self.path and operator is None:
            outer.addWidget(_note("This kind is not known here. Its settings are kept as they are."))
        outer.addStretch(1)
        old = self.takeWidget()
        if old is not None:
            old.deleteLater()
        self.setWidget(body)

    def _place_section(self, section: str, params: list[Param], row: int) -> int:
        """A head over its fields, which are made once it is unfolded; a section that is always in view has none.

        Returns the first row that is free.
        """
        switch = None if self._as_chips else switch_of(params)
        if section != FOOT and not self._as_chips:
            head = SectionHead(section, self.region, switches=switch is not None)
            head.folded.connect(lambda open: self._fold(section, open))
            head.switched.connect(lambda: self._switch(section))
            row = self.fields.place_wide(head, row)
            self.heads[section] = head
        fields = [param for param in params if param is not switch]
        place = self.fields.place if section not in self.heads else partial(self.fields.place_later, section)
        return place(fields, row)

    def _place_chips(self, by_section: dict[str, list[Param]], row: int) -> int:
        chips = []
        for section, params in by_section.items():
            switches = switch_of(params) is not None
            chip = SectionChip(section, CHIPS.get(section, section), self.region, switches=switches)
            chip.folded.connect(partial(self._fold, section))
            chip.switched.connect(partial(self._switch, section))
            self.heads[section] = chip
            chips.append(chip)
        return self.fields.place_wide(SectionChips(chips), row)

    def _add_levels(self, row: int) -> int:
        bar = LevelsBar(self.region)
        bar.began.connect(lambda: self.session.begin(f"Change {self.session.name_of(self.path)}"))
        bar.changing.connect(lambda name, value: self.session.set(f"{self.path}/{name}", value))
        bar.ended.connect(self.session.commit)
        self.levels = bar
        return self.fields.place_wide(bar, row)

    def focus_value(self, name: str) -> None:
        """Put the keyboard focus on a value's editor."""
        param = self.session.param(f"{self.path}/{name}")
        if param is not None and param.section in self.heads:
            self.show_section(param.section)
        if name in self.editors:
            self.editors[name].setFocus()
            self.ensureWidgetVisible(self.editors[name])
            if isinstance(self.editors[name], WordsEditor):
                self.editors[name].select_all()

    def params(self) -> list[Param]:
        """Return every value that can be set now, those of folded sections too."""
        return [p for p in self.fields.params() if is_shown(self.session, self.path, p)] if self.isVisible() else []


def _named_by(declared: Mapping[str, Param], name: str) -> frozenset[str]:
    """A value and, one after the other, those that it waits for, follows, or shares its row with."""
    found, todo = set[str](), [name]
    while todo:
        here = todo.pop()
        param = declared.get(here)
        if not here or here in found:
            continue
        found.add(here)
        if param is not None:
            todo += param.hangs_on()
    return frozenset(found)


def _note(text: str) -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    return label
