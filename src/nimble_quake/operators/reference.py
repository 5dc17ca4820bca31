"""The operator reference, made from the declarations (`make docs` writes it to docs/operators.md)."""

from __future__ import annotations

from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.params.kinds import Choice, Number, Pairs, Param

HEAD = """# Operators

Made from the declarations by `make docs`; do not edit. `nimble-quake list --json` gives the same to programs.
A value marked ~ can move over time. Limits are never passed; the usual range is what a slide-field's foot line spans.
"""
TITLES = {
    "source": "Sources",
    "shaper": "Shapers",
    "quake": "Quakes",
    "finish": "Finishes",
    "plate": "Plates",
    "sound": "Sounds",
}


def reference() -> str:
    """Return the reference page."""
    parts = [HEAD]
    for family in FAMILIES:
        parts.append(f"## {TITLES[family]}\n")
        parts += [_section(op) for op in registry().all(family)]
    parts.append("## Motions\n")
    parts += [_section(driver, f"`{driver.kind}`") for driver in drivers().values()]
    return "\n".join(parts)


def _section(op: type[Operator] | type[Driver], kind: str = "") -> str:
    kind = kind or f"`{op.kind}`, version {op.version}"  # type: ignore[union-attr]
    rows = [f"### {op.title} ({kind})\n", f"{(op.__doc__ or op.help).strip()}\n"]
    rows += [
        "| name | label | default | unit | limits or choices | usual | what it does |",
        "|---|---|---|---|---|---|---|",
    ]
    rows += [_row(param) for param in op.declared.values()]
    return "\n".join(rows) + "\n"


def _row(param: Param) -> str:
    unit, limits, usual = getattr(param, "unit", ""), "", ""
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
    print(reference(), end="")
