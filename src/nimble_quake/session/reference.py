"""The pages of docs that are made from the declarations: `make docs` writes them.

docs/operators.md is made of operators and drivers; the table of formats stands in docs/formats.md.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path

from nimble_quake.export.formats import Format, formats
from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.params.kinds import Choice, Number, Pairs, Param

HEAD = """# Operators

Made from the declarations by `make docs`; do not edit. `nimble-quake list --json` gives the same to programs.
A value marked ~ can move over time. Limits are never passed; the usual range is what a slide-field's foot line spans.
"""
SOUNDS = {"": "no", "aac": "AAC", "libopus": "Opus", "flac": "FLAC", "pcm_s24le": "24 bit, 48 kHz"}
"""What encoders of sound are called."""
TITLES = {
    "source": "Sources",
    "shaper": "Shapers",
    "quake": "Quakes",
    "finish": "Finishes",
    "plate": "Plates",
    "sound": "Sounds",
    "front": "Dials and slots",
}


def reference() -> str:
    """Return the reference page."""
    parts = [HEAD]
    for family in FAMILIES:
        parts.append(f"## {TITLES[family]}\n")
        parts += [_section(op) for op in registry().all(family)]
    parts.append("## Motions\n")
    parts += [_section(driver) for driver in drivers().values()]
    return "\n".join(parts)


def with_formats(page: str) -> str:
    """Return the page of formats with its table made anew."""
    rows = [_format_row(each) for each in formats()]
    head = ["| key | ending | what it is | transparent | sound |", "|---|---|---|---|---|"]
    table = "\n".join([*head, *rows]) + "\n\n"
    return re.sub(r"\| key \| ending .*?\n\n", lambda _: table, page, count=1, flags=re.DOTALL)


def _format_row(each: Format) -> str:
    alpha, sound = "yes" if each.alpha else "no", SOUNDS.get(each.sound, each.sound)
    return f"| `{each.key}` | {each.suffix} | {each.label}: {each.about} | {alpha} | {sound} |"


def _section(op: type[Operator] | type[Driver]) -> str:
    kind = f"`{op.kind}`, version {op.version}"
    rows = [f"### {op.title} ({kind})\n", f"{(op.__doc__ or op.help).strip()}\n"]
    rows += [
        "| name | label | default | unit | limits or choices | usual | what it does |",
        "|---|---|---|---|---|---|---|",
    ]
    rows += [_row(param) for param in op.declared.values()]
    return "\n".join(rows) + "\n"


def _row(param: Param) -> str:
    unit, limits, usual = param.unit, "", ""
    if isinstance(param, Number):
        limits, usual = (f"{a:g} to {b:g}" for a, b in (param.hard, param.usual))
    elif isinstance(param, Pairs):
        limits = f"{param.hard[0]:g} to {param.hard[1]:g}"
    elif isinstance(param, Choice):
        limits = ", ".join(option.value for option in param.options)
    default = str(param.encode(param.default))
    default = default if len(default) <= 40 else "(a gradient)"
    moves = " ~" if param.animatable else ""
    return f"| `{param.name}`{moves} | {param.label} | {default} | {unit} | {limits} | {usual} | {param.help} |"


if __name__ == "__main__":
    docs = Path(sys.argv[1])
    (docs / "operators.md").write_text(reference(), encoding="utf-8")
    formats_page = docs / "formats.md"
    formats_page.write_text(with_formats(formats_page.read_text(encoding="utf-8")), encoding="utf-8")
