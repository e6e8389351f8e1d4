"""The few errors Onomaxis raises; each knows the exit code it ends a run with."""

from __future__ import annotations


class OnomaxisError(Exception):
    """Base of all errors that a user may see; ``exit_code`` 4 is a fault of Onomaxis itself.

    ``kind`` is its word in the JSON document of an error.
    """

    exit_code = 4
    kind = "fault"

    def __init__(self, message: str, *, file: str = "", line: int = 0, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.file = file
        self.line = line
        self.remedy = remedy

    def __str__(self) -> str:
        where = f"{self.file}:{self.line}: " if self.file and self.line else f"{self.file}: " if self.file else ""
        what_to_do = f"\n  {self.remedy}" if self.remedy else ""
        return f"{where}{self.message}{what_to_do}"


class InputError(OnomaxisError):
    """Bad usage or bad input: nothing was changed."""

    exit_code = 2
    kind = "input"


class UsageError(InputError):
    """A command line that cannot be understood; ``usage`` is how it is used."""

    kind = "usage"

    def __init__(self, message: str, usage: str) -> None:
        super().__init__(message, remedy=usage.strip())
        self.usage = usage


class FormatError(InputError):
    """A file does not follow its own syntax; raised by readers with the line, the caller adds the file."""

    kind = "format"


class RefusedError(OnomaxisError):
    """A change that would not be safe: nothing was changed."""

    exit_code = 3
    kind = "refused"


class StoppedError(OnomaxisError):
    """The person said no: nothing was changed."""

    exit_code = 3
    kind = "stopped"


class FaultError(OnomaxisError):
    """A promise Onomaxis could not keep by its own doing."""
