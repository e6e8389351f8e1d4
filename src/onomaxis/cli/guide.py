"""``onomaxis`` by itself: what the app here is called, and the three commands that fit what was found."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from onomaxis.cli.layout import Cell, blank, pairs, put
from onomaxis.cli.output import make_console
from onomaxis.identity.schema import NAME
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.surveys.root import located
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish


def greet(options: argparse.Namespace) -> bool:
    """Show a short survey with what comes next; return False where no app is here."""
    from onomaxis.errors import OnomaxisError

    found = located(Path(options.project))
    folder = found.root if found is not None else Path(options.project)
    if not is_project(folder):
        return False
    try:
        survey = take_survey(Tree.open(str(folder)))
    except OnomaxisError:
        return False
    if not survey.apps:
        return False
    console = make_console(options)
    folders = {id(app): project.folder or "." for project in survey.projects for app in project.apps}
    for app in survey.apps[:4]:
        version = f"{app.version.text if app.version else '?'} ({app.build.text if app.build else '?'})"
        name = app.name.text if app.name else "no name"
        who = " ".join(item for item in (app.module, app.flavor) if item)
        put(
            console,
            Cell(f"{PLATFORM_NAMES[app.platform]:<8} ", "bold"),
            Cell(f"{app.id.text if app.id else 'no ID'} ", "green"),
            Cell(f" {name}  {version}  {who}"),
            Cell(f"  {folders[id(app)]}" if len(set(folders.values())) > 1 else "", "cyan"),
            hang=2,
        )
    if len(survey.apps) > 4:
        put(console, Cell(f"and {len(survey.apps) - 4} more", "dim"))
    blank(console)
    pairs(console, _next(survey), styles=("bold", ""))
    return True


# What stands in the folder of a project, or in one of its halves; what git keeps is not a whole disk.
_MARKS = (
    ".git",
    "settings.gradle*",
    "build.gradle*",
    "*.xcodeproj",
    "pubspec.yaml",
    "package.json",
    "*.csproj",
    "config.xml",
    NAME,
)
_HALVES = (".", "android", "ios", "app")


def is_project(folder: Path) -> bool:
    """Tell at a glance whether a folder is a project's: no other is searched, be it a whole disk."""
    return any(next((folder / half).glob(mark), None) is not None for half in _HALVES for mark in _MARKS)


def _next(survey: Survey) -> list[tuple[str, str]]:
    """Return three commands that fit."""
    rows = [("onomaxis survey", "where all of this is written, and what disagrees")]
    flavored = any(app.flavor for app in survey.apps)
    if survey.tree.exists(NAME):
        rows.append(("onomaxis stamp --dry-run", "what the identity file would change in the project"))
    elif flavored:
        rows.append(("onomaxis adopt --values", "one file that says what every flavor is called"))
    else:
        rows.append(("onomaxis rename", "another ID, name or version: it asks for what is to change"))
    rows.append(("onomaxis check", "is it consistent, is it ready for the stores"))
    return rows


def asked(survey: Survey, wish: Wish) -> Wish:
    """Ask on the terminal what the app shall be called; an empty answer keeps what there is."""

    app = survey.apps[0] if survey.apps else None
    said = {
        "ID": app.id.text if app and app.id else "",
        "name": app.name.text if app and app.name else "",
        "version": app.version.text if app and app.version else "",
        "build number": app.build.text if app and app.build else "",
    }
    answers = {label: _ask(label, today) for label, today in said.items()}
    id_ = answers["ID"]
    return wish._replace(
        android_id=id_,
        ios_id=id_,
        both_id=id_,
        name=answers["name"] or None,
        version=answers["version"],
        build=answers["build number"],
    )


def _ask(label: str, today: str) -> str:
    print(f"New {label} [{today or 'none'}]: ", end="", file=sys.stderr, flush=True)
    answer = sys.stdin.readline().strip()
    return "" if answer == today else answer
