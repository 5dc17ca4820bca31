"""Actions on crossings."""

from __future__ import annotations

from nimble_quake.session.crossings import laying, repeated
from nimble_quake.session.menus.action import Action, has_plate
from nimble_quake.session.verbs import bars

CROSSINGS: tuple[Action, ...] = (
    Action(
        "cut-bar",
        "Cut the plate at the playhead",
        "Plate",
        lambda h: bars.cut_here(h.session, h.session.selection.plate),
        "Ctrl+Alt+C",
        has_plate,
        group=6,
        called="split, razor, blade",
    ),
    Action(
        "close-gap",
        "Close the gap before the plate",
        "Plate",
        lambda h: bars.close_gap(h.session, h.session.selection.plate),
        "",
        has_plate,
        group=6,
        called="ripple delete",
    ),
    Action(
        "crossing",
        "Cross the plates …",
        "Plate",
        lambda h: h.show_board("crossing"),
        "Ctrl+Alt+X",
        has_plate,
        group=6,
        called="transition, wipe, dissolve",
    ),
    Action(
        "dissolve",
        "Dissolve between the plates",
        "Plate",
        lambda h: laying.new_crossing(h.session),
        "Ctrl+Alt+Shift+X",
        has_plate,
        group=6,
        called="cross dissolve, transition",
    ),
    Action(
        "every-cut",
        "The same crossing at every cut",
        "Plate",
        lambda h: repeated.at_every_cut(h.session),
        "",
        has_plate,
        group=6,
        called="default transition, all cuts",
    ),
    Action(
        "every-beat",
        "The same crossing at every beat",
        "Plate",
        lambda h: repeated.at_every_beat(h.session),
        "",
        has_plate,
        group=6,
        called="cut to the music, markers, hits",
    ),
    Action(
        "strongest-here",
        "Strongest moment of the crossing here",
        "Time",
        lambda h: laying.strongest_here(h.session),
        "",
        has_plate,
        group=3,
    ),
)
