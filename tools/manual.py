"""Write the manual page, docs/onomaxis.1, from the help of every command; --check says whether it is current."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from pathlib import Path

from onomaxis import __version__
from onomaxis.cli.arguments import build_parser

PAGE = Path(__file__).parent.parent / "docs" / "onomaxis.1"


def escaped(text: str) -> str:
    """Return a text in which nothing is a request or an escape (groff_man(7))."""
    plain = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{plain}" if plain[:1] in (".", "'") else plain


def options(parser: argparse.ArgumentParser) -> Iterator[str]:
    """Yield the arguments and options of a command."""
    for action in parser._actions:
        if isinstance(action, (argparse._SubParsersAction, argparse._HelpAction)):
            continue
        choices = "|".join(map(str, action.choices)) if action.choices else ""
        value = str(action.metavar or choices or action.dest.upper()) if action.nargs != 0 else ""
        name = ", ".join(action.option_strings) or value
        shown = f"{name} {value}".strip() if action.option_strings else name
        yield f".TP\n.B {escaped(shown)}\n{escaped((action.help or '').replace('%%', '%'))}"


def commands(parser: argparse.ArgumentParser, name: str) -> Iterator[str]:
    """Yield the sections of a command, and of the commands in it."""
    inner = next((a for a in parser._actions if isinstance(a, argparse._SubParsersAction)), None)
    if name != "onomaxis":
        yield f".SS {escaped(name)}\n{escaped(parser.description or '')}"
        yield from options(parser)
    for word, one in inner.choices.items() if inner is not None else ():
        yield from commands(one, f"{name} {word}")


def page() -> str:
    """Return the whole page."""
    parser = build_parser()
    head = f'.TH ONOMAXIS 1 "" "onomaxis {__version__}" "User Commands"'
    about = (parser.description or "").rstrip(".")
    parts = [head, f".SH NAME\nonomaxis \\- {escaped(about[:1].lower() + about[1:])}"]
    parts += [".SH SYNOPSIS\n.B onomaxis\n.I COMMAND\n[\n.I PROJECT\n] [options]", ".SH COMMANDS"]
    parts += commands(parser, "onomaxis")
    parts += [f".SH EXIT STATUS\n{escaped(parser.epilog or '')}"]
    return "\n".join(parts) + "\n"


def main() -> int:
    """Write the page, or compare it."""
    text = page()
    if "--check" in sys.argv[1:]:
        return 0 if PAGE.exists() and PAGE.read_text("utf-8") == text else 1
    PAGE.write_text(text, "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
