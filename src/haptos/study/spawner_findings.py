"""What is likely wrong with what makes pieces, and with what breaks."""

from __future__ import annotations

import shapely

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.flying import Spawner
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding

# More than this share of an area inside something solid is likely not meant.
COVERED = 0.2


def find_spawner_faults(compiled: CompiledLevel) -> list[Finding]:
    """Areas in view that should be out of it, areas inside something solid, and spawners that outrun their limit."""
    findings = []
    cast = compiled.cast
    for one in cast.makers:
        if not one.is_spawner:
            continue
        maker, spawner = one.piece, one.spawner
        piece, made = cast.resolved.pieces[maker], cast.resolved.pieces[one.slots[0]]
        findings += [
            finding
            for finding in (
                _in_view(compiled, maker, made, spawner),
                _in_solid(compiled, maker, made, spawner),
                _outruns(piece, spawner),
            )
            if finding is not None
        ]
    return findings


def find_unbroken(compiled: CompiledLevel) -> list[Finding]:
    """Pieces that are to break on a layer that their own layer ignores."""
    resolved = compiled.cast.resolved
    findings: dict[tuple[str, str], Finding] = {}
    for piece in resolved.pieces:
        fragile = piece.facet("fragile")
        for layer in fragile.on if fragile is not None else ():
            if resolved.contacts.between(piece.layer, layer).meeting == "nothing":
                place, own = f"{piece.place}, fragile.on", f"its own layer '{piece.layer}'"
                message = f"it is to break on '{layer}', but {own} ignores that; pair them in [contacts]"
                findings[place, layer] = Finding("error", "never-breaks", place, message, piece.at)
    return list(findings.values())


def _in_view(compiled: CompiledLevel, maker: int, made: ResolvedPiece, spawner: Spawner) -> Finding | None:
    piece = compiled.resolved.pieces[maker]
    bounds, drift = compiled.level.world.bounds, made.facet("drift")
    if bounds is None or spawner.area == "outside" or spawner.aim is None:
        return None
    if drift is None or drift.on_exit is None:
        return None
    area = _area(compiled, maker, spawner)
    if area is not None and shapely.box(*bounds.corners).intersects(area):
        message = (
            f"'{spawner.kind}' is aimed through the bounds and leaves them again, but it is made inside them, in plain "
            "view; use area = 'outside'"
        )
        return Finding("warning", "spawns-in-view", f"{piece.place}, spawner.area", message, piece.at)
    return None


def _in_solid(compiled: CompiledLevel, maker: int, made: ResolvedPiece, spawner: Spawner) -> Finding | None:
    """Return the finding that what is made begins inside what it breaks on or bounces off."""
    resolved = compiled.cast.resolved
    piece = resolved.pieces[maker]
    area = _area(compiled, maker, spawner)
    if area is None or piece.parent is not None or maker in compiled.resolved.moving:
        return None
    fragile, drift = made.facet("fragile"), made.facet("drift")
    layers = set() if fragile is None else set(fragile.on)
    if drift is not None and drift.restitution is not None:
        layers |= {
            layer
            for layer in resolved.contacts.layers
            if resolved.contacts.between(made.layer, layer).meeting == "solid"
        }
    shapes = [
        polygon
        for index, polygon in zip(compiled.placement.piece, shape_polygons(compiled.placement), strict=True)
        if compiled.resolved.pieces[index].layer in layers and index not in compiled.resolved.moving
    ]
    covered = shapely.union_all(shapes)
    if area.area > 0:
        share = covered.intersection(area).area / area.area
    else:
        share = 1.0 if covered.contains(area) else 0.0
    if share <= COVERED:
        return None
    message = (
        f"{share:.0%} of where it makes '{spawner.kind}' is inside what that breaks on or bounces off; move it, or "
        "make the area smaller"
    )
    severity = "error" if share > 1.0 - COVERED else "warning"
    return Finding(severity, "spawns-in-solid", f"{piece.place}, spawner", message, piece.at)  # type: ignore[arg-type]


def _outruns(piece: ResolvedPiece, spawner: Spawner) -> Finding | None:
    if spawner.lasts is None or spawner.every is None:
        return None
    mean = sum(spawner.every) / 2
    alive = spawner.lasts / mean
    if alive <= spawner.limit:
        return None
    message = (
        f"one every {mean:.3g} s that lasts {spawner.lasts:.3g} s are {alive:.3g} at once, and limit = "
        f"{spawner.limit} refuses the others; raise the limit, or make fewer"
    )
    return Finding("note", "spawner-refuses", f"{piece.place}, spawner.limit", message, piece.at)


def _area(compiled: CompiledLevel, maker: int, spawner: Spawner) -> shapely.Geometry | None:
    """Return where a spawner makes pieces; None just outside the bounds."""
    x, y = compiled.places[maker]
    bounds = compiled.level.world.bounds
    if spawner.area is None:
        return shapely.Point(x, y)
    if spawner.area == "inside" and bounds is not None:
        return shapely.box(*bounds.corners)
    if isinstance(spawner.area, tuple):
        width, height = spawner.area
        return shapely.box(x - width / 2, y - height / 2, x + width / 2, y + height / 2)
    return None
