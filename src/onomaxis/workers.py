"""Work that is spread over the processors: in helper processes that are forked, in this one where that cannot be."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from typing import BinaryIO, NoReturn, TypeVar

Item = TypeVar("Item")
Result = TypeVar("Result")

MOST = 8


def spread(
    items: Sequence[Item], work: Callable[[Item], Result], tick: Callable[[int], None] | None = None, most: int = MOST
) -> list[Result]:
    """Return ``[work(item) for item in items]``, computed by up to *most* processes.

    Items are dealt out in turn, so put costly ones first. *tick* is called with the number of items done so far, as
    this process sees it. What *work* raises for an item is raised here, for the first such item.
    """
    hands = min(len(items), most, _processors())
    if hands < 2 or not hasattr(os, "fork"):
        return _in_turn(items, work, tick, 1)
    helpers = [_start(items[number::hands], work) for number in range(1, hands)]
    own: list[Result | Exception] = [
        _tried(work, item, tick, number * hands) for number, item in enumerate(items[0::hands], 1)
    ]
    parts = [own]
    for number, (child, pipe) in enumerate(helpers, 1):
        answers: list[Result | Exception] = _answers(pipe)
        os.waitpid(child, 0)
        mine = items[number::hands]
        if len(answers) != len(mine):  # the helper died: do its part here
            answers = [_tried(work, item, None, 0) for item in mine]
        parts.append(answers)
    found: list[Result] = []
    for number in range(len(items)):
        result = parts[number % hands][number // hands]
        if isinstance(result, Exception):
            raise result
        found.append(result)
    return found


def _processors() -> int:
    usable = getattr(os, "sched_getaffinity", None)
    return len(usable(0)) if usable else os.cpu_count() or 1


def _in_turn(
    items: Sequence[Item], work: Callable[[Item], Result], tick: Callable[[int], None] | None, step: int
) -> list[Result]:
    results = []
    for number, item in enumerate(items, 1):
        results.append(work(item))
        if tick:
            tick(number * step)
    return results


def _tried(
    work: Callable[[Item], Result], item: Item, tick: Callable[[int], None] | None, done: int
) -> Result | Exception:
    try:
        return work(item)
    except Exception as error:
        return error
    finally:
        if tick:
            tick(done)


def _start(items: Sequence[Item], work: Callable[[Item], Result]) -> tuple[int, BinaryIO]:
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reading)
        _answer(writing, items, work)
    os.close(writing)
    return child, os.fdopen(reading, "rb")


def _answer(pipe: int, items: Sequence[Item], work: Callable[[Item], Result]) -> NoReturn:
    """In a helper process: work, write the answers, end without running anything else."""
    try:
        answers = [_tried(work, item, None, 0) for item in items]
        with os.fdopen(pipe, "wb") as out:
            import pickle

            pickle.dump(answers, out, pickle.HIGHEST_PROTOCOL)
    finally:
        os._exit(0)


def _answers(pipe: BinaryIO) -> list[Result | Exception]:
    """Read what a helper sends; nothing where it died."""
    import pickle

    with pipe:
        data = pipe.read()
    try:
        answers: list[Result | Exception] = pickle.loads(data)
    except Exception:
        return []
    return answers
