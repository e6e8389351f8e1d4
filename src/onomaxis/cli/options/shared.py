"""What the commands' options share: the parser, what every command takes, what every command that writes takes."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from typing import Any, NamedTuple, NoReturn

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


class Parser(argparse.ArgumentParser):
    """A parser whose errors are exceptions, so that they can be told in either form."""

    def __init__(self, *words: Any, **named: Any) -> None:
        """Take what an argparse parser takes; an option is written in full, so that a later one changes no script."""
        super().__init__(*words, **{"allow_abbrev": False, **named})
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


class Option(NamedTuple):
    """An option, or an argument without a dash, as argparse takes it.

    Of those that are ``one_of`` one number only one may be given; a ``section`` stands apart in the help.
    """

    names: tuple[str, ...]
    given: Mapping[str, Any]
    one_of: int = 0
    section: str = ""


class Command(NamedTuple):
    """A command: what it does in a line, what more is to be said, its options; or the commands that are inside it."""

    summary: str
    more: str
    options: tuple[Option, ...]
    inner: Mapping[str, Command] = {}


def argument(name: str, metavar: str | None, says: str, **more: Any) -> Option:
    """Return a word of the command line that no option stands before."""
    return Option((name,), {"metavar": metavar, "help": says, **more})


def flag(name: str, says: str, one_of: int = 0, section: str = "") -> Option:
    """Return an option that is given or not."""
    return Option((name,), {"action": "store_true", "help": says}, one_of, section)


def text(
    name: str,
    metavar: str | None,
    says: str,
    default: Any = "",
    one_of: int = 0,
    section: str = "",
    also: str = "",
    **more: Any,
) -> Option:
    """Return an option that takes one value; *also* is a second name."""
    names = (name, also) if also else (name,)
    return Option(names, {"metavar": metavar, "default": default, "help": says, **more}, one_of, section)


def several(name: str, metavar: str | None, says: str, **more: Any) -> Option:
    """Return an option that may be given again and again."""
    return Option((name,), {"metavar": metavar, "action": "append", "default": [], "help": says, **more})


def flavors(says: str) -> Option:
    """Return what selects a flavor, or by several of them what they have in common."""
    told = f"{says}; of several, what they have in common"
    return Option(("--flavor",), {"metavar": "F", "default": "", "action": Together, "help": told})


# What every command takes; COMMON is for those of a project.
BARE = (
    flag("--json", "one JSON document on standard output, nothing else"),
    flag("--quiet", "no messages besides errors and results"),
    flag("--no-color", "no colour (NO_COLOR and a pipe do the same)"),
    text("--color", None, "colour (default: on a terminal)", choices=("auto", "always", "never"), default="auto"),
    flag("--debug", "show where a fault of Onomaxis happened"),
)
COMMON = (
    argument("project", "PROJECT", "folder (default: this one)", nargs="?", default=HERE),
    flag("--here", "only this folder, also where it is part of a build"),
    *BARE,
)
# What every command that writes takes; PUBLISHED is for those that can lose a published app.
WRITING = (
    flag("--dry-run", "print the diff, moves and new files; write nothing"),
    flag("--allow-dirty", "also touch files with uncommitted changes"),
    flag("--yes", "do not ask before writing"),
    flag("--all", "list every file, note and place that is left"),
)
PUBLISHED = (flag("--published", "change the ID or lower the build of an app that was published"), *WRITING)
# The rule stands in docs/promises.md too.
_ASKING = (
    "On a terminal it asks before it changes the project; a piped answer is read. Where there is neither and without "
    "--yes, it changes only files that a git work tree holds as they are. What you name the place of (--out) needs "
    "no answer."
)


def add_command(commands: Commands, name: str, row: Command) -> None:
    """Add a command with its options, and those that are inside it."""
    summary, more, options, inner = row
    parser: argparse.ArgumentParser = commands.add_parser(
        name,
        help=summary,
        description=f"{summary[:1].upper()}{summary[1:]}. {more}".strip(),
        epilog=_ASKING if all(option in options for option in WRITING) else None,
    )
    apart: dict[int | str, Any] = {0: parser}
    for option in options:
        key: int | str = option.one_of or option.section or 0
        if key not in apart:
            exclusive, section = parser.add_mutually_exclusive_group, parser.add_argument_group
            apart[key] = exclusive() if option.one_of else section(option.section)
        apart[key].add_argument(*option.names, **option.given)
    if not inner and not all(option in options for option in BARE):
        parser.set_defaults(json=False, quiet=False, no_color=False, debug=False)
    if inner:
        below = parser.add_subparsers(dest="what", metavar="WHAT", required=True)
        for inside, told in inner.items():
            add_command(below, inside, told)
