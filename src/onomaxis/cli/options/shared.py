"""What the commands' options share: the parser, what every command takes, what every command that writes takes."""

from __future__ import annotations

import argparse
from typing import Any, NoReturn

from onomaxis.errors import UsageError

Commands = Any  # argparse keeps the type of its sub-parser action private


class Once(argparse._StoreAction):
    """An option that takes one value: of two, none is taken for the one that was meant."""

    def __call__(
        self, parser: argparse.ArgumentParser, namespace: Any, values: Any, option_string: Any = None
    ) -> None:
        """Keep the value. Ends in a usage error where there is another one already."""
        given = namespace.__dict__.setdefault("given", {})
        if option_string and given.setdefault(self.dest, values) != values:
            parser.error(f"{option_string} is given twice, as {given[self.dest]} and as {values}: give one of them")
        super().__call__(parser, namespace, values, option_string)


class Together(argparse._StoreAction):
    """An option for one flavor of each dimension: several are one combination, called as Gradle would call it."""

    def __call__(
        self, parser: argparse.ArgumentParser, namespace: Any, values: Any, option_string: Any = None
    ) -> None:
        """Keep the value, behind those before it."""
        given = getattr(namespace, self.dest) or ""
        fresh = given and given.casefold() != values.casefold()
        super().__call__(parser, namespace, f"{given}{values[:1].upper()}{values[1:]}" if fresh else values)


def flavors(parser: argparse.ArgumentParser, says: str) -> None:
    """Add what selects a flavor, or by several of them what they have in common."""
    parser.add_argument(
        "--flavor", metavar="F", default="", action=Together, help=f"{says}; of several, what they have in common"
    )


class Parser(argparse.ArgumentParser):
    """A parser whose errors are exceptions, so that they can be told in either form."""

    def __init__(self, *words: Any, **named: Any) -> None:
        """Take what an argparse parser takes."""
        super().__init__(*words, **named)
        for name in (None, "store"):
            self.register("action", name, Once)

    def error(self, message: str) -> NoReturn:
        """Raise UsageError."""
        raise UsageError(message, self.format_usage())

    def parse_args(self, args: Any = None, namespace: Any = None) -> Any:
        """Parse a command line; a project may stand behind the options, also where a name stands before them."""
        found, rest = self.parse_known_args(args, namespace)
        if len(rest) == 1 and not rest[0].startswith("-") and getattr(found, "project", None) is HERE:
            found.project = rest[0]
        elif rest:
            from onomaxis.identity.schema import nearest

            meant = self._called(list(args or ()))
            known = [option for action in meant._actions for option in action.option_strings]
            near = {word: nearest(word.partition("=")[0], known) for word in rest if word.startswith("-")}
            guess = ", ".join(option for option in near.values() if option)
            meant.error(f"unrecognized arguments: {' '.join(rest)}{f' (did you mean {guess}?)' if guess else ''}")
        return found

    def _called(self, words: list[str]) -> Parser:
        """Return the parser of the command that a command line calls."""
        parser = self
        for word in words:
            inner = next((a for a in parser._actions if isinstance(a, argparse._SubParsersAction)), None)
            if inner is None or word not in inner.choices:
                break
            parser = inner.choices[word]
        return parser


class _Default(str):
    """A default that is told from the same text on the command line."""

    __slots__ = ()


HERE = _Default(".")


def command(commands: Commands, name: str, summary: str, more: str = "") -> argparse.ArgumentParser:
    """Add a command, described by a line and what more is to be said."""
    parser: argparse.ArgumentParser = commands.add_parser(
        name, help=summary, description=f"{summary[:1].upper()}{summary[1:]}. {more}".strip()
    )
    return parser


def common(parser: argparse.ArgumentParser, project: bool = True) -> None:
    """Add what every command takes."""
    if project:
        parser.add_argument("project", nargs="?", default=HERE, metavar="PROJECT", help="folder (default: this one)")
        parser.add_argument("--here", action="store_true", help="only this folder, also where it is part of a build")
    parser.add_argument("--json", action="store_true", help="one JSON document on standard output, nothing else")
    parser.add_argument("--quiet", action="store_true", help="no messages besides errors and results")
    parser.add_argument("--no-color", action="store_true", help="no colour (NO_COLOR and a pipe do the same)")
    parser.add_argument(
        "--color", choices=("auto", "always", "never"), default="auto", help="colour (default: on a terminal)"
    )
    parser.add_argument("--debug", action="store_true", help="show where a fault of Onomaxis happened")


# The rule stands in docs/promises.md too.
_ASKING = (
    "On a terminal it asks before it changes the project; a piped answer is read. Where there is neither and without "
    "--yes, it changes only files that a git work tree holds as they are. What you name the place of (--out) needs "
    "no answer."
)


def writing(parser: argparse.ArgumentParser, published: bool = False) -> None:
    """Add what every command that writes takes."""
    parser.epilog = _ASKING
    if published:
        parser.add_argument(
            "--published", action="store_true", help="change the ID or lower the build of an app that was published"
        )
    parser.add_argument("--dry-run", action="store_true", help="print the diff, moves and new files; write nothing")
    parser.add_argument("--allow-dirty", action="store_true", help="also touch files with uncommitted changes")
    parser.add_argument("--yes", action="store_true", help="do not ask before writing")
    parser.add_argument("--all", action="store_true", help="list every file, note and place that is left")
