"""Frames as people read them: timecode, frames or seconds.

Timecode counts hours:minutes:seconds:frames as SMPTE ST 12-1 does. At 29.97 and 59.94 frames a second it is drop-frame,
written with a semicolon: the first numbers (2, or 4) of each minute are left out, but not in each tenth minute, so that
it keeps to the clock.
"""

from __future__ import annotations

from fractions import Fraction

CLOCKS = {"timecode": "Timecode", "frames": "Frames", "seconds": "Seconds"}
DROPPED = {Fraction(30000, 1001): 2, Fraction(60000, 1001): 4}
"""How many numbers are left out each minute, by rate."""


def timecode(frame: float, rate: Fraction) -> str:
    """Return a frame as timecode; frames before 0 have a minus before them."""
    whole = round(frame)
    if whole < 0:
        return f"-{timecode(-whole, rate)}"
    base = max(1, round(float(rate)))
    dropped = DROPPED.get(rate, 0)
    if dropped:
        tens, rest = divmod(whole, base * 600 - 9 * dropped)
        minutes = max(0, (rest - dropped) // (base * 60 - dropped))
        whole += dropped * (9 * tens + minutes)
    seconds, frames = divmod(whole, base)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    width = max(2, len(str(base - 1)))
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{';' if dropped else ':'}{frames:0{width}d}"


def frame_of(text: str, rate: Fraction) -> int | None:
    """Return the frame of a timecode as it is written here; None where it is none."""
    parts = text.replace(";", ":").split(":")
    if len(parts) != 4 or not all(part.isdigit() for part in parts):
        return None
    hours, minutes, seconds, frames = (int(part) for part in parts)
    base, dropped = max(1, round(float(rate))), DROPPED.get(rate, 0)
    total = 60 * hours + minutes
    if (
        frames >= base
        or seconds > 59
        or minutes > 59
        or (dropped and not seconds and frames < dropped and minutes % 10)
    ):
        return None
    return (total * 60 + seconds) * base + frames - dropped * (total - total // 10)


def frames_typed(text: str, rate: Fraction) -> int | None:
    """Return the frames that somebody typed: a timecode, frames ("36 f"), else seconds ("1.5"); None for none."""
    words = text.strip().casefold()
    if ":" in words or ";" in words:
        return frame_of(words, rate)
    number = words.removesuffix("frames").removesuffix("f").removesuffix("s").strip().replace(",", ".")
    try:
        value = float(number)
    except ValueError:
        return None
    if not 0 <= value < 1e9:
        return None
    return round(value) if words.endswith(("f", "frames")) else round(value * float(rate))


def clock_text(frame: float, rate: Fraction, clock: str, *, short: bool = False) -> str:
    """Return a frame in one of CLOCKS; `short`: without hours and minutes that are nought."""
    if clock == "frames":
        return str(round(frame))
    if clock == "seconds":
        return f"{frame / float(rate):.2f}" if short else f"{frame / float(rate):.3f} s"
    text = timecode(frame, rate)
    while short and text.startswith("00:") and text.count(":") + text.count(";") > 1:
        text = text[3:]
    return text[1:] if short and text.startswith("0") else text
