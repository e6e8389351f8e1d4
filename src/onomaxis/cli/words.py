"""What the messages mean by a word: the glossary of ``onomaxis --words`` and of docs/words.md."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

WORDS: Mapping[str, str] = MappingProxyType(
    {
        "app": "one thing that can be installed, on one platform: what a module or a target builds",
        "flavor": "one value of what a build varies: a brand, an environment, a tier (Gradle calls it so; in Xcode "
        "it is what configurations or targets are named after)",
        "variant": "what is built of one flavor of each dimension together, such as mossgateStaging",
        "brand": "a flavor that is a customer or a neighbourhood of its own, and what the identity file says of it",
        "identity file": "onomaxis.toml: the IDs, names, looks and values of the apps and their brands",
        "survey": "the reading of a project: which apps it builds, and the ID, name and version of each after all "
        "variables and includes",
        "mention": "one place in a file that contains an ID, a name, a version or a build number",
        "owner": "a mention that decides: the app's ID, name or version is read from it",
        "follower": "a mention that must agree with an owner, and is changed with it",
        "residue": "a mention of the old identity that a change leaves in place, with the reason",
        "stamp": "to apply the identity file to the project",
        "ledger": "onomaxis.ledger.csv: one row for each published build, so that no number is used twice",
        "place of a value": "where a brand's value is in the project: a resource, a key of a property list, a "
        "constant, a file",
        "finding": "a problem that check or inspect reports, with its rule, its places and what to do",
        "allowance": "an entry of the identity file that says a finding is intended; it is not shown then",
    }
)


class ShowWords(argparse.Action):
    """Prints the glossary and ends, as ``--version`` does."""

    def __call__(self, parser: argparse.ArgumentParser, *_: Any) -> None:
        """Print each word with its meaning, as wide as the help."""
        import shutil
        import textwrap

        width = max(shutil.get_terminal_size().columns - 2, 40)
        for word, meaning in WORDS.items():
            print(textwrap.fill(meaning, width, initial_indent=f"{word:18}", subsequent_indent=" " * 18))
        parser.exit()
