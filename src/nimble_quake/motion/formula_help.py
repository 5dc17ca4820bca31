"""What each name and function of a formula is, with its arguments and an example that can be tried."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.motion.formula import NAMES


@dataclass(frozen=True)
class Explained:
    """A name, or a function with its arguments as it is written; what it is; a whole formula with it."""

    written: str
    about: str
    example: str

    @property
    def name(self) -> str:
        """The name alone."""
        return self.written.partition("(")[0]


EXAMPLES = {
    "t": "40 * t",
    "frame": "frame * 3",
    "progress": "100 * progress",
    "fps": "frame / fps * 90",
    "width": "width / 2 + 100 * sin(t)",
    "height": "height / 2 - 60 * t",
    "pi": "20 * sin(t * 2 * pi)",
    "tau": "20 * sin(t * tau)",
}
"""A formula with each name."""
CALLS = (
    Explained("sin(x)", "the sine of an angle in radians: a swing, one a second by t * tau", "40 * sin(t * tau / 2)"),
    Explained("cos(x)", "the cosine of an angle in radians: as sin, a quarter earlier", "40 * cos(t * tau)"),
    Explained("tan(x)", "the tangent of an angle in radians", "10 * tan(0.4 * sin(t))"),
    Explained("atan2(y, x)", "the angle of a way in radians, 0 to the right", "atan2(sin(t), 1) * 360 / tau"),
    Explained("sqrt(x)", "the square root", "60 * sqrt(progress)"),
    Explained(
        "exp(x)", "e to the power of x: exp(-2 * t) dies away in a second or two", "80 * exp(-2 * t) * sin(12 * t)"
    ),
    Explained("log(x)", "the natural logarithm; x above 0", "30 * log(1 + t)"),
    Explained("floor(x)", "the whole number below: steps", "20 * floor(t * 4)"),
    Explained("ceil(x)", "the whole number above", "20 * ceil(t * 4)"),
    Explained("round(x)", "the nearest whole number", "20 * round(t * 4)"),
    Explained("abs(x)", "x without its sign: bounces", "80 * abs(sin(t * tau / 2))"),
    Explained("min(a, b)", "the smaller one: no more than", "min(40 * t, 60)"),
    Explained("max(a, b)", "the larger one: no less than", "max(20 - 30 * t, 0)"),
    Explained("clamp(x, low, high)", "x, no less than low and no more than high", "clamp(80 * sin(t * tau), -30, 30)"),
    Explained("mix(a, b, fraction)", "between a and b: a at 0, b at 1", "mix(10, 60, progress)"),
    Explained(
        "smoothstep(low, high, x)", "0 below low, 1 above high, an even rise between", "60 * smoothstep(0.5, 1.5, t)"
    ),
    Explained("random(n)", "a chance number 0 to 1, always the same for the same n", "50 * random(floor(t * 8))"),
    Explained("wander(x)", "a smooth wander from -1 to 1, a turn or so for each whole x", "30 * wander(t * 2)"),
    Explained('value("path")', "another value of the shot, by its path", 'value("plates/title/turn") / 2'),
    Explained('level("band")', "how loud a band of the sound is, 0 to 1", '20 + 80 * level("low")'),
    Explained(
        'track("plate", point, "x")', 'how far a tracked point has moved, px; "y" for down', 'track("street", 3, "x")'
    ),
    Explained("beat()", "seconds since the last beat", "60 * exp(-6 * beat())"),
    Explained("beats()", "how many beats are gone", "15 * beats()"),
)
EXPLAINED = (*(Explained(name, about, EXAMPLES[name]) for name, about in NAMES.items()), *CALLS)
"""All that may stand in a formula, names first."""


def explained_at(text: str, place: int) -> Explained | None:
    """Return what is explained of the name that the place in a text touches, or of the call it stands in."""
    start = place
    while start > 0 and (text[start - 1].isalnum() or text[start - 1] == "_"):
        start -= 1
    end = place
    while end < len(text) and (text[end].isalnum() or text[end] == "_"):
        end += 1
    by_name = {each.name: each for each in EXPLAINED}
    if text[start:end] in by_name:
        return by_name[text[start:end]]
    depth = 0
    inside = place - 1 if text[:place].endswith(")") else place  # right behind a call it is still that call
    for at in range(inside - 1, -1, -1):
        depth += {")": 1, "(": -1}.get(text[at], 0)
        if depth < 0:
            return explained_at(text, at) if at and (text[at - 1].isalnum() or text[at - 1] == "_") else None
    return None
