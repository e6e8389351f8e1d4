"""``onomaxis stamp``: makes the project as its identity file says."""

from __future__ import annotations

import argparse

from onomaxis.changes.branding import required_identity
from onomaxis.changes.stamping import Stamping, stamp_identity
from onomaxis.changes.valuing import stamp_values
from onomaxis.cli.session import open_project
from onomaxis.cli.settling import Change, settle
from onomaxis.errors import InputError
from onomaxis.identity.file import IdentityFile
from onomaxis.model import same_flavor


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    file = required_identity(tree)
    flavor = known_flavor(file, options.flavor)
    stamping = Stamping(tree)
    stamp_identity(stamping, file, flavor)
    stamp_values(stamping, file, flavor)
    nothing = f"Nothing to change: the project is as {file.path} says."
    title = f"stamp: {flavor or file.path}"
    return settle(options, tree, Change(title, stamping.changes, stamping.summary, stamping.notes, nothing))


def known_flavor(file: IdentityFile, flavor: str) -> str:
    """Return a flavor as the identity file spells it. Raises InputError when it does not speak of it."""
    if flavor and not any(same_flavor(flavor, name) for name in file.flavors):
        known = ", ".join(file.flavors)
        raise InputError(
            f"{file.path} has no flavor “{flavor}”",
            remedy=f"Its flavors are: {known}." if known else f"Add [flavors.{flavor}] to it.",
        )
    return file.named(flavor) if flavor else ""
