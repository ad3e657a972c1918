"""The same work, done by the workers of a Dask cluster."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

from haptos.errors import HaptosError

# A cluster that has not answered by then (s) is not there.
PATIENCE = 10.0


def on_dask(address: str, work: Callable[..., Any], chunks: Sequence[Any], *shared: Any) -> Iterator[Any]:
    """Let a running cluster do some work for every chunk; return what it gives, as it gets done.

    Parameters
    ----------
    address : str
        Of its scheduler, as ``tcp://127.0.0.1:8786``.
    work : function of what is shared, and of a chunk
    chunks : sequence
    shared : object
        Sent once.

    Raises
    ------
    HaptosError
        If Dask is not installed, or no cluster answers there.
    """
    try:
        from distributed import Client, as_completed
    except ImportError:
        raise HaptosError("found no Dask, expected it to be installed: pip install haptos[dask]") from None
    try:
        client = Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        words = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise HaptosError(f"{address}: no Dask cluster answers there: {words}") from None
    with client:
        if not client.scheduler_info()["workers"]:
            raise HaptosError(f"{address}: found a Dask cluster without workers, expected one or more")
        there = client.scatter(list(shared), broadcast=True, hash=False)
        waiting = [client.submit(work, *there, chunk, pure=False) for chunk in chunks]
        try:
            for done in as_completed(waiting, loop=client.loop):
                yield done.result()
        finally:
            client.cancel(waiting)
