"""Write the tables of docs/identity-file.md and docs/checks.md from the data that the program itself uses.

Run: python tools/reference.py [--check]; with --check nothing is written, the exit code says whether they are current
"""

from __future__ import annotations

import re
import sys
from pathlib import Path

from onomaxis.checks.families import FAMILIES
from onomaxis.checks.finding import Rule, all_rules
from onomaxis.cli.words import WORDS
from onomaxis.identity.schema import TABLES, Key

DOCS = Path(__file__).parent.parent / "docs"
_SAID = {"table": "table", "map": "names to ", "list": "list of ", "word": "text"}


def _severity(rule: Rule) -> str:
    return f"{rule.severity} (`--publish`), else note" if rule.publish else rule.severity


def kind(key: Key) -> str:
    """Return what a key takes, in words."""
    if key.kind == "table":
        return f"table, see [{key.of}](#{key.of})"
    if key.kind in ("map", "list"):
        inner = f"[{key.of}](#{key.of})" if key.of in TABLES else key.of
        return f"{_SAID[key.kind]}{inner}"
    return " \\| ".join(f"`{word}`" for word in key.words) or _SAID.get(key.kind, key.kind)


def keys() -> str:
    """Return a table for each table of the identity file."""
    parts = []
    shared = TABLES["app"]
    for name, table in TABLES.items():
        own = {k: v for k, v in table.items() if name == "app" or shared.get(k) is not v}
        mark = ", and:\n\n" if own else ".\n"
        more = "" if len(own) == len(table) else f"All keys of [app](#app){mark}"
        rows = [f"| `{key}` | {kind(item)} | {item.says} |" for key, item in own.items()]
        head = ["| key | takes | meaning |", "| --- | --- | --- |"] if rows else []
        parts.append(f"### {name or 'The file'}\n\n{more}" + "\n".join([*head, *rows]) + "\n")
    return "\n".join(parts)


def rules() -> str:
    """Return a table for each family of rules."""
    parts = []
    for name in dict.fromkeys(FAMILIES.values()):
        own = sorted((rule for rule in all_rules().values() if rule.family == name), key=lambda rule: rule.code)
        rows = [f"| {r.code} | {_severity(r)} | {r.title} | {r.remedy} | {r.source} |" for r in own]
        head = ["| code | severity | what is wrong | what to do | source |", "| --- | --- | --- | --- | --- |"]
        parts.append(f"### {name}\n\n" + "\n".join([*head, *rows]) + "\n")
    return "\n".join(parts)


def words() -> str:
    """Return the glossary as a table."""
    return "\n".join(
        ["| word | what it means here |", "| --- | --- |", *(f"| {word} | {said} |" for word, said in WORDS.items())]
    )


def main() -> int:
    """Write the tables, or compare them."""
    stale = False
    for name, made in (("identity-file.md", keys()), ("checks.md", rules()), ("words.md", words())):
        path = DOCS / name
        text = path.read_text("utf-8")
        new = re.sub(r"(?s)(<!-- made -->\n).*?(<!-- end -->)", lambda m, made=made: f"{m[1]}\n{made}\n{m[2]}", text)
        stale = stale or new != text
        if "--check" not in sys.argv:
            path.write_text(new, "utf-8")
    return int(stale and "--check" in sys.argv)


if __name__ == "__main__":
    sys.exit(main())
