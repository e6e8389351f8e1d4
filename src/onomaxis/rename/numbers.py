"""Versions and build numbers relative to today's: ``minor``, ``+1``."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.model import ShippedApp, Value
from onomaxis.projects.project import Project
from onomaxis.rename.choice import chosen_projects
from onomaxis.rename.targets import variants_with
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Wish

# Semantic Versioning 2.0.0: which of the three numbers grows; those after it begin anew.
PARTS = ("major", "minor", "patch")
_VERSION = late.compile(r"\d+(?:\.\d+){0,2}")


def numbered(survey: Survey, wish: Wish) -> Wish:
    """Return *wish* with a relative version (``major``, ``minor``, ``patch``) or build (``+N``) counted out.

    The highest number that any platform of the app has today counts, so that all of them are equal afterwards.
    Raises InputError when there is none to count from.
    """
    version, build = wish.version, wish.build
    if version and version not in PARTS and not version[:1].isdigit():
        raise InputError(f"“{version}” is neither a version, such as 2.5.0, nor one of {', '.join(PARTS)}")
    if version not in PARTS and not build.startswith("+"):
        return wish
    # Which projects are meant depends on what is asked for, not on the numbers.
    apps = [app for project in chosen_projects(survey, wish) for app in _mine(project, wish.flavor)]
    version, build = counted(version, build, apps)
    return wish._replace(version=version, build=build)


def counted(version: str, build: str, apps: Sequence[ShippedApp]) -> tuple[str, str]:
    """Return a version and a build, relative ones counted from the highest that *apps* have. Raises InputError."""
    if version and version not in PARTS and not version[:1].isdigit():
        raise InputError(f"“{version}” is neither a version, such as 2.5.0, nor one of {', '.join(PARTS)}")
    if version in PARTS:
        version = _raised(_highest([app.version for app in apps], "version"), PARTS.index(version))
    if build.startswith("+"):
        if not build[1:].isdecimal() or not int(build[1:]):
            raise InputError(f"“{build}” is not a step: a plus sign and a number, such as +1")
        numbers = _highest([app.build for app in apps], "build number")
        build = ".".join(map(str, [*numbers[:-1], numbers[-1] + int(build[1:])]))
    return version, build


def _mine(project: Project, flavor: str) -> list[ShippedApp]:
    """Return the apps of a flavor, all its variants; without one, those of no flavor: their version has no suffix."""
    return variants_with(project, flavor) or list(project.apps)


def _highest(values: Sequence[Value | None], what: str) -> list[int]:
    found = [match for value in values if value is not None and (match := _VERSION.match(value.text))]
    if not found:
        raise InputError(
            f"there is no {what} here to count from", remedy="Give it whole, such as --version 1.0.0 --build 1."
        )
    return max([int(part) for part in match[0].split(".")] for match in found)


def _raised(numbers: list[int], at: int) -> str:
    """Raise one number and begin those after it anew; a version keeps its length, unless it is too short."""
    length = max(len(numbers), at + 1)
    whole = [*numbers, *([0] * (length - len(numbers)))]
    return ".".join(map(str, [*whole[:at], whole[at] + 1, *([0] * (length - at - 1))]))
