"""Two sample shots whose whole motion is a few gestures, made as in the window: open a value's menu, choose."""

from __future__ import annotations

import pytest
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.motions.menu import motion_menu
from nimble_quake.motion.kinds import Keys, is_moving
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, value_path

SLICES, WAVE, TITLE = "maps/slices/steps/bands/last", "plates/title/effects/wave/amplitude", "plates/title/position"
EMBLEM, NET = "plates/emblem/position", "plates/emblem/effects/mesh/strength"


def moving(shot: Shot) -> dict[str, Keys]:
    return {
        value_path(path, name): value
        for path, node in all_nodes(shot)
        for name, value in node.values.items()
        if is_moving(value)
    }


@pytest.mark.parametrize(
    ("sample", "made", "stills"),
    [
        (
            "time-sliced-title",
            [(10, "Leave", SLICES), (10, "Arrive", WAVE), (10, "Arrive", TITLE)],
            {SLICES: 0.5, WAVE: 60.0, TITLE: (640.0, 360.0)},
        ),
        ("through-the-net", [(10, "Arrive", EMBLEM), (10, "Arrive", NET)], {EMBLEM: (640.0, 360.0), NET: 1.0}),
    ],
)
def test_all_that_moves_comes_of_gestures_in_a_third_of_the_actions(qtbot, sample, made, stills):
    """By hand a pin takes three actions (going there, setting it, its value), and each value two for its ease."""
    session = Session()
    session.open(sample_path(sample))
    whole = moving(session.shot)
    assert set(whole) == {path for _, _, path in made}
    still = session.shot
    for path, value in stills.items():
        still = set_value(still, path, value)
    session.take(still)
    assert not moving(session.shot)
    parent, actions = QWidget(), 0
    qtbot.addWidget(parent)
    for frame, title, path in made:
        actions += session.frame != frame  # one click on the ruler
        session.set_frame(frame)
        inner = next(a.menu() for a in motion_menu(session, path, parent).actions() if a.text() == "Gesture")
        next(action for action in inner.actions() if action.text() == title).trigger()  # the range that suggests itself
        actions += 2
    assert moving(session.shot) == whole
    by_hand = sum(3 * len(keys.keys) + 2 for keys in whole.values())
    assert actions <= by_hand / 3
