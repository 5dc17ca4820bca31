"""The fields of a settings panel in their grid: a name and an editor for each value, made when they are seen."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from nimble_quake.desktop.settings.editors import WIDE, editor_for, is_long
from nimble_quake.desktop.settings.joined_row import JoinedRow, LinkedName, PairLink
from nimble_quake.desktop.settings.name_label import NameLabel
from nimble_quake.desktop.settings.number_editors import NumberEditor
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.params.base import Joined
from nimble_quake.params.kinds import Exceptions, Number, Param, Place, Velocity
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front

LINK, CLOSE = 11, 3
"""Pixels of a link between two columns, and from one thing to the next then: fields keep their width."""


class FieldGrid:
    """Rows of names and editors, in one or two columns. Fields that wait are made when they are first wanted."""

    def __init__(self, session: Session, region: str, path: str, columns: int, names: int) -> None:
        """names: pixels for the names of a column."""
        self.session, self.region, self.path, self.columns = session, region, path, columns
        self.editors: dict[str, Any] = {}
        self.name_labels: dict[str, NameLabel] = {}
        self.links: list[LinkedName] = []
        self.under: dict[str, QWidget] = {}
        """What stands under the field of a value, by its name."""
        self._places: dict[str, tuple[int, int]] = {}
        """The row and column each field stands in."""
        self._joins: dict[str, Joined] = {}
        """What shares a row with what chooses for it, by its name."""
        self._waiting: dict[str, tuple[int, list[Param]]] = {}
        """Sections that were not unfolded yet: the rows that wait for them, and what goes there."""
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(5)
        self.grid.setVerticalSpacing(4)
        for column in range(columns):
            self.grid.setColumnMinimumWidth(column * 3, names)
            self.grid.setColumnStretch(column * 3 + 1, 1)
        if columns == 2:
            self.grid.setColumnMinimumWidth(2, 3)

    def place_wide(self, widget: QWidget, row: int) -> int:
        """Put something over the whole width, and return the next row."""
        self.grid.addWidget(widget, row, 0, 1, self.columns * 3 - 1)
        return row + 1

    def place_later(self, section: str, params: list[Param], row: int) -> int:
        """Leave rows for a section's fields, and return the next one."""
        self._waiting[section] = row, params
        return row + 3 * len(params)  # as many as they can need; a row with nothing in it takes no room

    def make(self, section: str) -> None:
        """Make a section's fields, if they wait."""
        if section in self._waiting:
            row, params = self._waiting.pop(section)
            self.place(params, row)

    def params(self) -> list[Param]:
        """Return every value that has a field, or will have one."""
        made = [label.param for label in self.name_labels.values()]
        return [*made, *(param for _, waiting in self._waiting.values() for param in waiting)]

    def place(self, params: list[Param], row: int) -> int:
        """Fill rows from the left, and return the first that is free; what needs a whole line starts a new one."""
        column = 0
        joined = self._joined(params)
        self._joins |= {first.joined.name: first.joined for first in params if first.name in joined and first.joined}
        for param in params:
            if param.name in joined:
                self._place_joined(row, param, joined[param.name])
                row += 1
                continue
            if any(param.name in (other.name, *self._with(first)) for first, other in joined.items()):
                continue
            path = f"{self.path}/{param.name}"
            editor = editor_for(self.session, path, param, self.region)
            editor.setSizePolicy(QSizePolicy.Policy.Ignored, editor.sizePolicy().verticalPolicy())  # equal columns
            label = NameLabel(self.session, path, param)
            label.setFont(font())
            tone(label, "quiet")
            label.setBuddy(editor)
            if isinstance(param, Velocity):
                editor.words = label
            else:
                label.setFixedHeight(20)
            self.editors[param.name], self.name_labels[param.name] = editor, label
            whole = self.columns == 1 or isinstance(param, WIDE) or is_long(param)
            if whole and column:
                row, column = row + 1, 0
            if isinstance(param, Place | Exceptions) and self.columns == 1:  # these want the whole line
                self.grid.addWidget(label, row, 0, 1, 2)
                row += 1
                self.grid.addWidget(editor, row, 0, 1, 2)
                row += 1
                continue
            self.grid.addWidget(self._linked(param, label), row, column * 3)
            span = 1 if self.columns == 1 or not whole else 4
            self.grid.addWidget(editor, row, column * 3 + 1, 1, span)
            self._places[param.name] = row, column
            if isinstance(param, Number) and self._places.get(param.partner) == (row, 0) and column == 1:
                self._link_between(param, label, row)
            if whole or column == self.columns - 1 or param.name in self.under:
                row, column = row + 1, 0
            else:
                column += 1
            if param.name in self.under:
                row = self.place_wide(self.under[param.name], row)
        return row + 1 if column else row

    def _linked(self, param: Param, label: NameLabel) -> QWidget:
        """A row's name, with the link to its partner where it has one; two columns have it between them."""
        link = self._link_of(param) if self.columns == 1 else None
        return label if link is None else self._link_beside(link, label, label)

    def _link_between(self, param: Param, label: NameLabel, row: int) -> None:
        """The link of two that stand side by side, between them."""
        link = self._link_of(param)
        if link is not None:
            beside = self._link_beside(link, label, None)
            beside.button.setFixedWidth(LINK)
            beside.button.setIconSize(QSize(LINK, LINK))
            beside.button.setStyleSheet("padding: 0; margin: 0;")
            self.grid.addWidget(beside, row, 2)
            self.grid.setColumnMinimumWidth(2, LINK)
            self.grid.setHorizontalSpacing(CLOSE)

    def _link_of(self, param: Param) -> PairLink | None:
        """What links a number to its partner; None where it has none here."""
        if not isinstance(param, Number) or not param.partner:
            return None
        first, second = self.editors.get(param.partner), self.editors[param.name]
        if not isinstance(first, NumberEditor) or not isinstance(second, NumberEditor):
            return None
        first.link = second.link = PairLink(self.session, first.path, second.path, meant=param.linked)
        return second.link

    def _link_beside(self, link: PairLink, label: NameLabel, shown: QWidget | None) -> LinkedName:
        named = LinkedName(self.session, link, shown, "One is scaled as the other is")
        self.links.append(named)
        label.watch(named)
        return named

    def _joined(self, params: list[Param]) -> dict[str, Param]:
        """The parameters that share a row, each with the one it is joined by."""
        if self.columns > 1:
            return {}
        named = {param.name: param for param in params}
        return {p.name: named[p.joined.name] for p in params if p.joined is not None and p.joined.name in named}

    def _with(self, first: str) -> tuple[str, ...]:
        """The link of a joined row."""
        param = self.session.param(f"{self.path}/{first}")
        return (param.joined.link,) if param is not None and param.joined is not None else ()

    def _place_joined(self, row: int, first: Param, second: Param) -> None:
        """What chooses, and how much, under one name; a link to the row above stands by the name."""
        for param in (first, second):
            path = f"{self.path}/{param.name}"
            self.editors[param.name] = editor_for(self.session, path, param, self.region)
        label = NameLabel(self.session, f"{self.path}/{second.name}", second)
        label.setFont(font())
        tone(label, "quiet")
        label.setFixedHeight(20)
        label.setBuddy(self.editors[second.name])
        self.name_labels[second.name] = label
        joined = first.joined
        named: QWidget = label
        if joined is not None and joined.link:
            path = f"{self.path}/{joined.link}"
            toggle = self.session.param(path)
            named = LinkedName(self.session, path, label, toggle.help if toggle is not None else "")
            self.links.append(named)
            label.watch(named)
        self.grid.addWidget(named, row, 0)
        self.grid.addWidget(JoinedRow(self.editors[first.name], self.editors[second.name]), row, 1)

    def show_name(self, name: str) -> None:
        """Call a row as it is called now, with the mark of the dials it stands behind."""
        label = self.name_labels[name]
        label.show_name(self._name_of(label.param))
        dials = front.dials_of(self.session, f"{self.path}/{name}")
        label.show_dials(", ".join(dial.name or dial.id for dial in dials))

    def _name_of(self, param: Param) -> str:
        """What the row of a value is called now: one that shares it with what chooses is called by what is chosen."""
        joined = self._joins.get(param.name)
        if joined is None:
            return param.label
        holds = joined.when is None or joined.when.holds(self.session.shown(f"{self.path}/{joined.when.name}"))
        return joined.label if holds else joined.otherwise
