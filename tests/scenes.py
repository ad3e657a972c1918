"""Scenes and questions that many tests share."""

from __future__ import annotations

from typing import Any

import haptos


def floor(half: float, depth: float = 16.0, top: float = 0.0) -> dict[str, Any]:
    """Return a floor that reaches so far to either side."""
    return {"name": "floor", "shape": {"corners": [-half, top - depth, half, top]}}


def rows_of(run: haptos.Run, *events: str) -> list[Any]:
    """Return the events of some sorts as plain rows."""
    return [row for row in run.event_rows if row.event in events]


def first(run: haptos.Run, event: str, after: float = -1.0, piece: str | None = None) -> Any:
    """Return the first event of a sort."""
    events = run.events
    rows = events[(events.event == event) & (events.t > after)]
    if piece is not None:
        rows = rows[rows.piece == piece]
    assert len(rows), f"no {event} in {events.event.tolist()}"
    return rows.iloc[0]
