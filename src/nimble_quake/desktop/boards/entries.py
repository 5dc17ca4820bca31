"""What the board shows: kinds of step with their looks, recipes, and variations of the selected step."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QMimeData, QUrl

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.base import Operator
from nimble_quake.operators.quake import BendQuake
from nimble_quake.operators.registry import registry
from nimble_quake.operators.steps import Step, placed_values
from nimble_quake.samples import reels, sample_path, samples
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.verbs import effects, items, variations
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, owner_id
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.recipes import fitted_to

LAST = 1_000_000
"""The rank of what is of no kind that is known."""
WIDTH, HEIGHT = 1280, 720
BASE = (
    Node(
        id="base",
        kind="noise",
        values={"size_x": 380.0, "size_y": 380.0, "octaves": 2, "churn": 0.3, "drift": (50.0, 0.0)},
    ),
    Node(
        id="mark",
        kind="shape",
        values={
            "form": "star",
            "width": 460.0,
            "height": 460.0,
            "soft": 20.0,
            "spin": 0.1,
            "place": (640.0, 360.0),
            "notch": 0.45,
            "clear": True,
            "opacity": 0.8,
        },
    ),
)
"""What a shaper's thumbnail is shown on: something soft and something hard, both moving."""


@dataclass(frozen=True)
class Entry:
    """One choice. `shot`: its thumbnail is the map of `map_id` there. `tried` gives the shot with it taken."""

    key: str
    title: str
    help: str
    group: str
    shot: Shot
    map_id: str
    tried: Callable[[Session], Shot]
    take: Callable[[Session], object]
    tab: str = ""
    """The tab of the board it belongs to."""
    own: library.Kept | None = None
    plate_id: str = ""
    """Its thumbnail is this plate there, with its effects, instead of the map."""
    called: str = ""
    """Other words for it."""
    whole: bool = False
    """Its thumbnail is the whole frame."""
    later: Callable[[], tuple[Shot, str, tuple[int, int] | None]] | None = None
    """Makes its shot, its plate and its span when its thumbnail is made, where that takes long."""
    span: tuple[int, int] | None = None
    """Its thumbnail goes round from one frame to the one before another; None: over the whole shot."""
    carried: Callable[[], QMimeData] | None = None
    """What is dragged off the board; None: nothing is."""
    about: str = ""
    """The help on it: "family/kind"; empty: the page on what its tab shows."""


def small_shot(recipe: tuple[Node, ...]) -> Shot:
    """Return a shot whose first map has a recipe, with a title that a picture source may read, and another map."""
    title = Plate(id="title", kind="text", values={"size": 300.0, "words": "ROW"})
    maps = Map(id="map", name="", recipe=recipe), Map(id="other", name="", recipe=BASE)
    return Shot(width=WIDTH, height=HEIGHT, length=240, plates=(title,), maps=maps)


def kinds(session: Session, family: str) -> list[Entry]:
    """Return the sources or shapers, each followed by its looks, in order of their groups."""
    found: list[Entry] = []
    operators = session.engine.operators.all(family)
    if family == "shaper":  # couplings bend maps too
        operators = [*operators, *(op for op in session.engine.operators.playing("step") if op.family == "quake")]
    for operator in operators:
        if not issubclass(operator, Step):
            continue
        lively = placed_values(operator, operator.lively, WIDTH, HEIGHT)
        for title, help, values in ((operator.title, operator.help, {}), *operator.looks):
            found.append(_of_kind(operator, title, help, values, {**lively, **values}))
    return _in_groups(found, operators)


def _of_kind(operator: type[Step], title: str, help: str, values: dict[str, object], shown: dict[str, object]) -> Entry:
    node = Node(id="shown", kind=operator.kind, values=placed_values(operator, shown, WIDTH, HEIGHT))
    recipe: tuple[Node, ...] = (node,) if operator.family == "source" else (*BASE, node)
    if operator.encloses:
        recipe = (*BASE, node, Node(id="in", kind="pattern", inside="shown", values={"combine": "average"}))

    def added(session: Session) -> tuple[Shot, str]:
        placed = placed_values(operator, values, session.shot.width, session.shot.height)
        name = title if values else ""
        return items.with_step(session.shot, session.selection.map, operator.kind, session.selection.step, placed, name)

    def take(session: Session) -> None:
        shot, path = added(session)
        session.edit(f"Add step: {title}", shot)
        session.select(step=path)

    group = "Couplings" if operator.family == "quake" else operator.group
    tab = "source" if operator.family == "source" else "shaper"
    return Entry(
        f"{operator.kind}:{title}",
        title,
        help,
        group,
        small_shot(recipe),
        "map",
        lambda session: added(session)[0],
        take,
        tab,
        called=operator.called,
        about=f"{operator.family}/{operator.kind}",
    )


def sample_shots() -> list[Entry]:
    """Return the sample shots that can be read, in the order of their names, the first one first."""
    found = []
    for name in (*samples(), *reels()):
        path = sample_path(name)
        try:
            shot = read_shot(path) if path else None
        except NimbleQuakeError:
            continue
        if shot is not None:
            kinds = ", ".join(dict.fromkeys(_titles(shot))) or "no effects"
            found.append(
                Entry(
                    name,
                    shot.name,
                    kinds,
                    "Lantern Row",
                    shot,
                    "",
                    _showing(shot),
                    lambda session: None,
                    "samples",
                    whole=True,
                )
            )
    return found


def _showing(shot: Shot) -> Callable[[Session], Shot]:
    return lambda session: shot


def _titles(shot: Shot) -> list[str]:
    """What the effects of a shot are called."""
    operators = [registry().get("effect", effect.kind) for plate in shot.plates for effect in plate.effects]
    return [operator.title.lower() for operator in operators if operator is not None]


STRONGER = 2.5
"""Thumbnails of couplings show them so many times stronger: at their size a move of some pixels is not seen."""


def effect_entries(session: Session, family: str) -> list[Entry]:
    """Return the quakes, or all else that can be done to a picture, each shown on the selected plate."""
    plate = session.selection.plate
    if not plate:
        return []
    found: list[Entry] = []
    for operator in session.engine.operators.playing("effect"):
        if (operator.family == "quake") != (family == "quake") or not issubclass(operator, Step):
            continue
        for title, help, values in ((operator.title, operator.help, {}), *operator.looks):
            found.append(_of_effect(session, plate, operator, title, help, values, family))
    return _in_groups(found, session.engine.operators.playing("effect"))


def _in_groups(found: list[Entry], operators: Iterable[type[Operator]]) -> list[Entry]:
    """Return entries by their operators' ranks, those of a group together: it stands where its first one does."""
    ranks = {operator.kind: operator.rank for operator in operators}
    of = {id(entry): ranks.get(entry.key.split(":")[0], LAST) for entry in found}
    first: dict[str, int] = {}
    for entry in found:
        first[entry.group] = min(first.get(entry.group, LAST), of[id(entry)])
    return sorted(found, key=lambda entry: (first[entry.group], entry.group, of[id(entry)]))


def _of_effect(
    session: Session, plate: str, operator: type[Step], title: str, help: str, values: dict[str, object], tab: str
) -> Entry:
    name = title if values else ""

    def added(session: Session, more: dict[str, object]) -> Shot:
        return effects.with_effect(session, plate, operator.kind, {**values, **more}, name)[0]

    def take(session: Session) -> None:
        effects.new_effect(session, operator.kind, dict(values), name)

    shown: dict[str, object] = {**operator.lively, **values}
    if issubclass(operator, BendQuake):
        shown["strength"] = STRONGER
    return Entry(
        f"{operator.kind}:{title}",
        title,
        help,
        operator.group,
        added(session, shown),
        "",
        lambda session: added(session, {}),
        take,
        tab,
        plate_id=owner_id(plate),
        called=operator.called,
        about=f"{operator.family}/{operator.kind}",
    )


def recipes(own: bool) -> tuple[list[Entry], list[str]]:
    """Return the recipes of one part of the library, and what is wrong with files that could not be read."""
    kept, wrong = library.kept(own)
    return [_of_recipe(item) for item in kept], wrong


def _of_recipe(item: library.Kept) -> Entry:
    steps = ", ".join(step.name or step.kind.replace("_", " ") for step in item.recipe.map.recipe)
    coupling = item.recipe.coupling
    quake = registry().get("effect", coupling.kind) if coupling is not None else None
    words = f"{steps}; brings {quake.title.lower()} where no quake reads it" if quake is not None else steps
    fitted = fitted_to(item.recipe, WIDTH, HEIGHT)

    def tried(session: Session) -> Shot:
        return library.with_recipe(session, item.recipe)[0]

    shot = small_shot(fitted.map.recipe)
    return Entry(
        str(item.path),
        item.name,
        words,
        "Yours" if item.own else "Recipes",
        shot,
        "map",
        tried,
        lambda session: library.use(session, item.recipe),
        "yours" if item.own else "recipes",
        item,
        carried=partial(_file_of, item),
    )


def _file_of(item: library.Kept) -> QMimeData:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(item.path))])
    return data


def varied(session: Session, path: str, by: str, round: int) -> list[Entry]:
    """Return variations of a step, shown on the shot's own map."""
    found = []
    map_id = owner_id(path)
    for number, node in enumerate(variations.variations(session, path, by, round)):
        shot = variations.with_variation(session.shot, path, node)

        def tried(session: Session, node: Node = node) -> Shot:
            return variations.with_variation(session.shot, path, node)

        def take(session: Session, node: Node = node) -> None:
            variations.take_variation(session, path, node)

        title = "As it is" if number == 0 else f"Variation {number}"
        found.append(
            Entry(
                f"vary:{by}:{round}:{number}",
                title,
                _differences(session, path, node),
                "Variations",
                shot,
                map_id,
                tried,
                take,
                "vary",
            )
        )
    return found


def _differences(session: Session, path: str, node: Node) -> str:
    operator: type[Operator] | None = session.operator(path)
    before = find(session.shot, path)
    if operator is None or not isinstance(before, Node):
        return ""
    words = []
    for name, value in node.values.items():
        if before.values.get(name) != value and name in operator.declared:
            shown = f"{value:.4g}" if isinstance(value, float | int) else str(value)
            words.append(f"{operator.declared[name].label.lower()} {shown}")
    return ", ".join(words[:6]) or "its own settings"
