"""Facets and shapes merged over what says something about a piece: its own values first, then those of its kinds."""

from __future__ import annotations

from typing import Any

from haptos.errors import LevelError
from haptos.level.assemblies import Frame
from haptos.level.facets import LAUNCH_MEASURES
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.pieces import FACETS, Part, Template
from haptos.level.routes import Route
from haptos.level.section import Section


def merged_facets(level: Level, sources: list[Template], frame: Frame, place: str) -> dict[str, Any]:
    """Return the facets of a piece by name, each merged key by key.

    Parameters
    ----------
    level : Level
    sources : list of Template
        Nearest first.
    frame : Frame
        Of what holds the piece: the stops of a route turn and grow with that.
    place : str
        Where the piece is written, for messages.
    """
    facets = {name: _facet(level, name, sources, place) for name in FACETS}
    found = {name: section for name, section in facets.items() if section is not None}
    route = found.get("route")
    if isinstance(route, Route):
        fault = route.fault()
        if fault is not None:
            raise LevelError(f"{place}, route", fault)
        found["route"] = route.model_copy(update={"stops": tuple(frame.vector(stop) for stop in route.stops)})
    return found


def merged_parts(sources: list[Template]) -> tuple[Part, ...]:
    """Return the shapes of a piece: those of the nearest source that gives any."""
    for source in sources:
        if source.parts is not None:
            return tuple(source.parts)
        if source.shape is not None:
            return (Part(shape=source.shape),)
    return ()


def _facet(level: Level, name: str, sources: list[Template], place: str) -> Section | None:
    values: dict[str, Any] = {}
    for source in sources:
        section: Section | None = getattr(source, name)
        if section is None:
            continue
        if isinstance(section, Route) and section.shared is not None:
            section = _shared_route(level, section.shared, place)
        given = {key: getattr(section, key) for key in section.model_fields_set}
        measures = [key for key in LAUNCH_MEASURES if key in given]
        if name == "launch" and any(key in values for key in LAUNCH_MEASURES):
            given = {key: value for key, value in given.items() if key not in measures}
        elif name == "launch" and len(measures) > 1:
            raise LevelError(f"{place}, launch", f"found {' and '.join(measures)}, expected one of them")
        values = given | values
    if not values and all(getattr(source, name) is None for source in sources):
        return None
    if name == "launch" and not any(key in values for key in LAUNCH_MEASURES):
        raise LevelError(f"{place}, launch", f"found no measure, expected one of {', '.join(LAUNCH_MEASURES)}")
    section_type = FACETS[name]
    for key, field in section_type.model_fields.items():
        if field.is_required() and key not in values:
            raise LevelError(f"{place}, {name}", f"found no {key}, expected one: it has no default")
    filled = {key: values.get(key, field.default) for key, field in section_type.model_fields.items()}
    return section_type.model_construct(**filled)


def _shared_route(level: Level, name: str, place: str) -> Route:
    if name not in level.routes:
        raise LevelError(f"{place}, route", f"no route '{name}'{did_you_mean(name, level.routes)}")
    return level.routes[name]
