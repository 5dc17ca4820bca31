"""Actions on effects of plates."""

from __future__ import annotations

from nimble_quake.session.menus.action import Action, has_aimed_effect, has_effect, has_plate, has_quake
from nimble_quake.session.moving import pin_tools
from nimble_quake.session.states import sides
from nimble_quake.session.verbs import carry, effects, items

EFFECTS: tuple[Action, ...] = (
    Action("new-quake", "Add a quake …", "Effect", lambda h: h.show_board("quake"), "Ctrl+Shift+K", has_plate),
    Action("new-finish", "Add a finish …", "Effect", lambda h: h.show_board("finish"), "Ctrl+Shift+F", has_plate),
    Action(
        "remove-with-maps",
        "Remove the effect and the maps only it reads",
        "Effect",
        lambda h: carry.remove_with_maps(h.session, h.session.selection.aimed),
        "",
        has_aimed_effect,
    ),
    Action("draw-mask", "Draw a mask", "Effect", lambda h: effects.draw_mask(h.session), "Ctrl+Alt+M", has_plate),
    Action(
        "trace-mask",
        "Draw a mask by its corners",
        "Effect",
        lambda h: h.drawing.begin_mask(),
        "Ctrl+Alt+Shift+M",
        has_plate,
        called="polygon, lasso, roto, cut out",
    ),
    Action(
        "cover", "Cover the gaps of the plate", "Effect", lambda h: h.cover(h.session.selection.plate), "", has_plate, 2
    ),
    Action(
        "see-upto",
        "See the plate up to this quake, or whole",
        "Effect",
        lambda h: h.frames.show_upto(h.session.selection.quake),
        "",
        has_quake,
        2,
    ),
    Action(
        "all-needles",
        "Needles and distances of all effects together, or of one",
        "Effect",
        lambda h: h.frames.toggle_whole_warp(),
        "",
        group=2,
    ),
    Action(
        "flip-side",
        "Flip between side A and side B",
        "Effect",
        lambda h: sides.flip(h.session),
        "Ctrl+Shift+D",
        has_plate,
    ),
    Action(
        "span",
        "Give the effect a span, or let it act always",
        "Effect",
        lambda h: pin_tools.give_span(h.session, h.session.selection.finish or h.session.selection.quake),
        "Ctrl+Shift+E",
        has_effect,
        1,
    ),
    Action(
        "duplicate-quake",
        "Duplicate the quake",
        "Effect",
        lambda h: items.duplicate_item(h.session, h.session.selection.quake),
        "",
        has_quake,
        1,
    ),
    Action(
        "switch-quake",
        "Switch the quake on or off",
        "Effect",
        lambda h: items.switch(h.session, h.session.selection.quake),
        "Ctrl+E",
        has_quake,
        1,
    ),
    Action(
        "switch-quake-here",
        "Switch the quake from here on, by a pin",
        "Effect",
        lambda h: items.switch_here(h.session, h.session.selection.quake),
        "",
        has_quake,
        1,
    ),
    Action(
        "remove-quake",
        "Remove the quake",
        "Effect",
        lambda h: items.remove_item(h.session, h.session.selection.quake),
        "",
        has_quake,
        1,
    ),
)
