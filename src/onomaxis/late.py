"""Patterns that are compiled when they are first used: a command pays only for those that it needs."""

from __future__ import annotations

import re
from typing import Any, AnyStr, cast


class _Late:
    """Stands for a pattern: what it is asked for first it keeps, so that later calls go straight to the pattern."""

    def __init__(self, text: str | bytes, flags: int) -> None:
        self._text = text
        self._flags = flags

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        found = getattr(re.compile(self._text, self._flags), name)
        self.__dict__[name] = found
        return found


def compile(pattern: AnyStr, flags: int = 0) -> re.Pattern[AnyStr]:
    """Return what behaves as ``re.compile(pattern, flags)`` and does so at its first use.

    It is asked by its methods: ``re.sub(pattern, ...)`` takes text or the real pattern only.
    """
    return cast("re.Pattern[AnyStr]", _Late(pattern, flags))
