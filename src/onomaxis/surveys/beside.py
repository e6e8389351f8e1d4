"""The files beside a tree's identity file, as what it includes is looked for."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import NamedTuple

from onomaxis.tree import Tree


class Beside(NamedTuple):
    """The files beside a tree's identity file, as what it includes is looked for."""

    tree: Tree
    changed: Mapping[str, bytes] = {}

    def read(self, path: str) -> bytes | None:
        """Return a file's bytes, None where there is none."""
        if path in self.changed:
            return self.changed[path]
        return self.tree.named_file(path)

    def lacking(self, path: str) -> str:
        """Say why a file's bytes cannot be had."""
        return self.tree.lacking(path)

    def matching(self, pattern: str) -> list[str]:
        """Return the files that a path with stars names; a star stands for what is within one folder."""
        parts = [re.escape(part).replace(r"\*", "[^/]*").replace(r"\?", "[^/]") for part in pattern.split("/")]
        wanted = re.compile("/".join(parts))
        head = pattern.partition("*")[0].partition("?")[0].rpartition("/")[0]
        there = {*self.tree.below(head), *self.changed}
        return sorted(path for path in there if wanted.fullmatch(path))
