"""Parameters that many steps declare alike."""

from __future__ import annotations

from dataclasses import replace

from nimble_quake.params.kinds import MoreThan, Number, When


def a_size(
    label: str,
    help: str,
    default: float,
    usual: tuple[float, float] = (10, 400),
    low: float = 1.0,
    when: When | None = None,
) -> Number:
    """A length in shot pixels."""
    return Number(
        label=label, help=help, default=default, hard=(low, 20000), usual=usual, unit="px", decimals=0, shown_when=when
    )


def linked_to(partner: str, number: Number) -> Number:
    """A number that can be linked to another one: one is scaled as the other is."""
    return replace(number, partner=partner)


def a_distance(
    label: str,
    help: str,
    default: float,
    usual: tuple[float, float] = (0, 100),
    hard: tuple[float, float] = (0, 5000),
    when: When | None = None,
) -> Number:
    """A distance in shot pixels, 0 allowed."""
    return Number(
        label=label, help=help, default=default, hard=hard, usual=usual, unit="px", decimals=1, shown_when=when
    )


def an_angle(
    help: str = "Turns it clockwise", default: float = 0.0, label: str = "Turn", when: When | None = None
) -> Number:
    """An angle."""
    return Number(
        label=label,
        help=help,
        default=default,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        shown_when=when,
    )


def a_fraction(
    label: str, help: str, default: float, hard: tuple[float, float] = (0, 1), when: When | None = None
) -> Number:
    """A share of 0...1 shown in percent."""
    return Number(
        label=label,
        help=help,
        default=default,
        hard=hard,
        usual=(max(0.0, hard[0]), min(max(1.0, default), hard[1])),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=when,
    )


def a_level(label: str, help: str, default: float) -> Number:
    """A map value: 0 black, 1 white."""
    return Number(label=label, help=help, default=default, hard=(-4, 5), usual=(0, 1), decimals=3)


def a_count(
    label: str, help: str, default: float, most: float, usual: tuple[float, float], when: When | None = None
) -> Number:
    """A whole number from 1."""
    return Number(
        label=label, help=help, default=default, hard=(1, most), usual=usual, whole=True, decimals=0, shown_when=when
    )


def a_time(label: str, help: str, default: float, usual: tuple[float, float] = (0, 5), low: float = 0.0) -> Number:
    """A time."""
    return Number(label=label, help=help, default=default, hard=(low, 3600), usual=usual, unit="s", decimals=2)


def a_rate(label: str, help: str, default: float, usual: tuple[float, float] = (0, 24)) -> Number:
    """How often a second."""
    return Number(label=label, help=help, default=default, hard=(0, 20_000), usual=usual, unit="/s", decimals=1)


SEVERAL_LAYERS = MoreThan("layers", 1)


def a_layer_ratio(label: str, help: str, default: float = 1.0, low: float = 0.0) -> Number:
    """What a layer is beside the one before it, of an operator with several `layers`."""
    return Number(
        label=label,
        help=help,
        default=default,
        neutral=1.0,
        hard=(low, 4),
        usual=(max(low, 0.2), 1.2),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=SEVERAL_LAYERS,
    )
