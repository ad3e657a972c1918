"""Findings about numbers that are out of all proportion to the body, each with what it would mean."""

from __future__ import annotations

import math
from collections.abc import Iterator

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.level import Level
from haptos.level.quantity import METRE_NAMES
from haptos.study.findings import Finding

# Slower than so many of its widths a second a body seems to stand; at so many of its heights it is gone from a screen.
SLOWEST, FASTEST = 0.1, 100.0
# A jump in heights of the body.
LOWEST_JUMP, HIGHEST_JUMP = 0.02, 50.0
# A fall of its own height takes a body so long at least, and at most, s.
SHORTEST_FALL, LONGEST_FALL = 0.01, 5.0
# More than a player can mean by a slip of the finger, s.
LONGEST_GRACE = 1.0
LARGEST_FACTOR = 10.0
# Nobody who writes metres means a body of so many.
TALLEST_METRES = 10.0


def find_odd_numbers(compiled: CompiledLevel) -> list[Finding]:
    """Speeds, jumps, times and factors that are far from anything that a body can do, or a player can use."""
    level = compiled.level
    return [
        Finding("warning", "out-of-proportion", place, message)
        for place, message in (*_of_player(level), *_of_world(level), *_of_pieces(compiled))
    ]


def _of_player(level: Level) -> Iterator[tuple[str, str]]:
    player, unit = level.player, level.world.length_unit
    width, height = player.shape.size
    if unit in METRE_NAMES[:3] and height > TALLEST_METRES:
        yield "player.shape", f"the body is {height:g} {unit} tall; is length_unit = 'px' meant?"
        return
    for gait in ("walk", "sprint"):
        speed = getattr(player.gaits, gait)
        if 0.0 < speed < SLOWEST * width:
            yield f"player.gaits.{gait}", f"{speed:g} {unit}/s needs {height / speed:.3g} s for the body's own height"
        elif speed > FASTEST * height:
            yield f"player.gaits.{gait}", f"{speed:g} {unit}/s is {speed / height:.3g} times the body's height a second"
    jump = player.jump.height
    if jump is not None and level.world.view == "side" and not LOWEST_JUMP <= jump / height <= HIGHEST_JUMP:
        yield "player.jump.height", f"{jump:g} {unit} is {jump / height:.3g} times the body's height"
    for name, time in (("coyote_time", player.jump.coyote_time), ("buffer_time", player.jump.buffer_time)):
        if time > LONGEST_GRACE:
            frames = f"'{time:g} frame' would be {time / level.world.frame_rate:.3g} s"
            yield f"player.jump.{name}", f"{time:g} s is far more than a slip of the finger; {frames}"


def _of_world(level: Level) -> Iterator[tuple[str, str]]:
    pull, height = math.hypot(*level.world.gravity), level.player.shape.size[1]
    if level.world.view == "top" or pull == 0.0:
        return
    time = math.sqrt(2.0 * height / pull)
    if not SHORTEST_FALL <= time <= LONGEST_FALL:
        yield (
            "world.gravity",
            f"with {pull:g} {level.world.length_unit}/s² a fall of the body's height takes {time:.3g} s",
        )


def _of_pieces(compiled: CompiledLevel) -> Iterator[tuple[str, str]]:
    level = compiled.level
    height, unit = level.player.shape.size[1], level.world.length_unit
    for piece in compiled.resolved.pieces:
        for facet in ("surface", "field"):
            section = piece.facet(facet)
            factor = 1.0 if section is None else section.speed_factor
            place = f"{piece.place}, {facet}.speed_factor"
            if factor == 0.0:
                yield place, "0 means that who is there can't go a step; a gait times 0.1 would be a crawl"
            elif factor > LARGEST_FACTOR:
                walk = level.player.gaits.walk
                yield place, f"{factor:g} makes {factor * walk:g} {unit}/s of the walk of {walk:g}"
        route = piece.facet("route")
        if route is not None and route.speed is not None and route.speed > FASTEST * height:
            times = f"{route.speed / height:.3g} times the body's height a second"
            yield f"{piece.place}, route.speed", f"{route.speed:g} {unit}/s is {times}"
