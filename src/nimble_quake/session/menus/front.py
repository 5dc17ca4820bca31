"""Actions on dials and slots."""

from __future__ import annotations

from nimble_quake.session.host import Host
from nimble_quake.session.menus.action import Action, has_effect, has_map, has_plate
from nimble_quake.session.verbs import front


def _has_front(host: Host) -> bool:
    return bool(host.session.shot.front)


FRONT: tuple[Action, ...] = (
    Action(
        "front",
        "Front panel, or what is behind it",
        "Shot",
        lambda h: h.middle.toggle(),
        "Ctrl+Alt+F",
        group=2,
        called="controls, dials, slots, expose",
    ),
    Action(
        "pick-dials",
        "Pick dials: click on values",
        "Shot",
        lambda h: h.middle.pick(),
        "Ctrl+Alt+Shift+F",
        group=2,
        called="bring to the front, expose controls",
    ),
    Action("dials", "Dials and slots …", "Shot", lambda h: h.dialogs.show_dials(), "", _has_front, group=2),
    Action(
        "standards",
        "All dials to their standards",
        "Shot",
        lambda h: front.all_to_standard(h.session),
        "",
        _has_front,
        group=2,
    ),
    Action(
        "keep-selected",
        "Keep the selected as a starter …",
        "Shot",
        lambda h: h.beginning.keep_selected(),
        "",
        has_plate,
        group=1,
        called="save preset, template",
    ),
    Action(
        "front-view",
        "Bring to the front what is seen",
        "Shot",
        lambda h: front.bring_view(h.session),
        "",
        has_map,
        group=2,
        called="view switch, show the map",
    ),
    Action(
        "front-moment",
        "Bring this moment to the front",
        "Time",
        lambda h: front.bring_moment(h.session),
        "",
        has_plate,
        group=3,
        called="hit point, timing slot",
    ),
    Action(
        "front-switch",
        "Bring the effect’s on and off to the front",
        "Effect",
        lambda h: front.bring_switch(h.session, h.session.selection.aimed),
        "",
        has_effect,
        group=3,
    ),
    Action(
        "front-picture",
        "Make the plate a slot",
        "Plate",
        lambda h: front.bring_slot(h.session, h.session.selection.plate),
        "",
        has_plate,
        group=6,
        called="replaceable, placeholder",
    ),
)
