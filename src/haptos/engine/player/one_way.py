"""Dropping through one-way pieces that the body stands on."""

from __future__ import annotations

from typing import Any

from haptos.engine.collision.zones import depth_in
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import leave_support
from haptos.engine.player.kept_contacts import take_off
from haptos.engine.records.codes import DOWN, GROUND, JUMP

# What is this near, as a share of the body's height, is dropped through together.
NEAR = 1e-6


@leaf
def drop_through(zones: Any, passing: Any, body: Any, player: Any, contacts: Any, held: int, t: float) -> bool:
    """Let down with jump, pressed on a one-way piece, open all of those that are underfoot."""
    pressed = held & ~player.held
    if not pressed & JUMP or not held & DOWN or player.stance != GROUND or not player.on_ledge:
        return False
    for index in range(zones.outlines.shape[0]):
        outline = zones.outlines[index]
        if outline.twin >= 0 and passing[outline.twin] == 0:
            if abs(depth_in(outline, zones.faces, player.x, player.y)) <= NEAR * body.height:
                passing[outline.twin] = 1
                player.dropping += 1
    index = 0
    while index < player.contacts:
        outline = contacts[index].outline
        if outline >= 0 and passing[outline]:
            take_off(contacts, player, index)
        else:
            index += 1
    leave_support(player, t)
    player.press_armed = 0
    return True


@leaf
def end_drops(zones: Any, inside: Any, passing: Any, player: Any) -> None:
    """Make one-way pieces solid again that were to be dropped through, but are not, as where a floor is in the way."""
    if zones is None:
        return
    if player.dropping > 0:
        player.dropping = 0
        for index in range(zones.outlines.shape[0]):
            twin = zones.outlines[index].twin
            if twin >= 0 and passing[twin]:
                if inside[index]:
                    player.dropping += 1
                else:
                    passing[twin] = 0
