"""Platform levels of the app itself in one step: what a device needs at least, what the app was made for."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import replace

from onomaxis import late
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import OWN_KEY, subjects_called
from onomaxis.errors import InputError
from onomaxis.identity.schema import NAME
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange

# Whose a level is, by the name that identity files have for it.
LEVELS = {"min-sdk": "android", "target-sdk": "android", "ios": "ios"}
_FORM = late.compile(r"[1-9]\d{0,3}(?:\.\d{1,3}){0,2}", re.ASCII)
# The table of a value that gives one level; where none is stated, it is made.
_VALUE = """
[values.{name}]
type = "text"
value = {text}
places = [{{ level = "{name}", create = true }}]
"""


def plan_levels(tree: Tree, wanted: Mapping[str, str], app: str = "") -> PlannedChange:
    """Plan levels by their names (``min-sdk``, ``target-sdk``, ``ios``); *app* names one of several.

    It is what stamping would do with an identity file that says these and nothing else. Raises InputError for a text
    that is not a level, for a tree that has an identity file, and where no app is there or none has such a level.
    """
    if tree.exists(NAME):
        said = f"{NAME} is there: a level is a value of it"
        raise InputError(said, file=NAME, remedy='Add a value with places = [{ level = "min-sdk" }], and stamp it.')
    projects = read_projects(tree)
    named = {item.platform for item in subjects_called(projects, app)} if app else set()
    there = named or {app.platform for project in projects for app in project.apps}
    for name, text in wanted.items():
        if not _FORM.fullmatch(text):
            raise InputError(f"“{text}” is not a level such as 26 or 16.4")
        if LEVELS[name] not in there:
            raise InputError(f"there is no {PLATFORM_NAMES[LEVELS[name]]} app here whose level could be set")
    told = "format = 1\n" + "".join(f"[{item}]\n{OWN_KEY[item]} = {json.dumps(app)}\n" for item in sorted(named))
    told += "".join(_VALUE.format(name=name, text=json.dumps(text)) for name, text in wanted.items())
    try:
        plan = stamp(tree.overlay({NAME: told.encode()}, ()))
    except InputError as error:
        raise InputError(
            error.message, remedy="Change the level in the file where the project's tools keep it."
        ) from None
    nothing = "Nothing to change: the project has these levels already."
    return replace(plan, title=f"levels: {', '.join(wanted)}", nothing=nothing)
