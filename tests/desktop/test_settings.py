"""Settings of every operator at once, built and read in a real panel."""

from __future__ import annotations

import pytest
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import QCheckBox, QWidget

from driving import named, session_with, unfolded
from nimble_quake.desktop.settings.joined_row import JoinedRow
from nimble_quake.desktop.settings.name_label import NameLabel
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Choice, Number, Toggle
from nimble_quake.session.summaries import is_shown

KINDS = [(operator.family, operator.kind) for operator in registry().all()]
NARROW = 216
"""The pixels that a row of choices has in a window of 1280."""


USUAL = ("Value", "Red", "Green", "Blue", "Alpha", "None")
"""Channels that are chosen most."""


@pytest.mark.parametrize(("family", "kind"), KINDS, ids=[f"{f}-{k}" for f, k in KINDS])
def test_every_operator_has_settings_that_fit(app, family, kind):
    """Every number has an editor with a name and a tip; a row of choices is never cut."""
    operator = registry().get(family, kind)
    session, path = session_with(family, kind)
    quake = family == "quake"  # as in the coupling
    panel = SettingsPanel(session, "brass", names=50 if quake else 62, chips=quake)
    panel.resize(206 if family == "quake" else 288, 600)
    unfolded(panel, kind)
    panel.show()
    panel.show_node(path)
    shown = [name for name in operator.declared if name in panel.editors]
    assert shown
    for name in shown:
        editor = panel.editors[name]
        assert editor.toolTip() or any(child.toolTip() for child in editor.findChildren(QWidget)), name
    for row in panel.findChildren(Segments):
        assert row.sizeHint().width() <= NARROW, [label for _, label in row.items]
        if row.isVisible():
            assert row.width() >= row.sizeHint().width(), "cut off in its place"
    metrics = QFontMetrics(font())
    for box in panel.findChildren(Chooser):
        words = [box.itemText(n) for n in range(box.count())] if not box.isEditable() else []
        joined = isinstance(box.parentWidget().parentWidget(), JoinedRow)  # rare channels are elided there
        for text in [word for word in words if not joined or word in USUAL] if box.isVisible() else ():
            assert metrics.horizontalAdvance(text) <= box.room(), f"{text} is cut"
    for field in panel.findChildren(SlideField):
        if not field.isVisible():
            continue
        for value in (*field.param.usual, *field.param.hard, -90.0):
            field.show_value(field.param.clamp(value))
            text, unit = field.fitted()
            assert metrics.horizontalAdvance(text + unit) <= field.room() + 1, (
                f"{field.param.label}: {text}{unit} collides"
            )
            roomy = not isinstance(field.parentWidget().parentWidget(), JoinedRow)
            if abs(value * field.param.factor) < 1000 and value in field.param.usual and roomy:
                assert unit or text == field.param.zero or not field.param.unit, (
                    f"{field.param.label}: {text} has lost its unit"
                )
    for label in panel.findChildren(NameLabel):
        if label.isVisible():
            assert metrics.horizontalAdvance(label.text()) <= label.width(), label.text()
    panel.deleteLater()


def test_a_field_says_what_its_zero_stands_for(app):
    field = SlideField(Number(label="Loop", default=0.0, unit="s", zero="never"))
    field.resize(140, 20)
    assert field.fitted() == ("never", "")
    field.show_value(2.5)
    assert field.fitted() == ("2.5", " s")
    field.show_value(0.0)
    assert field.accessibleDescription() == "never, still"
    field.resize(50, 20)
    assert field.fitted()[0].startswith("0"), "there is no room for a word"


@pytest.mark.parametrize(("family", "kind"), KINDS, ids=[f"{f}-{k}" for f, k in KINDS])
def test_what_hangs_on_a_choice_is_shown_with_it_alone(app, family, kind):
    operator = registry().get(family, kind)
    bound = {
        name: param.shown_when
        for name, param in operator.declared.items()
        if param.shown_when
        and (param.shown_when.values or isinstance(operator.declared[param.shown_when.name], Toggle))
    }
    if not bound:
        return
    session, path = session_with(family, kind)
    quake = family == "quake"  # as in the coupling
    panel = SettingsPanel(session, "brass", names=50 if quake else 62, chips=quake)
    unfolded(panel, kind)
    panel.show()
    panel.show_node(path)
    for when in set(bound.values()):
        chooser = operator.declared[when.name]
        options = [option.value for option in chooser.options] if isinstance(chooser, Choice) else [True, False]
        assert set(when.values) <= set(options), when
        for option in options:
            session.set(f"{path}/{when.name}", option)
            panel.refresh()
            if not is_shown(session, path, chooser):  # it waits itself for another choice
                waits = chooser.shown_when
                session.set(f"{path}/{waits.name}", waits.values[0] if waits.values else True)
            for name in (n for n, bound_by in bound.items() if bound_by == when and n in panel.editors):
                assert panel.is_field_shown(name) == (option in when.values if when.values else option), (name, option)
    panel.deleteLater()


def what_is_seen(panel: SettingsPanel) -> dict[str, object]:
    """Of each field whether it is there, what it says and how it is called; and what the heads of sections say."""
    found: dict[str, object] = {}
    for name, editor in panel.editors.items():
        values = [field.text() for field in editor.findChildren(SlideField)]
        values += [box.currentText() for box in editor.findChildren(Chooser)]
        values += [box.isChecked() for box in editor.findChildren(QCheckBox)]
        label = panel.name_labels.get(name)
        found[name] = editor.isVisible(), editor.isEnabled(), values, label.text() if label is not None else ""
    for section, head in panel.heads.items():
        found[f"head {section}"] = head.accessibleDescription(), head.accessibleName()
    return found


@pytest.mark.parametrize(("family", "kind"), KINDS, ids=[f"{f}-{k}" for f, k in KINDS])
def test_while_a_value_is_dragged_all_that_hangs_on_it_is_shown(app, family, kind):
    """Each value becomes another one within a gesture: what is seen then is what a whole refresh shows afterwards."""
    operator = registry().get(family, kind)
    session, path = session_with(family, kind)
    panel = SettingsPanel(session, "brass", names=62)
    panel.resize(288, 600)
    unfolded(panel, kind)
    panel.show()
    panel.show_node(path)
    session.changed.connect(lambda found: panel.refresh())
    for name, param in operator.declared.items():
        others: tuple[object, ...] = ()
        if isinstance(param, Toggle):
            others = (not session.shown(f"{path}/{name}"),)
        elif isinstance(param, Choice):
            others = tuple(option.value for option in param.options)
        elif isinstance(param, Number) and not param.whole:
            others = (param.hard[0], param.usual[1])
        if not others:
            continue
        session.begin("Drag")
        for other in others:
            session.set(f"{path}/{name}", other)
            within = what_is_seen(panel)
            session.commit()
            panel.refresh()
            assert within == what_is_seen(panel), (name, other)
            session.begin("Drag")
        session.commit()


@pytest.mark.parametrize(("family", "kind"), [("source", "drawn_mask"), ("plate", "shape")])
def test_an_outline_is_drawn_as_its_figure_runs(app, family, kind):
    """Through the same points: a figure with straight sides has another line in the settings than a curve has."""
    session, path = session_with(family, kind)
    panel = SettingsPanel(session, "brass", names=62)
    panel.resize(288, 600)
    unfolded(panel, kind)
    panel.show()
    session.changed.connect(lambda found: panel.refresh())
    straight = "polygon" if family == "source" else "free"
    seen = []
    for form in (straight, "curve", straight):
        session.set(f"{path}/form", form)
        panel.show_node(path)
        seen.append(named(panel, "Points").grab().toImage())
    assert seen[0] == seen[2] != seen[1]
