"""What a check finds now and did not find at a revision: a team can start with a project that is not right yet."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.checks.finding import Finding, with_causes
from onomaxis.checks.inspection import look_over
from onomaxis.past import tree_at
from onomaxis.tree import Tree


class Fresh(NamedTuple):
    """What is new since a revision, and how many findings were there already."""

    findings: tuple[Finding, ...]
    known: int


def fresh(
    tree: Tree, found: Sequence[Finding], revision: str, only: Sequence[str], flavor: str, publish: bool
) -> Fresh:
    """Return the findings that *revision* did not have. Raises InputError where git does not know it.

    A finding is the same one wherever it moved within its file.
    """
    past = tree_at(tree.root, revision)
    try:
        before, _ = look_over(past, only, "", publish)  # a flavor may be new since then
    finally:
        past.close()
    left = Counter(map(_key, before))
    kept = []
    for item in found:
        if left[_key(item)]:
            left[_key(item)] -= 1
        else:
            kept.append(item)
    return Fresh(tuple(with_causes(kept)), len(found) - len(kept))


def _key(item: Finding) -> tuple[str, str, str]:
    return item.rule.code, item.message, item.at[0][0] if item.at else ""
