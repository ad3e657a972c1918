"""What a benchmark measured, and what it must reach."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Mark:
    """One line of the table.

    Attributes
    ----------
    what : what was measured
    measured : the figure, in words
    value, limit : the figure, and what it must not exceed; with `at_least`, what it must reach
    wanted : the limit, in words
    """

    what: str
    measured: str
    value: float
    limit: float
    wanted: str
    at_least: bool = False

    @property
    def is_met(self) -> bool:
        return self.value >= self.limit if self.at_least else self.value <= self.limit


def at_most(what: str, value: float, limit: float, unit: str = "", form: str = ".2f", more: str = "") -> Mark:
    """Return a line whose figure must not exceed a limit."""
    unit = f" {unit}" if unit else ""
    return Mark(what, f"{value:{form}}{unit}{more}", value, limit, f"{limit:g}{unit} or less")


def at_least(what: str, value: float, limit: float, unit: str = "", form: str = ".2f", more: str = "") -> Mark:
    """Return a line whose figure must reach a limit."""
    unit = f" {unit}" if unit else ""
    return Mark(what, f"{value:{form}}{unit}{more}", value, limit, f"{limit:,g}{unit} or more", True)
