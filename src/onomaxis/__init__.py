"""Onomaxis: what a mobile app is called, everywhere it is written.

As a library: ``onomaxis.survey(path)``, ``plan``, ``check``, ``inspect`` and more, see :mod:`onomaxis.library`.
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from onomaxis.library import Wish, check, identity_file, inspect, plan, since, stamp, survey, timeline, write

__version__ = "0.1.0"
__all__ = ["Wish", "check", "identity_file", "inspect", "plan", "since", "stamp", "survey", "timeline", "write"]


def __getattr__(name: str) -> Any:
    """Load the library when it is first asked for: the command line starts without it."""
    if name in __all__:
        from onomaxis import library

        return getattr(library, name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
