"""Ladders: taking hold, climbing, standing on the top, letting go."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from tests.hall import BODIES
from tests.scenes import first

REASONS = {
    "takes hold": "takes hold of rigging",
    "top": "stands on the top of rigging",
    "jumps off": "jumps off rigging",
    "lets go": "lets go of rigging",
}


def rigging(**values: object) -> dict:
    return {"name": "rigging", "shape": {"box": [16, 120]}, "at": [0, 60], "ladder": {}} | values


def climbs(run: haptos.Run) -> list[str]:
    return run.events[run.events.event == "climb"].detail.tolist()


@pytest.mark.parametrize("factor", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("body", BODIES)
def test_it_is_climbed_at_the_players_speed_times_its_own(flat, factor, body):
    level = flat([rigging(ladder={"speed_factor": factor})], body, player={"climb": {"speed": 60}})
    run = haptos.simulate(level, "wait 0.1 s, up 0.5 s, wait 0.2 s, down 0.2 s")
    track = run.track
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    assert track.y[36] == pytest.approx(half + 30 * factor, rel=1e-12)
    assert track.y[48] == track.y[36]
    assert track.y[60] == pytest.approx(half + 18 * factor, rel=1e-12)
    assert (track.stance[7:] == "ladder").all()
    assert (track.pose[7:] == "climb").all()
    assert climbs(run) == [REASONS["takes hold"]]


def test_the_top_is_stood_on_and_climbed_down_from(flat):
    run = haptos.simulate(flat([rigging()]), "up 2 s, wait 0.5 s, down 2 s, right 0.5 s")
    track = run.track
    assert track.y[140] == pytest.approx(120 + 14)
    assert track.support[140] == "rigging"
    assert track.y.iloc[-1] == pytest.approx(14)
    assert track.stance.iloc[-1] == "ground"
    assert track.x.iloc[-1] > 50
    said = climbs(run)
    assert said[:3] == [REASONS["takes hold"], REASONS["top"], REASONS["takes hold"]]
    assert said[3].startswith("lets go at the bottom")
    top = first(run, "climb", after=0.1)
    assert top.t == pytest.approx(120 / 90, rel=1e-9)


def test_up_on_the_top_does_nothing(flat):
    run = haptos.simulate(flat([rigging()]), "up 4 s")
    assert run.track.y.iloc[-1] == pytest.approx(134)
    assert len(climbs(run)) == 2


def test_without_a_top_the_body_holds_on_at_the_end(flat):
    track = haptos.simulate(flat([rigging(ladder={"top": False})]), "up 3 s, wait 1 s").track
    assert track.y.iloc[-1] == pytest.approx(134, abs=1e-3)
    assert track.stance.iloc[-1] == "ladder"


@pytest.mark.parametrize("way", ["left", "right"])
def test_jump_lets_go_to_the_side_at_the_gaits_speed(flat, way):
    run = haptos.simulate(flat([rigging()]), f"up 0.5 s, {way}+jump 0.3 s, {way} 0.5 s")
    jump = first(run, "jump")
    assert jump.t == pytest.approx(0.5)
    after = run.track.iloc[31]
    sign = 1 if way == "right" else -1
    assert after.vx == pytest.approx(sign * 150)
    assert after.vy == pytest.approx(math.sqrt(2 * 1800 * 72) - 30)
    assert climbs(run) == [REASONS["takes hold"], REASONS["jumps off"]]


def test_down_and_jump_lets_go_without_a_jump_and_the_fall_is_measured_from_there(flat):
    run = haptos.simulate(flat([rigging()]), "up 1 s, down+jump 0.1 s, wait 1 s")
    assert "jump" not in set(run.events.event)
    assert climbs(run)[-1] == REASONS["lets go"]
    assert first(run, "land").amount == pytest.approx(90, rel=1e-9)


def test_up_in_the_air_takes_hold_where_the_ladder_begins(flat):
    # Walking off a shelf with up held: hold is taken where the centre comes between the rails, at the exact time.
    shelf = {"name": "shelf", "shape": {"corners": [-300, 92, -60, 100]}}
    level = flat([shelf, rigging(at=[0, 60])], player={"at": [-200, 114]})
    run = haptos.simulate(level, "right+up 3 s")
    hold = first(run, "climb")
    assert hold.x == pytest.approx(-8)
    assert run.track[run.track.t > hold.t].stance.iloc[0] == "ladder"


@pytest.mark.parametrize("centres", [True, False])
def test_centring_is_optional(flat, centres):
    track = haptos.simulate(flat([rigging(at=[5, 60], ladder={"centres": centres})]), "up 0.5 s").track
    assert track.x.iloc[-1] == pytest.approx(5.0 if centres else 0.0)
    assert track.y.iloc[-1] == pytest.approx(14 + 45)


def test_a_ladder_leads_through_a_one_way_floor(flat):
    loft = {"name": "loft", "shape": {"corners": [-60, 62, 60, 70]}, "solid_from": "above"}
    run = haptos.simulate(flat([rigging(), loft]), "up 2 s, wait 0.2 s, down 3 s")
    passes = run.events[run.events.event == "pass"]
    assert passes.piece.tolist().count("loft") == 2
    assert passes.detail.str.startswith("climbs through").all()
    assert run.track.y.iloc[-1] == pytest.approx(14)


def test_a_ceiling_ends_the_climb(flat):
    beam = {"name": "beam", "shape": {"corners": [-60, 80, 60, 90]}}
    track = haptos.simulate(flat([rigging(), beam]), "up 2 s").track
    assert track.y.iloc[-1] == pytest.approx(80 - 14)
    assert track.stance.iloc[-1] == "ladder"


def test_a_tilted_ladder_is_climbed_along_itself(flat):
    level = flat([rigging(turn=-30, at=[0, 60])], player={"at": [-30, 14]})
    track = haptos.simulate(level, "up 0.6 s").track
    start, end = track.iloc[12], track.iloc[30]
    turn = math.radians(30)
    assert np.hypot(end.x - start.x, end.y - start.y) / 0.3 == pytest.approx(90, rel=1e-9)
    assert math.atan2(end.x - start.x, end.y - start.y) == pytest.approx(turn, rel=1e-9)


def test_holding_up_past_a_jump_needs_a_new_press(flat):
    run = haptos.simulate(flat([rigging()]), "up 0.5 s, up+jump 0.4 s, wait 1 s")
    assert climbs(run) == [REASONS["takes hold"], REASONS["jumps off"]]
    again = haptos.simulate(flat([rigging()]), "up 0.5 s, up+jump 0.1 s, wait 0.1 s, up 0.3 s")
    assert REASONS["takes hold"] in climbs(again)[2:]


def test_down_at_the_foot_of_a_ladder_does_nothing(flat):
    run = haptos.simulate(flat([rigging()]), "down 1 s")
    assert climbs(run) == []
    assert run.track.stance.iloc[-1] == "ground"


def test_held_by_the_head_alone_the_way_down_lets_go_where_the_body_is(flat):
    # The ladder begins over the foot: up takes hold by its lower end, down lets go again at once.
    level = flat([rigging(at=[0, 85])])
    run = haptos.simulate(level, "up 0.1 s, down 0.1 s, wait 0.5 s")
    track = run.track
    assert track.y[6] == pytest.approx(14 + 9)
    assert np.abs(np.diff(track.y)).max() < 10
    assert track.y.iloc[-1] == pytest.approx(14)


@pytest.mark.parametrize("body", BODIES, ids=str)
@pytest.mark.parametrize("turn", [0, 20, -30])
def test_under_a_slanted_ceiling_a_climber_stays_where_the_ladder_holds(flat, body, turn):
    ceiling = {"name": "ceiling", "at": [30, 150], "turn": turn, "shape": {"box": [160, 20]}}
    short = rigging(at=[0, 50], shape={"box": [16, 100]}, ladder={"top": False})
    run = haptos.simulate(flat([short, ceiling], body), "up 3 s")
    assert "stall" not in set(run.events.event)
    assert len(climbs(run)) == 1
    # On its middle, as high as the ceiling lets it.
    assert np.ptp(run.track.y.iloc[-30:]) < 1e-9
    assert abs(run.track.x.iloc[-1]) < 1e-6


def test_a_column_of_tiles_is_one_ladder_with_one_top():
    rows = ["......", "######", "..H...", "..H...", "..H...", "######"]
    rows[1] = "##H###"
    kinds = {"stone": {}, "rigging": {"ladder": {}}}
    tiles = {"rows": rows, "signs": {"#": "stone", "H": "rigging"}}
    level = haptos.Level(player={"at": [39, 30]}, kinds=kinds, map=tiles)
    run = haptos.simulate(level, "up until climb, up until climb within 3 s, wait 0.2 s")
    climbs = run.events[run.events["event"] == "climb"]
    # It goes up by 90 a second from the floor at 16 to the top at 80, where it stands.
    assert list(climbs["piece"]) == ["map/rigging"] * 2
    assert climbs["t"].iloc[1] - climbs["t"].iloc[0] == pytest.approx(64 / 90, abs=1e-9)
    assert (run.track["y"].iloc[-1], run.track["support"].iloc[-1]) == (94, "map/rigging")
