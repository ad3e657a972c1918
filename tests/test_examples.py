"""Every example runs, and says what its first line promises."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

import haptos

EXAMPLES = Path(__file__).parent.parent / "examples"
SAYS = {
    "shapes": ["a ray straight down over the brazier meets Hit(piece='brazier'"],
    "slopes_and_steps": ["in the air for 0 ticks", "stopped by 500.0"],
    "one_way": ["drops through awning", "held back by the flap at x = 130"],
    "ladders": ["takes hold of rigging", "stands on the top of rigging", "ends on loft"],
    "trampolines": ["30 ticks/s, along 60 degrees", "up to 150.000000000 px"],
    # Bounces: 186 · 0.36 = 66.96.
    "surfaces": ["plain: at most 300 px/s", "bounces to [66.96, 24.11, 8.68"],
    "fields": [
        "side: slowest inside 120 px/s",
        "top: slowest inside 120 px/s",
        "jumped over: never slower than 300 px/s",
    ],
    "gaps": ["shelf 1 shelf 2 140.0  40.0 sprint    8.952"],
    # (√(2·1800·72) + 120)² / 3600.
    "lifts": [
        "lift at 120 px/s, keeps the lift's velocity:  109.94 px",
        "lift at 240 px/s, leaves it behind:   72.00 px",
    ],
    # 10° · √(60² + 8²); the jump's √(2 · 1800 · 72) and 10° · the point's x after a second.
    "turning_arms": [
        "10 degrees/s: carried at 10.565 px/s, the point goes at 10.565; the jump leaves at  519.187 px/s"
    ],
    "curved_routes": ["smooth, turns False: 100.00 to 100.00 px/s"],
    "rotten_planks": [
        "'wait 3 s', latched True: crumble at 0.000 s, drop at 0.500 s, gone at 1.100 s, return at 2.100 s",
        "latched False: crumble at 0.000 s, land at 0.713 s",
    ],
    "assemblies": ["lamp 2/near says 'near'", "tall lamp/far says 'far'"],
    "cabins": ["carries True: in the jump the body strays by 0.00 px"],
    "embers": ["the same seed, the same run: True", "ember 1 breaks on drop 5"],
    # 2 pi (120 + 14) / 150, and a hundredth of a second or two for the start.
    "gravity": ["flip flip at y = 14", "its circle at 150 px/s takes 5.61 s", "at 100 % of the ticks"],
    # 95 / 250, and ln(107 / 12) / 3.
    "pickups": [
        "steady at 240 ticks/s: taken after 0.3800 s",
        "ease at 240 ticks/s: taken after 0.72",
        "['ease-too-slow']",
    ],
    "harm_and_lamps": ["railing takes 2 points", "a drop of 250 costs 3.000 points", "finish: the level is finished"],
    "rules": ["gate is gone", "sets lamp.active to true", "'light' fired once", "its if = 'oil > 5' did not hold"],
    "sparks_and_sensors": [
        "0.700 s  globe makes spark 1",
        "player makes drop 1",
        "ember 1 breaks on player/shield",
        "the spark is 16 px over the globe",
    ],
    # 1800 (sin - cos / 2), and gravity's share of the first thousandths.
    "bodies": ["slope of 26°:    0.00 px/s", "slope of 40°:  467.58 px/s after 1 s, expected  467.58", "10 asleep"],
    "pushing": ["130 kg needs 117000 to slide: it has gone    0 px", "it rolls at 300.0 px/s", "see-saw", "-12°"],
    # 90° t / 1.12 s.
    "hinges": ["in 1.120 s: at 0.550 s it has 44.20°/s", "still swings to 59.99°", "a trapdoor holds for a second"],
    "hands_and_plates": ["the hand lets go of trunk", "the plate sinks", "brass ball is shoved by 400"],
    # Half a tick of the jump's speed is lost: 72 - 509.117 / 60 / 2 + …
    "integrators": ["60 ticks/s: exact 72.000, semi-implicit-euler 67.765"],
}


def test_every_example_is_here():
    assert {path.stem for path in EXAMPLES.glob("*.py")} == set(SAYS)


@pytest.mark.parametrize("name", SAYS)
def test_example(name):
    done = subprocess.run([sys.executable, EXAMPLES / f"{name}.py"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    for words in SAYS[name]:
        assert words in done.stdout


LEVELS = sorted(path for path in (EXAMPLES / "levels").glob("*.toml") if ".cues" not in path.name)


@pytest.mark.parametrize("file", LEVELS, ids=lambda path: path.stem)
def test_the_cues_of_a_level_lead_to_its_end_by_waiting_for_what_they_need(file):
    level = haptos.load(file)
    assert {one.severity for one in haptos.check(level)} <= {"note"}
    cues = haptos.load_cues(file.with_suffix(".cues.toml"), level.unit_table())
    assert cues.waits
    run = haptos.simulate(level, cues)
    assert run.summary()["finished"], run
    # What they came to leads there too, without waiting for anything.
    assert run.plain_cues.waits is False
    assert haptos.simulate(level, run.plain_cues).track.equals(run.track)


def test_the_levels_of_the_examples_are_here():
    assert len(LEVELS) == 4
