"""The player body and how it runs, jumps and falls."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from haptos.level.flying import Shot
from haptos.level.loose import Push
from haptos.level.pieces import Piece
from haptos.level.quantity import Angle, Duration, Extent, Factor, Length, Mass, Rate, Size, Speed, TopSpeed, TurnRate
from haptos.level.section import Section, Truth
from haptos.level.shapes import Shape
from haptos.level.stakes import Health


class Gaits(Section):
    """Target speeds on the ground and in the air."""

    walk: Speed = 150.0
    sprint: Speed = 300.0


class RunControl(Section):
    """How fast the target speed is approached: accel toward it, brake when slower is wanted."""

    ground_accel: Rate = 1800.0
    ground_brake: Rate = 2400.0
    air_accel: Rate = 1200.0
    air_brake: Rate = 300.0


class Jump(Section):
    """The jump, by the height it reaches or by its speed.

    Attributes
    ----------
    height, speed : one of them; 72 units high if neither is given
    coyote_time : after walking off an edge, a jump still works this long
    buffer_time : a press this long before landing still jumps
    release_cut : factor on the rising speed when jump is let go
    extra_jumps : jumps that may be made in the air
    """

    height: Extent | None = None
    speed: TopSpeed | None = None
    coyote_time: Duration = 0.08
    buffer_time: Duration = 0.1
    release_cut: Factor = 0.5
    extra_jumps: int = Field(default=0, ge=0, strict=True)

    @model_validator(mode="after")
    def _one_measure(self) -> Jump:
        if self.height is not None and self.speed is not None:
            raise ValueError("found both height and speed, expected one of them")
        return self


class Fall(Section):
    """Limits of the fall.

    Attributes
    ----------
    terminal_speed : the fastest fall; no limit if None
    rising_factor, falling_factor : factors on gravity on the way up and down
    safe_drop : a drop of so much does no harm
    harm_per_unit : points of health for each unit that a drop is deeper
    rounding : of those points: none, down, up or nearest
    """

    terminal_speed: TopSpeed | None = 900.0
    rising_factor: Factor = 1.0
    falling_factor: Factor = 1.0
    safe_drop: Size = 0.0
    harm_per_unit: Factor = 0.0
    rounding: Literal["none", "down", "up", "nearest"] = "none"


class Ground(Section):
    """How the body keeps to the ground.

    Attributes
    ----------
    max_slope : surfaces up to so many degrees from level are ground
    step_height : a wall no higher than this is stepped onto; a seventh of the body's height if None
    snap : where the ground falls away by no more than this, the body stays on it; a seventh of its height if None
    """

    max_slope: Angle = 50.0
    step_height: Size | None = None
    snap: Size | None = None

    @model_validator(mode="after")
    def _sound(self) -> Ground:
        if not 0 <= self.max_slope < 90:
            raise ValueError(f"found max_slope {self.max_slope:g}, expected 0 or more and less than 90 degrees")
        return self


class Climb(Section):
    """How fast ladders are climbed."""

    speed: TopSpeed = 90.0


class Crush(Section):
    """What being squeezed between a mover and something solid does.

    Attributes
    ----------
    lethal : whether the body dies; without, the mover is passed through until the body is clear of it
    points : of health that are lost if it is not lethal
    """

    lethal: Truth = True
    points: Factor = 0.0


# Gravity of a world that says none.
USUAL_GRAVITY = 1800.0
DEFAULT_JUMP_HEIGHT = 72.0
# Steps and dips of this share of the body's height are taken without a jump or a hop.
DEFAULT_STEP = 1.0 / 7.0
DEFAULT_BODY = Shape(capsule=(14.0, 28.0))


class Player(Section):
    """The body that the cues control; it starts, and comes back when it is lost, at `at`.

    Its `pieces` are carried along by it, placed relative to it, and named ``player/piece``.

    Attributes
    ----------
    on_death : whether the body comes back alone, the level begins again, or the run is over
    attract_bonus : added to every `attract_within`
    turn_rate : how fast it turns to a new up; at once if ``none``
    """

    at: tuple[Length, Length] = (0.0, 0.0)
    facing: Literal["right", "left", "up", "down"] = "right"
    shape: Shape = DEFAULT_BODY
    layer: str | None = None
    marks: tuple[str, ...] = ()
    gaits: Gaits = Gaits()
    run: RunControl = RunControl()
    jump: Jump = Jump()
    fall: Fall = Fall()
    ground: Ground = Ground()
    climb: Climb = Climb()
    push: Push = Push()
    crush: Crush = Crush()
    health: Health = Health()
    on_death: Literal["respawn", "restart", "end"] = "respawn"
    attract_bonus: Length = 0.0
    turn_rate: Literal["none"] | TurnRate = "none"
    keep_momentum: Truth = True
    mass: Mass = 60.0
    never_meets: tuple[str, ...] = ()
    shot: Shot | None = None
    pieces: tuple[Piece, ...] = ()

    @model_validator(mode="after")
    def _sound(self) -> Player:
        if not self.shape.can_be_met:
            raise ValueError("found a shape without area, expected a body such as { capsule = [14, 28] }")
        for form in ("corners", "polygon", "line"):
            if getattr(self.shape, form) is not None:
                raise ValueError(f"found shape.{form}, expected box, circle or capsule, placed by `at`")
        if self.shape.turn:
            raise ValueError("found shape.turn, expected none: the body stands along its own up")
        return self

    @property
    def step_height(self) -> float:
        """The highest wall that is stepped onto."""
        given = self.ground.step_height
        return DEFAULT_STEP * self.shape.size[1] if given is None else given

    @property
    def snap(self) -> float:
        """How far the ground may fall away under a body that stays on it."""
        return DEFAULT_STEP * self.shape.size[1] if self.ground.snap is None else self.ground.snap

    def push_force(self, gravity: float) -> float:
        """Return how hard loose bodies are pushed at most; where nothing has weight, as under the usual gravity."""
        if self.push.force is not None:
            return self.push.force
        return self.mass * (gravity or USUAL_GRAVITY)

    @property
    def steers_afloat(self) -> bool:
        """Whether what is said of the run in the air holds without gravity, too."""
        return bool({"air_accel", "air_brake"} & self.run.model_fields_set)

    def jump_speed(self, gravity: float) -> float:
        """Return the speed at which a jump leaves, sqrt(2 g h), under the gravity of the rise.

        Without gravity a height says nothing: the usual jump leaves as fast as under the usual gravity.
        """
        if self.jump.speed is not None:
            return self.jump.speed
        height = DEFAULT_JUMP_HEIGHT if self.jump.height is None else self.jump.height
        if gravity == 0.0:
            gravity = USUAL_GRAVITY
        return (2.0 * gravity * self.fall.rising_factor * height) ** 0.5
