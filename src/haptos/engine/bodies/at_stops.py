"""Who lies at the limit of its hinge and is struck against that: the stop takes the impact, as a wall would."""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.contact_rows import closing_at
from haptos.engine.compiling.contract import leaf

# So near to its limit (radians) a hinge is at its stop; so fast, as a share of the impact, it is not leaving it.
AT_STOP = 1e-3
HARDLY = 1e-3


@leaf
def stop_at_limit(stirred: Any, number: int, row: int, sense: float, close: float) -> bool:
    """Whether a body of a pair is at its stop and the impact drives it on; it then stands, as what it is pinned to.

    `sense` is that of the pair's normal on it. Only what nothing moves stops anybody.
    """
    pair = stirred.pairs[number]
    one, other = stirred.partakers[pair.first], stirred.partakers[pair.second]
    for index in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[index], stirred.loose.hinges[index]
        if hinge.second != row or not pin.active:
            continue
        a, b = stirred.partakers[hinge.first], stirred.partakers[row]
        if a.light > 0.0 or a.nimble > 0.0:
            continue
        turned = b.angle - a.angle - pin.reference
        beyond = 0.0
        if turned <= hinge.low + AT_STOP:
            beyond = -1.0
        elif turned >= hinge.high - AT_STOP:
            beyond = 1.0
        if beyond == 0.0:
            continue
        drives = False
        for place in range(pair.points):
            point = stirred.points[2 * number + place]
            if point.gap > close:
                continue
            arm_x = (point.first_x if sense < 0.0 else point.second_x) - pin.second_x
            arm_y = (point.first_y if sense < 0.0 else point.second_y) - pin.second_y
            arm = sense * beyond * (arm_x * pair.ny - arm_y * pair.nx)
            closing = closing_at(one, other, point, pair.nx, pair.ny)
            if arm < 0.0 or beyond * (a.spin - b.spin) * b.reach > HARDLY * abs(closing):
                return False
            drives = drives or arm > 0.0
        if drives:
            b.spin = a.spin
            b.vx = a.vx - a.spin * (b.y - a.y)
            b.vy = a.vy + a.spin * (b.x - a.x)
            return True
    return False
