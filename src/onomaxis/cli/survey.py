"""``onomaxis survey``: the table of shipped apps, mentions, disagreements, what is unresolved."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from onomaxis.cli.output import count, make_console, print_json, section
from onomaxis.cli.session import open_project

if TYPE_CHECKING:
    from rich.console import Console
    from rich.table import Table
    from rich.text import Text

    from onomaxis.model import Mention, Part, ShippedApp, Signing, Value
    from onomaxis.survey.survey import Survey

_FACETS = (("id", "ID"), ("name", "Name"), ("version", "Version"), ("build", "Build"), ("icon", "Icon"))
_NARROW = 130


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    from onomaxis.survey.survey import take_survey  # imported while git lists the files

    survey = take_survey(tree)
    if options.json:
        print_json(as_document(survey))
    else:
        show(make_console(options), survey, options.all)
    return 0


def as_document(survey: Survey) -> dict[str, Any]:
    """Return the survey as the JSON document that docs/json.md describes."""
    return {
        "kinds": list(survey.kinds),
        "apps": [_app(app) for app in survey.apps],
        "mentions": [_mention(item) for item in survey.mentions],
        "disagreements": [
            {"code": d.code, "message": d.message, "at": [{"file": f, "line": n} for f, n in d.at]}
            for d in survey.disagreements
        ],
        "unresolved": [
            {"facet": str(u.facet), "file": u.file, "line": u.line, "text": u.text, "reason": u.reason}
            for u in survey.unresolved
        ],
    }


def _text(value: Value | None) -> str | None:
    return value.text if value else None


def _app(app: ShippedApp) -> dict[str, Any]:
    values = {key: getattr(app, key) for key, _ in _FACETS}
    return {
        "platform": app.platform,
        "module": app.module,
        "flavor": app.flavor,
        "configuration": app.configuration,
        **{key: _text(value) for key, value in values.items()},
        "names": {locale: value.text for locale, value in app.names},
        "origin": {key: value.origin.at for key, value in values.items() if value},
        "signing": _signing(app.signing),
        "launchers": [
            {"component": item.component, "label": item.label.text, "origin": item.label.origin.at}
            for item in app.launchers
        ],
        "parts": [
            {
                "target": p.target,
                "kind": p.kind,
                "id": _text(p.id),
                "name": _text(p.name),
                "version": _text(p.version),
                "build": _text(p.build),
                "signing": _signing(p.signing),
            }
            for p in app.parts
        ],
    }


def _signing(signing: Signing | None) -> dict[str, str] | None:
    """Return how something is signed; what is not set is left out."""
    if signing is None:
        return None
    keys = ("style", "team", "identity", "profile", "versioning")
    return {key: text for key in keys if (text := getattr(signing, key))}


def _signed(survey: Survey) -> Iterator[tuple[str, str]]:
    """Yield a line per way of signing: who is signed so, and how."""
    lines: dict[str, list[str]] = {}
    ways: dict[str, set[str]] = {}
    for app in survey.apps:
        ways.setdefault(app.module, set()).add(str(_signing(app.signing)))
    for app in survey.apps:
        signed = [(app.module if len(ways[app.module]) == 1 else f"{app.module} {app.configuration}", app.signing)]
        signed += [(part.target, part.signing) for part in app.parts]
        for name, signing in signed:
            said = _signing(signing)
            if said:
                lines.setdefault(", ".join(f"{key} {text}" for key, text in said.items()), []).append(name)
    for text, names in lines.items():
        yield ", ".join(dict.fromkeys(names)), text


def _mention(item: Mention) -> dict[str, Any]:
    scope = {key: getattr(item.scope, key) for key in ("platform", "module", "flavor", "configuration", "locale")}
    return {
        "file": item.place.file,
        "line": item.place.line,
        "column": item.place.column,
        "facet": str(item.facet),
        "role": str(item.role),
        "scope": {key: value for key, value in scope.items() if value},
        "written": item.place.written,
        "value": item.value,
        **({"reason": item.reason} if item.reason else {}),
    }


def show(console: Console, survey: Survey, every: bool = False) -> None:
    """Print the survey for people."""
    if survey.apps:
        console.print(_table(survey, console.width))
    else:
        console.print("No app is shipped from here: the projects hold libraries only, or could not be read.")
    roles = Counter(str(mention.role) for mention in survey.mentions)
    files = len({mention.place.file for mention in survey.mentions})
    listed = ", ".join(f"{number} {role}" for role, number in sorted(roles.items()))
    hint = "" if every else "; --all lists them"
    console.print(f"{count(len(survey.mentions), 'mention')} in {count(files, 'file')} ({listed}){hint}")
    if every:
        section(console, "Mentions", ((f"{m.place.at}:{m.place.column}", _said(m)) for m in survey.mentions))
    section(console, "Signing", _signed(survey))
    section(console, "Disagreements", ((f"{d.at[0][0]}:{d.at[0][1]}", d.message) for d in survey.disagreements))
    section(
        console, "Unresolved", ((f"{u.file}:{u.line}", _why(u.facet, u.text, u.reason)) for u in survey.unresolved)
    )


def _why(facet: str, text: str, reason: str) -> str:
    return f"{reason}{f' ({text})' if text else ''}" if facet == "file" else f"{facet}: {reason}"


def _said(mention: Mention) -> str:
    scope = "/".join(
        part
        for part in (mention.scope.module, mention.scope.flavor, mention.scope.configuration, mention.scope.locale)
        if part
    )
    reason = f" — {mention.reason}" if mention.reason else ""
    return f"{mention.role!s:<8}  {mention.facet!s:<22}  {mention.value}{f' [{scope}]' if scope else ''}{reason}"


def _table(survey: Survey, width: int) -> Table:
    from rich import box
    from rich.table import Table

    shown = _FACETS if width >= _NARROW else _FACETS[:4]
    rows: list[list[Text]] = []
    for app in survey.apps:
        cells = [_cell(getattr(app, key), key == "id", 1 if key == "icon" else 2) for key, _ in shown]
        if app.names and app.name:
            cells[1].append("".join(f"\n{locale}: {value.text}" for locale, value in app.names), style="dim")
        rows.append([_label(app), *cells])
        rows += [[_part_label(part), *_part_cells(part, len(shown))] for part in app.parts]
        rows.append([])
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False, header_style="bold", padding=(0, 2, 0, 0))
    titles = ["App", *(title for _, title in shown)]
    for title, columns in zip(titles, _widths(titles, rows, width), strict=True):
        table.add_column(title, overflow="fold", width=columns)
    for row in rows:
        table.add_row(*row)
    return table


def _widths(titles: list[str], rows: list[list[Text]], width: int) -> list[int]:
    """Return the columns' widths: what they need, else the widest give way first, the identifiers' last."""
    from rich.cells import cell_len

    needs = [len(title) for title in titles]
    for row in rows:
        for index, cell in enumerate(row):
            needs[index] = max(needs[index], *(cell_len(line) for line in cell.plain.split("\n")))
    free = width - 2 * len(titles)
    while sum(needs) > free and max(needs) > _LEAST:
        others = [index for index in range(len(needs)) if index != _ID_COLUMN and needs[index] > _LEAST]
        widest = max(others, key=lambda index: needs[index], default=_ID_COLUMN)
        needs[widest] -= 1
    return needs


_ID_COLUMN, _LEAST = 1, 10


def _label(app: ShippedApp) -> Text:
    from rich.text import Text

    platform = {"android": "Android", "ios": "iOS", "tvos": "tvOS", "macos": "macOS", "watchos": "watchOS"}.get(
        app.platform, app.platform
    )
    text = Text(f"{platform} {app.module}", style="bold")
    text.append(f"\n{' '.join(item for item in (app.flavor, app.configuration) if item)}", style="dim not bold")
    return text


def _cell(value: Value | None, strong: bool, segments: int) -> Text:
    from rich.text import Text

    if value is None:
        return Text("—", style="yellow")
    text = Text(value.text, style="green" if strong else "")
    text.append(f"\n{_short(value.origin.file, segments)}:{value.origin.line}", style="dim")
    return text


def _short(path: str, segments: int) -> str:
    """Keep the last *segments* of a path: the table says which file, --json says it in full."""
    parts = path.removesuffix("/project.pbxproj").split("/")
    return "/".join(parts) if len(parts) <= segments else f"…/{'/'.join(parts[-segments:])}"


def _part_label(part: Part) -> Text:
    from rich.text import Text

    return Text(f"  {part.kind} {part.target}", style="dim")


def _part_cells(part: Part, columns: int) -> list[Text]:
    from rich.text import Text

    values = [part.id, part.name, part.version, part.build][:columns]
    cells = [Text(value.text if value else "—", style="dim") for value in values]
    return cells + [Text("")] * (columns - len(cells))
