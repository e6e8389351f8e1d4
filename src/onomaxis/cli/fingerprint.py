"""``onomaxis fingerprint``: the certificates of a keystore, and which of the project's files name them."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from onomaxis.brands.subjects import load_identity
from onomaxis.checks.certificates import Trust, trusted
from onomaxis.cli.layout import Cell, pairs, put
from onomaxis.cli.output import make_console, print_json, section
from onomaxis.cli.session import open_project
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.keystore import Certificate, read_keystore
from onomaxis.paths import read_named

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    path = Path(options.keystore)
    try:
        data = read_named(path)
    except OSError as error:
        raise InputError(f"the keystore cannot be read: {error.strerror}", file=options.keystore) from None
    try:
        certificates = read_keystore(data, _password(options))
    except FormatError as error:
        raise InputError(error.message, file=options.keystore) from None
    if options.alias:
        chosen = tuple(item for item in certificates if item.alias == options.alias)
        if not chosen:
            known = ", ".join(item.alias for item in certificates)
            raise InputError(
                f"there is no alias “{options.alias}”", file=options.keystore, remedy=f"There are: {known}."
            )
        certificates = chosen
    tree = open_project(options)
    places = trusted(tree, load_identity(tree), certificates)
    if options.json:
        print_json(
            {"certificates": [_as_json(item) for item in certificates], "places": [vars_of(p) for p in places]}
        )
        return 0
    _show(make_console(options), certificates, places)
    return 0


def _password(options: argparse.Namespace) -> str:
    """Ask for the password, or take it from the environment or a file: never from the command line."""
    if options.password_env:
        found = os.environ.get(options.password_env)
        if found is None:
            said = f"the environment has no variable {options.password_env}"
            raise InputError(said, remedy="Set it, or give the password with --password-file FILE.")
        return found
    if options.password_file:
        try:
            with Path(options.password_file).open(encoding="utf-8") as handle:  # a pipe will do
                return handle.read(1 << 16).splitlines()[0]
        except (OSError, UnicodeDecodeError, IndexError):
            raise InputError("the password file cannot be read, or is empty", file=options.password_file) from None
    if not sys.stdin.isatty():
        raise InputError(
            "there is no terminal to ask for the password", remedy="Give --password-env NAME or --password-file FILE."
        )
    import getpass

    return getpass.getpass("Password of the keystore: ")


def _as_json(item: Certificate) -> dict[str, Any]:
    return {
        "alias": item.alias,
        "kind": "debug" if item.debug else "release",
        "signs": item.signs,
        "subject": item.subject,
        "sha1": item.sha1,
        "sha256": item.sha256,
        "key_hash": item.key_hash,
    }


def vars_of(place: Trust) -> dict[str, Any]:
    """Return one place as JSON."""
    return {
        "file": place.file,
        "line": place.line,
        "app": place.app,
        "aliases": list(place.aliases),
        "other_certificates": place.others,
    }


def _show(console: SafeConsole, certificates: Sequence[Certificate], places: Sequence[Trust]) -> None:
    for item in certificates:
        kind = "debug" if item.debug else "release" if item.signs else "certificate only"
        style = "yellow" if item.debug else "green"
        put(
            console, Cell(f"{item.alias} ", "bold"), Cell(f" {kind} ", style), Cell(f" {item.subject}", "dim"), hang=2
        )
        hashes = (("SHA-1", item.sha1), ("SHA-256", item.sha256), ("key hash", item.key_hash))
        pairs(console, hashes, styles=("", ""))
    kinds = {item.alias: item.debug for item in certificates}
    silent = [place for place in places if not place.aliases and not place.others]
    section(
        console,
        "Named in the project",
        [(f"{place.file}:{place.line}", _said(place, kinds)) for place in places if place not in silent],
    )
    files = dict.fromkeys(place.file for place in silent)
    rows = [(file, ", ".join(place.app for place in silent if place.file == file)) for file in files]
    section(console, "Apps without a certificate in any file", rows)
    if not places:
        put(console, Cell("No file of the project names a certificate of this keystore."))


def _said(place: Trust, debug: dict[str, bool]) -> str:
    others = f", {place.others} of other keystores" if place.others else ""
    if place.aliases:
        names = ", ".join(f"{alias} (debug)" if debug[alias] else alias for alias in place.aliases)
        return f"{place.app}: names {names}{others}"
    return f"{place.app}: names none of these{others}"
