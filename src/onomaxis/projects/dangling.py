"""What a project's own files name and what is not there, or is another app's: found by kinds, judged by checks."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class Sort(StrEnum):
    """What is wrong with a reference."""

    CLASS = "class"
    PACKAGE = "package"
    FIXED = "fixed"
    MANIFEST = "manifest"
    AUTHORITY = "authority"
    HOST = "host"
    COMPANION = "companion"
    SCHEME = "scheme"
    MIXED = "mixed"
    EXPORT = "export"
    PODS = "pods"
    FILE = "file"
    SCREEN = "screen"
    BASE = "base"
    CONFIGURATION = "configuration"
    GROUP = "group"
    MODULE = "module"


class Broken(NamedTuple):
    """One reference that leads nowhere, or elsewhere than it should: what of, in words, and where it stands."""

    sort: Sort
    said: str
    file: str
    line: int
    flavor: str = ""
