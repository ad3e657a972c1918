"""A moment of a world, to come back to: in the same process, or as bytes in any other one."""

from __future__ import annotations

import hashlib
import json
import zlib
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.compiling.shipped import digest
from haptos.engine.records.recording import Past
from haptos.engine.records.state import Room
from haptos.level.fingerprint import differing, fingerprint_of
from haptos.level.level import Level

# What bytes of a snapshot begin with, and the digest that they end in.
MAGIC = b"haptos snapshot 1\n"
DIGEST_SIZE = 16


class Snapshot:
    """All there is to know of a world at one moment, without any place in memory.

    It holds the state and, in the process that made it, a reference to what was recorded before, which all snapshots
    share. As bytes, and pickled, it is the state alone.

    Parameters
    ----------
    level : Level
    t : float
        When it was made, seconds from the start.
    room : Room
        What the state has room for.
    memory : (n,) ndarray of bytes
        The state. It is kept, not copied.
    past : Past, optional
        What was recorded up to then.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> simulation, elsewhere = haptos.Simulation(level), haptos.Simulation(level)
    >>> simulation.step("right", ticks=30)
    >>> elsewhere.restore(haptos.Snapshot.from_bytes(simulation.snapshot().to_bytes()))
    >>> elsewhere.x == simulation.x, elsewhere.t
    (True, 0.5)
    """

    __slots__ = ("_fingerprint", "_level", "memory", "past", "room", "t")

    def __init__(self, level: Level, t: float, room: Room, memory: NDArray[np.uint8], past: Past | None = None) -> None:
        self._level: Level | None = level
        self._fingerprint: dict[str, str] = {}
        self.t, self.room, self.memory, self.past = t, room, memory, past

    @property
    def nbytes(self) -> int:
        """How many bytes the state takes."""
        return len(self.memory)

    @property
    def fingerprint(self) -> dict[str, str]:
        """A digest of every section of its level."""
        return self._fingerprint or fingerprint_of(self._level)  # type: ignore[arg-type]

    def require_level(self, level: Level) -> None:
        """Raise ValueError unless it is a snapshot of an equal level.

        Parameters
        ----------
        level : Level

        Raises
        ------
        ValueError
            If it is of another level; it says in which sections they differ.
        """
        if self._level is level:
            return
        others = differing(self.fingerprint, fingerprint_of(level))
        if others:
            raise ValueError(
                f"found a snapshot of another level, expected one of '{level.title or 'untitled'}': "
                f"they differ in {' and '.join(others)}"
            )
        self._level = level

    def to_bytes(self) -> bytes:
        """Return it as bytes, for other processes: the state, compressed, with a head that says what it is of.

        Returns
        -------
        bytes
        """
        head = {
            "engine": digest(), "level": self.fingerprint, "t": self.t, "room": self.room, "bytes": self.nbytes,
        }  # fmt: skip
        body = json.dumps(head).encode() + b"\n" + zlib.compress(self.memory.tobytes(), 1)
        return MAGIC + body + _digest(body)

    @classmethod
    def from_bytes(cls, data: bytes) -> Snapshot:
        """Return the snapshot that `to_bytes` made bytes of.

        Parameters
        ----------
        data : bytes

        Returns
        -------
        Snapshot

        Raises
        ------
        ValueError
            If the bytes are damaged, or another version of Haptos made them.

        Examples
        --------
        >>> Snapshot.from_bytes(b"haptos snapshot 1")
        Traceback (most recent call last):
        ValueError: found bytes that are no snapshot, or a damaged one; expected what Snapshot.to_bytes gave
        """
        body = bytes(data[len(MAGIC) : -DIGEST_SIZE])
        if not data.startswith(MAGIC) or _digest(body) != data[-DIGEST_SIZE:]:
            raise ValueError("found bytes that are no snapshot, or a damaged one; expected what Snapshot.to_bytes gave")
        said, _, packed = body.partition(b"\n")
        head: dict[str, Any] = json.loads(said)
        if head["engine"] != digest():
            raise ValueError("found a snapshot that another version of Haptos made, expected one of this version")
        snapshot = cls.__new__(cls)
        snapshot._level, snapshot._fingerprint, snapshot.past = None, head["level"], None
        snapshot.t, snapshot.room = head["t"], Room(*head["room"])
        snapshot.memory = np.frombuffer(zlib.decompress(packed), dtype=np.uint8)
        return snapshot

    def __reduce__(self) -> tuple[Any, tuple[bytes]]:
        return Snapshot.from_bytes, (self.to_bytes(),)

    def __repr__(self) -> str:
        return f"<Snapshot at {self.t:.6g} s, {self.nbytes:,} bytes>"


def _digest(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=DIGEST_SIZE).digest()
