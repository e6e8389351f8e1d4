"""Rules about the files themselves: what cannot be read says nothing, and that is not the same as being right."""

from __future__ import annotations

import traceback
from collections.abc import Iterator
from pathlib import PurePath

from onomaxis.checks.context import Context
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import Check, check
from onomaxis.errors import InputError, RefusedError

UNREADABLE = rule("FILE01")
FAILED = rule("FILE02")


UNRESOLVED = rule("FILE03")


@check(UNREADABLE, FAILED, UNRESOLVED)
def check_files(context: Context) -> Iterator[Finding]:
    """Name the files that could not be read; one that is whole, and not edited for its form or size, is none."""
    for project in context.projects:
        for item in project.unresolved:
            if item.whole and not item.text:
                yield Finding(UNREADABLE, item.reason, ((item.file, item.line),))
    for path, reason in sorted(context.tree.unreadable.items()):
        line = context.tree.unmerged.get(path, 0)
        if path not in context.tree.large:
            yield Finding(UNRESOLVED if line else UNREADABLE, reason, ((path, line),))


def tried(item: Check, context: Context) -> list[Finding]:
    """Return what a check finds; where it meets a file that it cannot read, or fails, that is what was found."""
    found: list[Finding] = []
    try:
        found.extend(item(context))
    except (InputError, RefusedError) as error:
        at = ((error.file, error.line),) if error.file else ()
        found.append(Finding(UNREADABLE, error.message, at))
    except Exception as fault:
        # Where it failed, not what it says: that may hold what stands in a file, secrets too.
        where = traceback.extract_tb(fault.__traceback__)[-1]
        said = f"{type(fault).__name__} in {where.name} ({PurePath(where.filename).name}:{where.lineno})"
        found.append(Finding(FAILED, f"{', '.join(rule.code for rule in item.rules)}: {said}", ()))
    return found
