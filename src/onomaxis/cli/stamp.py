"""``onomaxis stamp``: makes the project as its identity file says."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import required_identity
from onomaxis.cli.flow import carry_through, plain_view
from onomaxis.cli.icons import drawing
from onomaxis.cli.session import open_to_write
from onomaxis.errors import InputError
from onomaxis.identity.file import IdentityFile
from onomaxis.model import same_flavor


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_to_write(options)
    file = required_identity(tree)
    flavor = known_flavor(file, options.flavor)
    with drawing(options) as tick:
        plan = stamp(tree, flavor, service_files(options.service), tick)
    return carry_through(options, tree, plan, plain_view())


def service_files(paths: Sequence[str]) -> list[tuple[str, bytes]]:
    """Read newly downloaded service files. Raises InputError for one that cannot be read."""
    found = []
    for path in paths:
        try:
            found.append((path, Path(path).read_bytes()))
        except OSError as error:
            raise InputError(f"the service file cannot be read: {error.strerror}", file=path) from None
    return found


def known_flavor(file: IdentityFile, flavor: str) -> str:
    """Return a flavor as the identity file spells it. Raises InputError when it does not speak of it."""
    if flavor and not any(same_flavor(flavor, name) for name in file.flavors):
        known = ", ".join(file.flavors)
        raise InputError(
            f"{file.path} has no flavor “{flavor}”",
            remedy=f"Its flavors are: {known}." if known else f"Add [flavors.{flavor}] to it.",
        )
    return file.named(flavor) if flavor else ""
