"""What each finding means, with a small level that has it and one that is nearly the same and has not."""

from __future__ import annotations

import tomllib
from importlib.resources import files
from typing import NamedTuple

from haptos.errors import HaptosError
from haptos.level.names import did_you_mean


class Explained(NamedTuple):
    """What a finding means.

    Attributes
    ----------
    code : what it is called
    severity : error, warning or note, as of the level below; some depend on where they are found
    says : what it means
    wrong : a small level that has it, TOML
    right : one that is nearly the same, and has it not
    """

    code: str
    severity: str
    says: str
    wrong: str
    right: str


def _read() -> dict[str, Explained]:
    text = files("haptos.study").joinpath("explained.toml").read_text(encoding="utf-8")
    return {code: Explained(code, **entry) for code, entry in tomllib.loads(text).items()}


EXPLAINED = _read()
CODES = tuple(EXPLAINED)


def explain(code: str) -> Explained:
    """Return what a finding means.

    Parameters
    ----------
    code : str

    Raises
    ------
    HaptosError
        If no finding is called that.

    Examples
    --------
    >>> explain("idle-route").says
    'A route has speed 0: the piece never moves.'
    """
    if code not in EXPLAINED:
        raise HaptosError(f"no finding is called '{code}'{did_you_mean(code, CODES)}")
    return EXPLAINED[code]
