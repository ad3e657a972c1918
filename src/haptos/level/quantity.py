"""Numbers with units: a plain number is in the level's own units, a string may carry another one.

The unit registry is Pint's, filled with the few units that a level can mean. Its base units are the level's own
length unit, the second, the degree and the kilogram, so a converted number is at once the plain number.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from functools import lru_cache
from typing import Annotated, Any

from pydantic import BeforeValidator, ValidationInfo, WithJsonSchema

from haptos.errors import LevelError
from haptos.level.names import did_you_mean, short

# What each dimension is called in messages, and its base units in Pint's notation.
DIMENSIONS: dict[str, tuple[str, dict[str, int]]] = {
    "length": ("a length", {"[length]": 1}),
    "area": ("an area", {"[length]": 2}),
    "speed": ("a speed", {"[length]": 1, "[time]": -1}),
    "acceleration": ("an acceleration", {"[length]": 1, "[time]": -2}),
    "time": ("a time", {"[time]": 1}),
    "angle": ("an angle", {"[angle]": 1}),
    "mass": ("a mass", {"[mass]": 1}),
    "impulse": ("an impulse", {"[mass]": 1, "[length]": 1, "[time]": -1}),
    "turning": ("an angular speed", {"[angle]": 1, "[time]": -1}),
    "force": ("a force", {"[mass]": 1, "[length]": 1, "[time]": -2}),
    "torque": ("a torque", {"[mass]": 1, "[length]": 2, "[time]": -2}),
    "density": ("a mass per area", {"[mass]": 1, "[length]": -2}),
    "number": ("a plain number", {}),
}

BASE_DEFINITIONS = (
    "milli- = 1e-3 = m-",
    "micro- = 1e-6 = u-",
    "centi- = 1e-2 = c-",
    "kilo- = 1e3 = k-",
    "second = [time] = s = sec",
    "minute = 60 second = min",
    "hour = 60 minute = h",
    "degree = [angle] = deg",
    "turn = 360 degree",
    "radian = 57.29577951308232 degree = rad",
    "gram = [mass] = g",
    "tonne = 1000000 gram",
    "percent = 0.01",
)
# A number, white space if any, and a unit: what a text is but for sums and the like, which Pint reads whole.
PLAIN_NUMBER = re.compile(r"^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([A-Za-z_%µ].*)$")
# Pint would read over it, and make 15 of 1,5.
DECIMAL_COMMA = re.compile(r"(?<=\d),(?=\d)")
# Beyond this a step of a thousandth is lost in a place's last digit, and squares of squares overflow.
LARGEST = 1e12
# What has to be above zero is no smaller than this, or what is divided by it overflows.
SMALLEST = 1e-12
METRE_NAMES = ("m", "metre", "meter", "cm", "mm", "km", "centimetre", "millimetre", "kilometre")


class Units:
    """The units of one level.

    Parameters
    ----------
    length_unit : str
        The unit of plain lengths, ``px`` unless the level says otherwise.
    frame_rate : float
        Frames a second; ``frame`` is one of them.
    definitions : dict
        The level's own ``[units]``, as in ``{"tile": "16 px"}``.

    Examples
    --------
    >>> Units("px", 60, {"tile": "16 px"}).convert("1.5 tile", "length")
    24.0
    >>> Units("px", 60).convert("4 px/frame", "speed")
    240.0
    """

    def __init__(
        self, length_unit: str = "px", frame_rate: float = 60.0, definitions: dict[str, str] | None = None
    ) -> None:
        self.length_unit = length_unit
        self.frame_rate = frame_rate
        self.definitions = dict(definitions or {})
        self._registry: Any = None
        self._known: dict[tuple[str, str], float] = {}

    def convert(self, text: str, dimension: str) -> float:
        """Return the plain number that a string means.

        Parameters
        ----------
        text : str
            A number and a unit, ``"50 frame"``.
        dimension : str
            A key of `DIMENSIONS`.

        Raises
        ------
        ValueError
            If the unit is unknown or of another dimension.
        """
        if DECIMAL_COMMA.search(text):
            point = DECIMAL_COMMA.sub(".", text)
            raise ValueError(f"found '{text}', expected a decimal point: '{point}'")
        number, unit = 1.0, text
        plain = PLAIN_NUMBER.match(text)
        if plain is not None:
            number, unit = float(plain[1]), plain[2]
        key = (unit, dimension)
        if key not in self._known:
            self._known[key] = self._convert(unit if plain is None else f"1 {unit}", text, dimension)
        return number * self._known[key]

    def _convert(self, one: str, text: str, dimension: str) -> float:
        words, expected = DIMENSIONS[dimension]
        registry = self._open_registry()
        import pint

        try:
            quantity = registry.Quantity(one)
            found = {name: int(power) for name, power in dict(quantity.dimensionality).items()}
        except pint.errors.UndefinedUnitError as error:
            names = [error.unit_names] if isinstance(error.unit_names, str) else list(error.unit_names)
            known = [self.length_unit, "frame", "second", "ms", "degree", "turn", "kg", *self.definitions]
            hint = did_you_mean(str(names[0]), known)
            raise ValueError(f"found '{text}', whose unit '{names[0]}' is not known{hint}") from None
        except Exception:
            raise ValueError(f"found '{text}', expected {words} such as {self._example(dimension)}") from None
        if found != expected:
            raise ValueError(f"found '{text}', expected {words} such as {self._example(dimension)}")
        plain = quantity.to(self._base_unit(dimension)) if expected else quantity.to("dimensionless")
        return float(plain.magnitude)

    def _base_unit(self, dimension: str) -> str:
        length = self.length_unit
        return {
            "length": length,
            "area": f"{length}**2",
            "speed": f"{length}/second",
            "acceleration": f"{length}/second**2",
            "time": "second",
            "angle": "degree",
            "mass": "kilogram",
            "impulse": f"kilogram*{length}/second",
            "turning": "degree/second",
            "force": f"kilogram*{length}/second**2",
            "torque": f"kilogram*{length}**2/second**2",
            "density": f"kilogram/{length}**2",
        }[dimension]

    def _example(self, dimension: str) -> str:
        length = self.length_unit
        return {
            "length": f"'24 {length}'",
            "area": f"'100 {length}^2'",
            "speed": f"'4 {length}/frame'",
            "acceleration": f"'900 {length}/s^2'",
            "time": "'50 frame'",
            "angle": "'0.25 turn'",
            "mass": "'60 kg'",
            "impulse": f"'9000 kg {length}/s'",
            "turning": "'0.2 turn/s'",
            "force": f"'30000 kg {length}/s^2'",
            "torque": f"'1000000 kg {length}^2/s^2'",
            "density": f"'0.1 kg/{length}^2'",
            "number": "0.5",
        }[dimension]

    def _open_registry(self) -> Any:
        if self._registry is not None:
            return self._registry
        import pint

        registry: Any = pint.UnitRegistry(None)
        for definition in BASE_DEFINITIONS:
            registry.define(definition)
        registry.define(
            "metre = [length] = m = meter" if self.length_unit in METRE_NAMES else f"{self.length_unit} = [length]"
        )
        registry.define(f"frame = {1.0 / self.frame_rate!r} second")
        for name, meaning in self.definitions.items():
            try:
                registry.define(f"{name} = {meaning}")
                registry.Quantity(1, name).to_root_units()
            except Exception as error:
                raise LevelError(f"units.{name}", f"found '{meaning}', which is not a known unit ({error})") from None
        self._registry = registry
        return registry


def units_of(raw: Any) -> Units:
    """Return the units that a level's raw mapping declares, before any of it is validated."""
    mapping = raw if isinstance(raw, dict) else {}
    world = mapping.get("world")
    world = world if isinstance(world, dict) else {}
    length_unit = world.get("length_unit", "px")
    frame_rate = world.get("frame_rate", 60.0)
    if not isinstance(length_unit, str) or not length_unit.isidentifier():
        raise LevelError("world.length_unit", f"found {short(length_unit)}, expected the name of a unit, such as 'px'")
    rate_is_number = isinstance(frame_rate, int | float) and not isinstance(frame_rate, bool)
    if not rate_is_number or not math.isfinite(frame_rate) or frame_rate <= 0:
        raise LevelError("world.frame_rate", f"found {short(frame_rate)}, expected a number above zero")
    definitions = mapping.get("units", {})
    if not isinstance(definitions, dict):
        raise LevelError("units", f"found {short(definitions)}, expected a table such as tile = '16 px'")
    for name, meaning in definitions.items():
        if not isinstance(meaning, str) or not name.isidentifier():
            raise LevelError(f"units.{name}", f"found {short(meaning)}, expected a string such as '16 {length_unit}'")
    return shared_units(length_unit, float(frame_rate), tuple(definitions.items()))


@lru_cache(maxsize=64)
def shared_units(
    length_unit: str = "px", frame_rate: float = 60.0, definitions: tuple[tuple[str, str], ...] = ()
) -> Units:
    """Return the units of all levels that declare the same ones, so that none of them is converted twice."""
    return Units(length_unit, frame_rate, dict(definitions))


def _validator(
    dimension: str, lowest: float | None, above: float | None, highest: float
) -> Callable[[Any, ValidationInfo], float]:
    words = DIMENSIONS[dimension][0]

    def read(value: Any, info: ValidationInfo) -> float:
        if isinstance(value, str):
            units = info.context if isinstance(info.context, Units) else shared_units()
            number = units.convert(value, dimension)
        elif isinstance(value, bool) or not isinstance(value, int | float):
            raise ValueError(f"found {short(value)}, expected {words}")
        else:
            number = float(value)
        if not math.isfinite(number):
            raise ValueError(f"found {short(value)}, expected a finite number")
        if abs(number) > highest:
            raise ValueError(f"found {short(value)}, expected {words} of {highest:g} at most")
        if lowest is not None and number < lowest:
            raise ValueError(f"found {short(value)}, expected {words} of {lowest:g} or more")
        if above is not None and number <= above:
            raise ValueError(f"found {short(value)}, expected {words} above {above:g}")
        if above is not None and number < above + SMALLEST:
            raise ValueError(f"found {short(value)}, expected {words} of {above + SMALLEST:g} or more")
        return number

    return read


def is_bounded(*numbers: float) -> bool:
    """Whether numbers are finite, and within what a level may say.

    Examples
    --------
    >>> is_bounded(0.0, -1e12), is_bounded(math.nan), is_bounded(1e30)
    (True, False, False)
    """
    return all(abs(number) <= LARGEST for number in numbers)


def _quantity(
    dimension: str, lowest: float | None = None, above: float | None = None, highest: float = LARGEST
) -> Any:  # fmt: skip
    number: dict[str, Any] = {"type": "number"}
    if lowest is not None:
        number["minimum"] = lowest
    if above is not None:
        number["exclusiveMinimum"] = above
    if highest != LARGEST:
        number["maximum"] = highest
    text = {"type": "string", "description": f"{DIMENSIONS[dimension][0]} with its unit"}
    return (BeforeValidator(_validator(dimension, lowest, above, highest)), WithJsonSchema({"anyOf": [number, text]}))


Length = Annotated[float, *_quantity("length")]
Size = Annotated[float, *_quantity("length", lowest=0.0)]
Extent = Annotated[float, *_quantity("length", above=0.0)]
Speed = Annotated[float, *_quantity("speed", lowest=0.0)]
Velocity = Annotated[float, *_quantity("speed")]
TopSpeed = Annotated[float, *_quantity("speed", above=0.0)]
Acceleration = Annotated[float, *_quantity("acceleration")]
Rate = Annotated[float, *_quantity("acceleration", lowest=0.0)]
Duration = Annotated[float, *_quantity("time", lowest=0.0)]
Period = Annotated[float, *_quantity("time", above=0.0)]
Angle = Annotated[float, *_quantity("angle")]
AngularVelocity = Annotated[float, *_quantity("turning")]
TurnRate = Annotated[float, *_quantity("turning", above=0.0)]
Factor = Annotated[float, *_quantity("number", lowest=0.0)]
Number = Annotated[float, *_quantity("number")]
Mass = Annotated[float, *_quantity("mass", above=0.0)]
Impulse = Annotated[float, *_quantity("impulse", above=0.0)]
Density = Annotated[float, *_quantity("density", above=0.0)]
Force = Annotated[float, *_quantity("force", lowest=0.0)]
Torque = Annotated[float, *_quantity("torque", lowest=0.0, highest=1e15)]
Scale = Annotated[float, *_quantity("number", above=0.0)]
# Ticks or frames a second; with more, a run of a minute does not fit into memory.
Frequency = Annotated[float, *_quantity("number", lowest=1.0, highest=1e5)]
