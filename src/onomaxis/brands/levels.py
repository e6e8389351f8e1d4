"""Platform levels of the app itself in one step: what a device needs at least, what the app was made for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from onomaxis.brands.stamp import stamp
from onomaxis.errors import InputError
from onomaxis.identity.schema import NAME
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange

# The table of a value that gives one level; where none is stated, it is made.
_VALUE = '\n[values.{name}]\ntype = "text"\nvalue = "{text}"\nplaces = [{{ level = "{name}", create = true }}]\n'


def plan_levels(tree: Tree, wanted: Mapping[str, str]) -> PlannedChange:
    """Plan levels by their names (``min-sdk``, ``target-sdk``, ``ios``).

    It is what stamping would do with an identity file that says these and nothing else. Raises InputError for a tree
    that has an identity file, and for a project that has no such level.
    """
    if tree.exists(NAME):
        said = "where there is an identity file, a level is a value of it"
        raise InputError(said, file=NAME, remedy='Add a value with places = [{ level = "min-sdk" }], and stamp it.')
    told = "format = 1\n" + "".join(_VALUE.format(name=name, text=text) for name, text in wanted.items())
    try:
        plan = stamp(tree.overlay({NAME: told.encode()}, ()))
    except InputError as error:
        raise InputError(error.message, remedy="Change it where the project's tools state it.") from None
    return replace(
        plan, title=f"levels: {', '.join(wanted)}", nothing="Nothing to change: the levels are so already."
    )
