"""Which shipped apps a revision has otherwise, or has not."""

from __future__ import annotations

from onomaxis.history.differences import Differences, differences
from onomaxis.history.state import State, state_of
from onomaxis.past import tree_at
from onomaxis.tree import Tree


def since(tree: Tree, revision: str) -> tuple[Differences, str]:
    """Return what differs from a revision, and its commit's full name. Raises InputError where git cannot tell."""
    found, _, commit = _compared(tree, revision)
    return found, commit


def _compared(tree: Tree, revision: str) -> tuple[Differences, State, str]:
    past = tree_at(tree.root, revision)
    try:
        now = state_of(tree)
        return differences(state_of(past), now), now, past.commit
    finally:
        past.close()


def changed_apps(tree: Tree, revision: str) -> set[tuple[str, str, str, str]]:
    """Return platform, module, flavor and configuration of each app that differs from a revision, or is new.

    Of an app a part of which differs, the app; one whose facets nobody can tell counts as changed.
    """
    found, state, _ = _compared(tree, revision)
    keys = {(row.platform, row.module, row.flavor, row.configuration) for row in found.rows}
    keys |= {(item.platform, item.module, item.flavor, item.configuration) for item in found.added}
    parts = {(flavor, configuration) for _, _, flavor, configuration in keys}
    own = {(e.platform, e.module, e.flavor, e.configuration) for e in state.entities if not e.part}
    open_ = {(e.platform, e.module, e.flavor, e.configuration) for e in state.entities if not e.part and e.open}
    embedding = {key for key in own if keys - own and key[2:] in parts}
    return (keys & own) | open_ | embedding
