"""``onomaxis completion``: what makes a shell complete commands, options and their values."""

from __future__ import annotations

import argparse
import sys

SHELLS = ("bash", "zsh", "fish", "powershell")


def execute(options: argparse.Namespace) -> int:
    """Print the shell's own lines."""
    from argcomplete.shell_integration import shellcode

    sys.stdout.write(shellcode(["onomaxis"], shell=options.shell) + "\n")
    return 0


def flavors(prefix: str, parsed_args: argparse.Namespace, **_: object) -> list[str]:
    """Return the flavors of the project that the command line names so far."""
    from onomaxis.survey.survey import read_projects
    from onomaxis.tree import Tree

    try:
        projects = read_projects(Tree.open(getattr(parsed_args, "project", None) or "."))
        found = {app.flavor for project in projects for app in (*project.apps, *project.brands())}
    except Exception:  # completing says nothing, whatever is wrong
        return []
    return sorted(name for name in found if name and name.startswith(prefix))


def apps(prefix: str, parsed_args: argparse.Namespace, **_: object) -> list[str]:
    """Return the modules, targets and IDs of the project's apps."""
    from onomaxis.survey.survey import read_projects
    from onomaxis.tree import Tree

    try:
        projects = read_projects(Tree.open(getattr(parsed_args, "project", None) or "."))
        found = {name for p in projects for app in p.apps for name in (app.module, app.id.text if app.id else "")}
    except Exception:  # completing says nothing, whatever is wrong
        return []
    return sorted(name for name in found if name and name.startswith(prefix))


def rules(prefix: str, **_: object) -> list[str]:
    """Return the codes of all rules."""
    from onomaxis.checks.registry import every_rule

    return [rule.code for rule in every_rule() if rule.code.startswith(prefix.upper())]
