"""A run over time: the picture says what the track says."""

from __future__ import annotations

import numpy as np
import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.views.lanes import held_spans, spans_of

SHEETS = [(room, sheets[0]) for room, sheets in DEMO_SHEETS.items()]


@pytest.mark.parametrize(("room", "sheet"), SHEETS)
def test_lines_and_lanes_are_those_of_the_track(room, sheet):
    level = haptos.load(demo_file(f"{room}.toml"))
    run = haptos.simulate(level, haptos.load_cues(demo_file(f"{sheet}.toml"), level.unit_table()))
    figure = haptos.timeline(run)
    height, speed, stance, controls, *counted = figure.axes
    up_x, up_y = level.world.up
    np.testing.assert_allclose(height.lines[0].get_ydata(), run.track.x * up_x + run.track.y * up_y)
    np.testing.assert_allclose(speed.lines[0].get_ydata(), np.hypot(run.track.vx, run.track.vy))
    assert [label.get_text() for label in stance.get_yticklabels()] == ["stance", "support"]
    for name in ("stance", "support"):
        spans = spans_of(run, run.track[name].tolist())
        for span in spans:
            ticks = round(span.begin * 60), round(span.end * 60)
            assert set(run.track[name].iloc[ticks[0] : ticks[1]]) <= {span.what}
        assert sum(span.end - span.begin for span in spans) <= run.duration + 1e-9
    held = run.plain_cues.schedule(level.world.tick_rate).held
    spans = held_spans(run)
    assert [label.get_text() for label in controls.get_yticklabels()] == (list(spans) or ["none held"])
    pressed = sum(round((span.end - span.begin) * level.world.tick_rate) for some in spans.values() for span in some)
    assert pressed == sum(bin(bits).count("1") for bits in held[: run.ticks].tolist())
    changing = [name for name in ("health", "lives", *level.counters) if run.track[name].nunique() > 1]
    assert [ax.get_ylabel() for ax in counted] == changing
    lands = [row for row in run.event_rows if row.event == "land" and row.who == "player"]
    assert sum(line.get_marker() == "v" for line in height.lines) == len(lands)


def test_two_runs_beside_each_other_and_the_tool(tool, tmp_path):
    level = haptos.load(demo_file("first-room.toml"))
    one, other = haptos.simulate(level, "right 1 s"), haptos.simulate(level, "right 2 s, jump 1 s")
    figure = haptos.timeline(one, other)
    assert [len(line.get_ydata()) for line in figure.axes[1].lines[:2]] == [61, 181]
    words = ["timeline", demo_file("first-room.toml"), "right 1 s, jump 1 s"]
    out = tmp_path / "over-time.png"
    assert tool(*words, "--out", out)[0] == 0
    assert out.stat().st_size > 20_000
    assert tool(*words, "--out", out, "--set", "player.jump.height=90", "--compare")[0] == 0
    code, _, err = tool(*words, "--out", out, "--compare")
    assert (code, "found --compare without --set" in err) == (2, True)
    assert "expected a picture" in tool(*words, "--out", tmp_path / "x.gif")[2]
    with pytest.raises(TypeError, match="expected a run"):
        haptos.timeline(level)  # type: ignore[arg-type]
