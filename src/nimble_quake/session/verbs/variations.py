"""Twelve variations of a step: by seed, or by settings moved a little by chance."""

from __future__ import annotations

import msgspec
import numpy as np

from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.base import Operator
from nimble_quake.params.kinds import Choice, Number, Param, Seed
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import found_node

COUNT = 12
LEFT_ALONE = frozenset({"opacity", "combine", "mask", "loop", "pre", "first"})
"""Settings a variation never touches."""


def has_seed(operator: type[Operator] | None) -> bool:
    """Return whether a kind can be varied by seed."""
    return operator is not None and any(isinstance(param, Seed) for param in operator.declared.values())


def variations(session: Session, path: str, by: str, round: int = 0) -> list[Node]:
    """Return variations of the step at a path, itself first. by: "seed" or "settings"; round: another dozen."""
    node, operator = found_node(session.shot, path), session.operator(path)
    found = [node]
    if operator is None:
        return found
    for number in range(1, COUNT):
        rng = np.random.Generator(np.random.PCG64([round, number, 77]))
        if by == "seed":
            seeds = [name for name, param in operator.declared.items() if isinstance(param, Seed)]
            changed: dict[str, object] = {name: int(rng.integers(0, Seed.most)) for name in seeds}
        else:
            changed = _jittered(session, path, operator, rng)
        found.append(msgspec.structs.replace(node, values={**node.values, **changed}))
    return found


def _jittered(session: Session, path: str, operator: type[Operator], rng: np.random.Generator) -> dict[str, object]:
    changed: dict[str, object] = {}
    for name, param in operator.declared.items():
        if name in LEFT_ALONE or is_moving(session.raw(f"{path}/{name}")):
            continue
        value = session.shown(f"{path}/{name}")
        moved = _moved(param, value, rng)
        if moved is not None:
            changed[name] = moved
    return changed


def _moved(param: Param, value: object, rng: np.random.Generator) -> object | None:
    if isinstance(param, Number) and isinstance(value, int | float):
        low, high = param.usual
        if param.whole:
            return param.clamp(float(value) + float(rng.integers(-2, 3)))
        if value > 0 and low >= 0:
            return param.clamp(float(value) * float(np.exp(rng.normal() * 0.35)))
        return param.clamp(float(value) + float(rng.normal()) * (high - low) * 0.08)
    if isinstance(param, Choice) and len(param.options) > 1 and rng.random() < 0.15:
        return param.options[int(rng.integers(len(param.options)))].value
    return None


def with_variation(shot: Shot, path: str, node: Node) -> Shot:
    """Return the shot with a step's values taken from a variation."""
    return set_field(shot, path, values=dict(node.values))


def take_variation(session: Session, path: str, node: Node) -> None:
    """Take a variation, as one step."""
    session.edit(f"Vary {session.name_of(path)}", with_variation(session.shot, path, node))
