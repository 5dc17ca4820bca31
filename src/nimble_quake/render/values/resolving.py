"""From an operator in the shot to the operator with plain numbers at a moment."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from typing import Any, Generic, TypeAlias, TypeVar, cast

import numpy as np

from nimble_quake.conventions import Frames, Value, Values
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.motion import Motion, integral, is_moving, value_at
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Operator
from nimble_quake.params.kinds import Colour, Number, Pairs, Param, Stop, Stops
from nimble_quake.raster.colour.channels import srgb_to_linear
from nimble_quake.raster.colour.light import linear_colour
from nimble_quake.shot.model import Node, Plate

Op = TypeVar("Op", bound=Operator)
Faulty: TypeAlias = Callable[[str, NimbleQuakeError], None]
"""Is told of a value, by its path, that has no number, and why."""


def resolved(operator: type[Op], node: Node, moment: Moment, path: str = "", faulty: Faulty | None = None) -> Op:
    """Return `operator` with every value of `node` at a moment. Raises NimbleQuakeError with the value's path.

    faulty: is told of a value that has no number now, which is at its default then; nothing is raised.
    """
    return _Start(operator, node, moment).at(moment, path, faulty)


class _Start(Generic[Op]):
    """An operator's values before anything moves, and which of them do."""

    def __init__(self, operator: type[Op], node: Node, moment: Moment) -> None:
        self.operator, self.node = operator, node
        self.values: Values = {}
        self.still: Op | None = None
        """The operator itself, where nothing moves."""
        for name, param in operator.declared.items():
            value = node.values.get(name)
            self.values[name] = param.start(moment.width, moment.height) if value is None else value
        self.moving = [name for name, value in self.values.items() if name in operator.speed_names or is_moving(value)]

    def at(self, moment: Moment, path: str, faulty: Faulty | None = None) -> Op:
        """Return the operator at a moment; as `resolved`."""
        values, declared = dict(self.values), self.operator.declared
        begins = self.node.start if isinstance(self.node, Plate) else None
        start = begins or 0.0  # a plate's speeds are counted from where it begins
        for name in self.moving:
            try:
                values[name] = _number(declared[name], values[name], moment, start)
            except NimbleQuakeError as wrong:
                where = f"{path}/{name}".lstrip("/")
                if faulty is None:
                    raise type(wrong)(wrong.what, where=where, cure=wrong.cure) from wrong
                faulty(where, wrong)
                values[name] = declared[name].start(moment.width, moment.height)
        if moment.loops and "loop" in declared and not values["loop"]:
            values["loop"] = moment.length / float(moment.rate)  # what can repeat does so with the shot
        return self.operator(values)


class Known:
    """What was found out about nodes that is the same at every moment, found once: all of it where nothing moves."""

    def __init__(self) -> None:
        self._found: OrderedDict[Hashable, tuple[Node, Any]] = OrderedDict()
        self._lock = threading.Lock()

    def resolved(self, operator: type[Op], node: Node, moment: Moment, path: str, faulty: Faulty | None = None) -> Op:
        """As `resolved`."""
        key = (id(node), operator, moment.width, moment.height, moment.loops, moment.length, moment.rate)
        start: _Start[Op] | None = self._get(key, node)
        if start is not None:
            return start.at(moment, path, faulty) if start.still is None else start.still
        start = _Start(operator, node, moment)
        found = start.at(moment, path, faulty)
        start.still = found if stands_still(operator, node) else None
        self._put(key, node, start)
        return found

    def moving(self, node: Node) -> frozenset[str]:
        """Return which of a node's values are motions."""
        found: frozenset[str] | None = self._get(id(node), node)
        if found is None:
            found = frozenset(name for name, value in node.values.items() if is_moving(value))
            self._put(id(node), node, found)
        return found

    def _get(self, key: Hashable, node: Node) -> Any:
        with self._lock:
            kept = self._found.get(key)
        return kept[1] if kept is not None and kept[0] is node else None  # it is held: no other can have its id

    def _put(self, key: Hashable, node: Node, found: object) -> None:
        with self._lock:
            self._found[key] = (node, found)
            while len(self._found) > MOST_KNOWN:
                self._found.popitem(last=False)


def stands_still(operator: type[Operator], node: Node) -> bool:
    """Return whether a node's numbers are the same at every moment: no motion, and no speed but 0."""
    if any(is_moving(value) for value in node.values.values()):
        return False
    speeds = (operator.given(node.values, name) for name in operator.speed_names)
    return all(speed in (0, 0.0, (0.0, 0.0)) for speed in speeds)


MOST_KNOWN = 4096


def _closed(param: Param, value: Value, moment: Moment) -> Value:
    """A motion as it is in a seamless shot."""
    if not moment.loops or not isinstance(value, Motion):
        return value
    return value.closing(moment, isinstance(param, Number) and param.ring)


def _number(param: Param, value: Value, moment: Moment, start: Frames) -> Value:
    if isinstance(param, Number | Pairs) and param.accumulates:
        gone = integral(value, moment, param.size, param.clamp)
        return gone - integral(value, moment.at(start), param.size, param.clamp) if start and param.size == 1 else gone
    found = value_at(_closed(param, value, moment), moment, param.size)
    if isinstance(param, Number | Pairs | Colour):
        return param.clamp(cast(Value, found))
    return found


def shown_value(param: Param, node: Node, moment: Moment) -> Value:
    """Return a value as the settings show it at a moment: a speed as a speed, not as the way gone."""
    value = node.values.get(param.name)
    if value is None:
        value = param.start(moment.width, moment.height)
    if not is_moving(value):
        return value
    found = value_at(_closed(param, value, moment), moment, param.size)
    return param.clamp(cast(Value, found)) if isinstance(param, Number | Pairs | Colour) else found


def linear_values(operator: type[Operator], values: Mapping[str, Value]) -> Values:
    """Return an operator's numbers with its colours, and its brightnesses, as linear light."""
    found = dict(values)
    for name, param in operator.declared.items():
        if isinstance(param, Colour):
            found[name] = linear_colour(values[name])
        elif isinstance(param, Stops):
            found[name] = tuple(Stop(stop.at, linear_colour(stop.colour), stop.mid) for stop in values[name])
        elif name in operator.brightness_names:
            found[name] = float(srgb_to_linear(np.array(values[name], np.float32)))
    return found
