"""Work that is spread over the processors: processes where they can inherit the work, threads elsewhere."""

from __future__ import annotations

import gc
import os
import signal
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, NoReturn, TypeVar

if TYPE_CHECKING:
    from concurrent.futures import Executor, Future

Item = TypeVar("Item")
Result = TypeVar("Result")

MOST = 8


def spread(
    items: Sequence[Item], work: Callable[[Item], Result], tick: Callable[[int], None] | None = None, most: int = MOST
) -> list[Result]:
    """Return ``[work(item) for item in items]``, computed by up to *most* processes or threads.

    Put costly items first. *tick* is called with the number of items done so far. What *work* raises for an item is
    raised here, for the first such item.
    """
    hands = min(len(items), most, _processors())
    if hands < 2:
        return [_counted(work(item), number, tick) for number, item in enumerate(items, 1)]
    from concurrent.futures import BrokenExecutor, as_completed

    executor = _executor(hands, work)
    call: Callable[[Any], Any] = _inherited if _forks() else work
    try:
        futures: list[Future[Result]] = [executor.submit(call, item) for item in items]
        for number, _ in enumerate(as_completed(futures), 1):
            if tick:
                tick(number)
        return [future.result() for future in futures]
    except BrokenExecutor:  # a helper died, for want of memory perhaps: the work is done here
        return [work(item) for item in items]
    finally:  # whoever interrupts does not wait for what was not begun
        executor.shutdown(wait=True, cancel_futures=True)


def halved(items: Sequence[Item], work: Callable[[Sequence[Item]], Result]) -> list[Result]:
    """Return what *work* gives for the two halves of *items*: the second is done by a process that inherits it all.

    Cheaper than :func:`spread` where one piece of work is short. Without a second processor, or without fork, all
    is done here, as one.
    """
    if len(items) < 2 or _processors() < 2 or not _forks():
        return [work(items)]
    import pickle

    middle = len(items) // 2
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        _answer(writing, lambda: work(items[middle:]))
    os.close(writing)
    try:
        first = work(items[:middle])
        with os.fdopen(reading, "rb") as pipe:
            answer = pipe.read()
    except BaseException:  # whoever interrupts does not wait for the other half
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        raise
    _, status = os.waitpid(child, 0)
    # Whatever kept the other half from being done is met again here, and told.
    return [first, work(items[middle:]) if status else pickle.loads(answer)]


def _answer(writing: int, work: Callable[[], object]) -> NoReturn:
    """Write what *work* gives into a pipe and end the process, whatever happens."""
    code = 1
    try:
        import pickle

        data = pickle.dumps(work(), pickle.HIGHEST_PROTOCOL)
        with os.fdopen(writing, "wb") as pipe:
            pipe.write(data)
        code = 0
    finally:
        os._exit(code)


def _counted(result: Result, number: int, tick: Callable[[int], None] | None) -> Result:
    if tick:
        tick(number)
    return result


def _processors() -> int:
    usable = getattr(os, "sched_getaffinity", None)
    return len(usable(0)) if usable else os.cpu_count() or 1


def _forks() -> bool:
    return hasattr(os, "fork")


def _executor(hands: int, work: Callable[[Any], Any]) -> Executor:
    """Return processes that inherit *work*, with all that it refers to; else threads: the pixels are drawn in C."""
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

    if not _forks():
        return ThreadPoolExecutor(hands)

    return ProcessPoolExecutor(hands, multiprocessing.get_context("fork"), _inherit, (work,))


# What a helper process is there for: set once when it starts, never in the program itself.
_work: list[Callable[[Any], Any]] = []


def _inherit(work: Callable[[Any], Any]) -> None:
    _work[:] = [work]
    # What is inherited stays; what one item leaves behind in circles is not kept until the last one is done.
    gc.freeze()
    gc.set_threshold(50_000, 10, 10)
    gc.enable()


def _inherited(item: Any) -> Any:
    return _work[0](item)
