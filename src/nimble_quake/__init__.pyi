from nimble_quake.api import (
    add_effect,
    add_map,
    add_plate,
    add_step,
    collect,
    couple,
    data,
    describe,
    drop,
    hold,
    make,
    map_values,
    picture,
    play,
    push,
    render_to,
    save_starter,
    show,
    starter,
)
from nimble_quake.api import new_shot as new
from nimble_quake.api import open_shot as open
from nimble_quake.api import save_shot as save
from nimble_quake.api import set_number as set
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.shot.model import Map, Node, Plate, Shot

__version__: str

__all__ = [
    "Formula",
    "Key",
    "Keys",
    "Map",
    "NimbleQuakeError",
    "Node",
    "Plate",
    "Rate",
    "Shot",
    "add_effect",
    "add_map",
    "add_plate",
    "add_step",
    "collect",
    "couple",
    "data",
    "describe",
    "drop",
    "hold",
    "make",
    "map_values",
    "new",
    "open",
    "picture",
    "play",
    "push",
    "render_to",
    "save",
    "save_starter",
    "set",
    "show",
    "starter",
]
