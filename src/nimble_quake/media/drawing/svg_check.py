"""What an SVG asks for, found before it is drawn: its nesting, its repetitions, and whether it may take long.

Read by expat with entities refused beforehand; nothing here recurses, so no nesting can end the program.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from xml.parsers import expat

from nimble_quake.errors import MediaError

DEEPEST = 200
"""Groups in groups; a drawing program makes ten or twenty."""
MOST_DRAWN = 200_000
"""Parts that are drawn, those repeated by <use> counted each time."""
MOST_POINTS = 400_000
"""Characters of path data that are drawn in this program itself."""
SLOW = re.compile(rb"stroke-dasharray|<(\w+:)?(filter|fe[A-Z]\w+|pattern|mask)\b")
"""What may take long to draw however short it is: dashes by the million, filters, patterns of patterns."""


@dataclass
class _Part:
    """An element with an id: what is drawn for it."""

    own: int = 0
    uses: list[str] = field(default_factory=list)


def check(data: bytes, where: str) -> bool:
    """Return whether an SVG is to be drawn apart, by a helper. Raises MediaError where it asks for too much."""
    parts: dict[str, _Part] = {"": _Part()}
    open_ids: list[str] = [""]
    deepest = points = 0

    def start(name: str, attributes: dict[str, str]) -> None:
        nonlocal deepest, points
        id = attributes.get("id", "")
        open_ids.append(id)
        deepest = max(deepest, len(open_ids))
        if id:
            parts[id] = _Part()
        points += len(attributes.get("d", "")) + len(attributes.get("points", ""))
        for owner in {owner for owner in open_ids if owner in parts} if deepest <= DEEPEST else ():
            parts[owner].own += 1
            if name.rsplit(":", 1)[-1] == "use":
                link = attributes.get("href") or attributes.get("xlink:href") or ""
                parts[owner].uses.append(link.removeprefix("#"))
        if deepest > DEEPEST:
            cure = "ungroup it, or save it as plain SVG"
            raise MediaError("the SVG nests its parts too deeply", where=where, cure=cure)

    def end(name: str) -> None:
        open_ids.pop()

    reader = expat.ParserCreate()
    reader.StartElementHandler, reader.EndElementHandler = start, end
    try:
        reader.Parse(data, True)
    except expat.ExpatError as wrong:
        raise MediaError("cannot be read as SVG", where=where, cure="save it again as plain SVG") from wrong
    if _drawn(parts) > MOST_DRAWN:
        raise MediaError("the SVG repeats its parts too often", where=where, cure="expand or thin out its copies")
    return points > MOST_POINTS or bool(SLOW.search(data))


def _drawn(parts: dict[str, _Part]) -> int:
    """How many parts the whole drawing draws; enormous where parts use each other in a circle."""
    found: dict[str, int] = {}
    under_way: set[str] = set()
    stack = [""]
    while stack:
        id = stack[-1]
        waiting = [other for other in parts[id].uses if other in parts and other not in found]
        if id in found:
            stack.pop()
        elif any(other in under_way for other in waiting):
            return MOST_DRAWN + 1
        elif waiting:
            under_way.add(id)
            stack += waiting[:1]
        else:
            total = parts[id].own + sum(found.get(other, 0) for other in parts[id].uses)
            found[id] = min(total, MOST_DRAWN + 1)
            under_way.discard(id)
            stack.pop()
    return found[""]
