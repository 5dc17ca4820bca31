"""What is written and drawn can be read: ratios of the colour roles."""

from __future__ import annotations

import pytest
from PyQt6.QtGui import QColor

from nimble_quake.desktop.theme import roles

TEXTS = ("text", "quiet", "dim", "good", *(f"{role}_text" for role in ("brass", "ember", "lagoon", "fault")))
LINES = ("brass", "ember", "lagoon", "chalk", "fault", "good")


def luminance(colour: QColor) -> float:
    """WCAG 2.2, relative luminance."""
    parts = [
        c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4
        for c in (colour.redF(), colour.greenF(), colour.blueF())
    ]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one: str, other: str) -> float:
    """WCAG 2.2, contrast ratio of two roles."""
    low, high = sorted(luminance(roles.colour(role)) for role in (one, other))
    return (high + 0.05) / (low + 0.05)


@pytest.fixture(params=["dark", "light"])
def _theme(request):
    before = roles.roles()
    roles.use(request.param)
    yield
    roles.use("light" if before is roles.LIGHT else "dark")


@pytest.mark.usefixtures("_theme")
class TestRoles:
    @pytest.mark.parametrize("text", TEXTS)
    @pytest.mark.parametrize("ground", ["window", "panel", "raised", "edited", "plot"])
    def test_text_can_be_read(self, text, ground):
        """WCAG 2.2, success criterion 1.4.3 (AA): 4.5 : 1."""
        assert contrast(text, ground) >= 4.5

    @pytest.mark.parametrize("line", LINES)
    @pytest.mark.parametrize("ground", ["panel", "plot"])
    def test_lines_can_be_seen(self, line, ground):
        """WCAG 2.2, success criterion 1.4.11 (AA): 3 : 1."""
        assert contrast(line, ground) >= 3

    @pytest.mark.parametrize("region", ["brass", "ember", "lagoon", "chalk"])
    def test_ink_on_a_filled_region_can_be_read(self, region):
        low, high = sorted((luminance(roles.ink_on(region)), luminance(roles.colour(region))))
        assert (high + 0.05) / (low + 0.05) >= 4.5

    def test_what_is_quiet_stands_behind_what_is_not(self):
        assert contrast("text", "panel") > 1.3 * contrast("quiet", "panel")
