"""Bundle identifiers that were made from an app's without lying below it: those of test bundles."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from onomaxis import late
from onomaxis.model import Edit, Facet
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming

# What test bundles are called that were made beside an app: its ID and a word, without a dot between.
_TESTS = late.compile(r"[-_]?\w*tests?\Z", re.IGNORECASE)


def derived_tests(tree: Tree, project: Project, renamings: Sequence[Renaming]) -> Iterator[Edit]:
    """Yield what keeps a test bundle's ID in step: ``com.example.AppTests`` beside ``com.example.App``."""
    shipped = {app.module for app in project.apps}
    for owner in project.owners:
        if owner.facet is not Facet.BUNDLE_ID or owner.owner is None or owner.scope.module in shipped:
            continue
        for item in renamings:
            rest = owner.value.removeprefix(item.old)
            if item.facet is Facet.BUNDLE_ID and rest != owner.value and _TESTS.match(rest):
                yield rewrite(tree, Facet.BUNDLE_ID, owner.owner, item.new + rest).edit
