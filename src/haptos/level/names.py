"""How messages tell what was found, and what may have been meant."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from difflib import get_close_matches
from typing import Any


def did_you_mean(name: str, known: Iterable[str], lists: bool = True) -> str:
    """Return a short hint for a name that is not known.

    Parameters
    ----------
    name : str
        What was written.
    known : iterable of str
        The names that exist.
    lists : bool
        Whether all that exists is listed, if that is short and nothing is close.

    Returns
    -------
    str
        ``" (did you mean 'x'?)"``, a list of what exists if that is short, or nothing.

    Examples
    --------
    >>> did_you_mean("gravty", ["gravity", "view"])
    " (did you mean 'gravity'?)"
    """
    names = [str(item) for item in known]
    close = get_close_matches(str(name), names, n=1, cutoff=0.6)
    if close:
        return f" (did you mean '{close[0]}'?)"
    if lists and 0 < len(names) <= 12:
        return f" (there is {', '.join(names)})"
    return ""


def short(value: Any) -> str:
    """Return a value as it is told in messages: as it is written in the file, and not too long.

    Examples
    --------
    >>> short(True), short("stone")
    ('true', "'stone'")
    """
    if isinstance(value, bool):
        return str(value).lower()
    text = str(value) if isinstance(value, datetime.date | datetime.time) else repr(value)
    return text if len(text) <= 60 else text[:57] + "..."
