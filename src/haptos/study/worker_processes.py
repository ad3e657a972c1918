"""Work done in several processes, as it gets done; interrupted, it ends with what is begun."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from itertools import islice
from typing import TypeVar

Task = TypeVar("Task")
Result = TypeVar("Result")

# So many tasks a process are handed out at a time: none waits for another, and few are begun in vain.
AHEAD = 3


def as_done(work: Callable[[Task], Result], tasks: Iterable[Task], processes: int) -> Iterator[Result]:
    """Do some work for every task, in several processes.

    Parameters
    ----------
    work : function of a task
        One that a process finds by its name.
    tasks : iterable
    processes : int
        With one, all of it is done here.

    Yields
    ------
    object
        What the work gives, in the order in which it gets done.

    Examples
    --------
    >>> sorted(as_done(abs, [-3, 2, -1], 2))
    [1, 2, 3]
    """
    if processes == 1:
        yield from map(work, tasks)
        return
    left = iter(tasks)
    with ProcessPoolExecutor(processes, initializer=_leave_interrupts) as pool:
        waiting: set[Future[Result]] = set()
        while True:
            waiting |= {pool.submit(work, task) for task in islice(left, AHEAD * processes - len(waiting))}
            if not waiting:
                return
            done, waiting = wait(waiting, return_when=FIRST_COMPLETED)
            for one in done:
                yield one.result()


def _leave_interrupts() -> None:
    """Leave Ctrl-C to the process that has begun this one: it says what is done, and ends the rest."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
