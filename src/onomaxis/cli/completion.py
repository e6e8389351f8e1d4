"""``onomaxis completion``: what makes a shell complete commands, options and their values."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from onomaxis.projects.project import Project

SHELLS = ("bash", "zsh", "fish", "powershell")


def execute(options: argparse.Namespace) -> int:
    """Print the shell's own lines."""
    from argcomplete.shell_integration import shellcode

    sys.stdout.write(shellcode(["onomaxis"], shell=options.shell) + "\n")
    return 0


def flavors(prefix: str, parsed_args: argparse.Namespace, **_: object) -> list[str]:
    """Return the flavors of the project that the command line names so far."""
    return _named(prefix, parsed_args, lambda p: (app.flavor for app in (*p.apps, *p.brands())))


def apps(prefix: str, parsed_args: argparse.Namespace, **_: object) -> list[str]:
    """Return the modules, targets and IDs of the project's apps."""
    return _named(
        prefix, parsed_args, lambda p: (t for app in p.apps for t in (app.module, app.id.text if app.id else ""))
    )


def _named(prefix: str, parsed_args: argparse.Namespace, names: Callable[[Project], Iterable[str]]) -> list[str]:
    from onomaxis.surveys.survey import read_projects
    from onomaxis.tree import Tree

    try:
        projects = read_projects(Tree.open(getattr(parsed_args, "project", None) or "."))
        found = {name for project in projects for name in names(project)}
    except Exception:  # completing says nothing, whatever is wrong
        return []
    return sorted(name for name in found if name and name.startswith(prefix))


def rules(prefix: str, **_: object) -> list[str]:
    """Return the codes of all rules."""
    from onomaxis.checks.finding import all_rules

    return [code for code in all_rules() if code.startswith(prefix.upper())]
