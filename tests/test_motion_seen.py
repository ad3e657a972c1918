"""What moves as the user sees it: tables, pictures, `show`, `why`, the JSON of a run, and the top view."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest

import haptos
from haptos.demo import demo_file
from haptos.views.picture import draw
from tests.scenes import floor

BOUNDS = {"corners": [-400, -100, 400, 300]}
FLOOR = floor(400, 100)
LONG = {"name": "floor", "shape": {"corners": [-9e4, -20, 9e4, 0]}}
DART = {"layer": "shot", "shape": {"box": [10, 4]}, "fragile": {"on": ["terrain"]}}


def patches_of(ax, layer_colour) -> list:
    """Return the filled patches of a colour in a picture, as boxes of the data."""
    from matplotlib.colors import to_hex

    found = []
    for patch in ax.patches:
        if patch.get_fill() and to_hex(patch.get_facecolor()) == layer_colour:
            found.append(patch.get_path().transformed(patch.get_patch_transform()).get_extents())
    return found


def test_a_picture_at_a_moment_has_everything_where_the_run_says():
    level = haptos.load(demo_file("orrery-loft.toml"))
    run = haptos.simulate(level, "right+sprint 1.3 s, wait 0.2 s")
    rows = run.pieces[run.pieces.t == 1.0].set_index("piece")
    from haptos.views.palette import layer_colours

    colours = layer_colours(level.contact_table().layers, "hero")
    boxes = patches_of(draw(level, run, at=1.0), colours["plank"])
    centres = {(round((box.x0 + box.x1) / 2, 3), round((box.y0 + box.y1) / 2, 3)) for box in boxes}
    for name in ("rotten", "rotten 2", "cradle"):
        assert (round(rows.x[name], 3), round(rows.y[name], 3)) in centres
    assert rows.state["rotten"] == "falls"
    # What is gone is not drawn, at its place or anywhere.
    later = patches_of(draw(level, run, at=1.4), colours["plank"])
    assert len(later) == len(boxes) - 1


def test_a_picture_shows_ghosts_ways_pivots_cracks_and_what_flew():
    level = haptos.load(demo_file("orrery-loft.toml"))
    ax = draw(level)
    dotted = [patch for patch in ax.patches if patch.get_facecolor()[3] == 0]
    # Eight of the arm with its hub and globes; four of the vane; the cradle's stops, and the cabin's with two children.
    assert len(dotted) >= 8 * 4 + 4 + 2 + 3 * 3
    gallery = haptos.load(demo_file("ember-gallery.toml"))
    run = haptos.simulate(gallery, "wait 2 s")
    made = run.events[run.events.event == "spawn"]
    moment = draw(gallery, run, at=2.0)
    there = run.pieces[(run.pieces.t == 2.0) & run.pieces.piece.str.startswith("ember")]
    circles = [patch for patch in moment.patches if patch.get_fill() and len(patch.get_path().vertices) > 60]
    boxes = [patch.get_path().get_extents() for patch in circles]
    middles = np.array([((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2) for box in boxes])
    for row in there.itertuples():
        assert np.hypot(*(middles - (row.x, row.y)).T).min() < 0.1
    assert len(made) >= len(there) > 3


def test_tables_and_json_say_who(tool):
    room, sheet = demo_file("ember-gallery.toml"), demo_file("through-the-embers.toml")
    out = tool("run", room, sheet, "--all")[1]
    assert "water drop 1 → pillar" in out
    said = json.loads(tool("run", room, sheet, "--json")[1])
    broke = next(event for event in said["events"] if event["event"] == "vanish" and event["who"] == "water drop 1")
    assert broke["piece"] == "pillar"
    assert broke["detail"] == "water drop 1 breaks on pillar"


def test_show_names_holders_and_kinds(tool):
    out = tool("show", demo_file("orrery-loft.toml"), "arm/hub")[1]
    assert "the piece that holds it" in out
    assert "kind arm, its piece 'hub'" in out
    planks = tool("show", demo_file("orrery-loft.toml"), "rotten 2")[1]
    assert "crumble.delay" in planks
    assert "kind rotten_plank" in planks
    why = tool("why", demo_file("orrery-loft.toml"), "player", "cabin")[1]
    assert "kinds.cabin.rules[0] 'aboard' of 'cabin' fires on 'enter'" in why


def test_the_schema_knows_pieces_in_pieces(tool):
    schema = json.loads(tool("schema")[1])
    piece = schema["$defs"]["Piece"]["properties"]
    assert piece["pieces"]["items"] == {"$ref": "#/$defs/Piece"}
    assert {"route", "spin", "crumble", "drift", "spawner", "fragile", "parent"} <= set(piece)


@pytest.mark.parametrize(("facing", "way"), [("right", (1, 0)), ("up", (0, 1)), ("left", (-1, 0)), ("down", (0, -1))])
def test_a_shot_in_the_top_view_flies_the_way_that_the_body_faces(facing, way):
    player = {"at": [0, 0], "facing": facing, "shape": {"circle": 7}, "shot": {"kind": "dart", "speed": 200}}
    level = haptos.Level(world={"view": "top", "bounds": BOUNDS}, player=player, kinds={"dart": DART})
    run = haptos.simulate(level, "act 0.1 s, wait 0.5 s")
    row = run.pieces[run.pieces.piece == "dart 1"].iloc[-1]
    far = 7 + math.hypot(5, 2) + 200 * row.t
    assert (row.x, row.y) == pytest.approx((way[0] * far, way[1] * far))
    assert row.angle % 360 == pytest.approx(math.degrees(math.atan2(way[1], way[0])) % 360)


def test_in_the_top_view_what_gives_way_does_not_fall_it_is_gone():
    slab = {"name": "slab", "at": [60, 0], "shape": {"box": [20, 200]}, "crumble": {"from": "any", "delay": 0.4}}
    level = haptos.Level(world={"view": "top"}, player={"at": [0, 0], "shape": {"circle": 7}}, pieces=[slab])
    run = haptos.simulate(level, "right 2 s")
    touch, gone = (next(row for row in run.event_rows if row.event == event) for event in ("crumble", "gone"))
    assert gone.t == pytest.approx(touch.t + 0.4)
    assert run.track.x[round(gone.t * 60) - 2] == pytest.approx(43, abs=1e-6)
    assert run.track.x.iloc[-1] > 100


@pytest.mark.parametrize("speed", [600, 50_000])
def test_what_drifts_fast_pushes_and_never_passes_through(speed):
    wall = {"name": "wall", "at": [-300, 20], "layer": "terrain", "shape": {"box": [20, 40]}}
    wall["drift"] = {"velocity": [speed, 0]}
    level = haptos.Level(player={"at": [0, 14]}, pieces=[LONG, wall])
    track = haptos.simulate(level, "wait 0.5 s").track
    side = -290 + speed * track.t
    assert np.abs(track.x - np.maximum(side + 7, 0)).max() < 1e-5 * 28


@pytest.mark.parametrize(("spin", "speed"), [(0, 50_000), (2000, 20_000)])
def test_a_fast_route_that_turns_pushes_and_never_passes_through(spin, speed):
    ram = {"name": "ram", "at": [-300, 30], "shape": {"circle": 30}, "spin": {"speed": spin or 1}}
    ram["route"] = {"stops": [[0, 0], [5000, 0]], "speed": speed, "mode": "once"}
    level = haptos.Level(player={"at": [0, 14], "shape": {"circle": 14}}, pieces=[LONG, ram])
    run = haptos.simulate(level, "wait 0.5 s")
    rows = run.pieces.reset_index()
    # Two circles: their centres are never nearer than their radii, 44, less what counts as nothing.
    apart = np.hypot(run.track.x - rows.x, run.track.y - rows.y)
    assert apart.min() > 44 - 1e-5 * 28
    assert run.track.x.iloc[-1] > 4000 or run.track.y.max() > 40


def test_a_rule_about_a_kind_counts_what_is_made_of_it():
    spark = {"layer": "zone", "shape": {"circle": 20}, "drift": {"velocity": [0, -100]}}
    rules = [{"name": "hit", "when": "enter", "piece": "spark", "do": [{"say": "hit"}]}]
    vent = {"name": "vent", "at": [0, 200], "spawner": {"kind": "spark", "every": 0.5, "lasts": 3}}
    level = haptos.Level(
        world={"bounds": BOUNDS}, player={"at": [0, 14]}, kinds={"spark": spark}, pieces=[FLOOR, vent], rules=rules
    )
    run = haptos.simulate(level, "wait 3.2 s")
    enters = [row for row in run.event_rows if row.event == "enter"]
    # The foot of the spark's circle, 20 below its middle, reaches the head at 28.
    assert [row.t for row in enters[:3]] == pytest.approx([1.52, 2.02, 2.52], abs=1e-6)
    assert [row.piece for row in enters[:3]] == ["spark 1", "spark 2", "spark 3"]
    assert run.says() == ["hit"] * len(enters)
    assert not [finding for finding in haptos.check(level) if finding.code.startswith("rule-")]
