"""A level in a few lines, for people who look at one in a prompt or a notebook."""

from __future__ import annotations

from html import escape

from haptos.level.level import Level


def portrait(level: Level) -> str:
    """Return a level in words.

    Examples
    --------
    >>> portrait(Level(title="attic", pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}]))
    "<Level 'attic': side view, 1 piece, 60 ticks/s>"
    """
    return f"<Level '{level.title or 'untitled'}': {', '.join(_facts(level))}>"


def portrait_html(level: Level) -> str:
    """Return a level as a small HTML table: a row a piece, with its kind, its place and its facets."""
    from haptos.level.pieces import FACETS

    rows = []
    for piece in level.pieces:
        facets = [name for name in FACETS if getattr(piece, name) is not None]
        at = "" if piece.at is None else f"{piece.at[0]:g}, {piece.at[1]:g}"
        cells = (piece.name, piece.kind or "", at, ", ".join(facets))
        rows.append("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in cells) + "</tr>")
    head = "<tr><th>piece</th><th>kind</th><th>at</th><th>facets</th></tr>"
    title = f"<b>{escape(level.title or 'untitled level')}</b>: {escape(', '.join(_facts(level)))}"
    return f"<div>{title}<table>{head}{''.join(rows)}</table></div>"


def _facts(level: Level) -> list[str]:
    counts = {"piece": level.pieces, "kind": level.kinds, "rule": level.rules, "counter": level.counters}
    facts = [f"{level.world.view} view"]
    facts += [f"{len(some)} {word}{'' if len(some) == 1 else 's'}" for word, some in counts.items() if some]
    if level.tiles is not None:
        facts.append(f"{len(level.tiles.lines[0])} × {len(level.tiles.lines)} tiles")
    return [*facts, f"{level.world.tick_rate:g} ticks/s"]
