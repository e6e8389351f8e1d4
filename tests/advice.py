"""Judges what the program advises: every option that it names, a command that it is said of has."""

from __future__ import annotations

import argparse
import re
from collections.abc import Mapping
from functools import cache

from onomaxis.cli.arguments import build_parser

_OPTION = re.compile(r"(?<![\w\[|-])--[a-z][a-z-]+")
_COMMAND = re.compile(r"\bonomaxis ([a-z]+)(?: ([a-z]+))?")


@cache
def options() -> Mapping[str, frozenset[str]]:
    """Return the options of every command; those of commands of a command under both names."""
    found: dict[str, frozenset[str]] = {}

    def gather(parser: argparse.ArgumentParser, name: str) -> None:
        found[name] = frozenset(parser._option_string_actions) | found.get(name.partition(" ")[0], frozenset())
        for action in parser._actions:
            if isinstance(action, argparse._SubParsersAction):
                for word, inner in action.choices.items():
                    gather(inner, f"{name} {word}".strip())

    gather(build_parser(), "")
    return found


def misadvised(words: list[str], said: str) -> list[str]:
    """Return the options in what was said that neither the command has, nor the one that the line names before them."""
    known = options()
    wrong = []
    told = (line for line in said.splitlines() if "unrecognized arguments" not in line and "`" not in line)
    for line in told:  # what the user typed, and documents of the project, are no advice
        for match in _OPTION.finditer(re.sub(r"^diff --git.*|logcat --pid|\bgit [a-z]+ --[a-z-]+(?: --[a-z-]+)*", "", line)):
            if any(match[0] in word for word in words):
                continue  # what the user typed is told back
            named = [item for item in _COMMAND.finditer(line[: match.start()]) if item[1] in known]
            command = [*named[-1].groups()] if named else words[:2]
            name = " ".join(word for word in command if word)
            if words[0] == "demo" and any(match[0] in every for every in known.values()):
                continue  # it runs the others
            if match[0] not in known.get(name, known.get(command[0] or "", frozenset())):
                wrong.append(f"{match[0]} of {name}: {line.strip()}")
    return wrong
