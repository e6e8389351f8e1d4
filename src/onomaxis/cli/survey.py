"""``onomaxis survey``: the table of shipped apps, mentions, disagreements, what is unresolved."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from onomaxis.cli.layout import Cell, below, blank, blocks, columns, heading, listed, put, table
from onomaxis.cli.output import count, make_console, print_json, section
from onomaxis.cli.progress import working
from onomaxis.cli.session import named_flavor, open_project, selection
from onomaxis.errors import InputError, OnomaxisError
from onomaxis.flavor_names import selects
from onomaxis.identity.schema import NAME
from onomaxis.model import UNMERGED
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import apps_called

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole
    from onomaxis.model import Mention, ShippedApp, Signing, Value
    from onomaxis.surveys.survey import Survey
    from onomaxis.surveys.variants import Variant

_FACETS = (("id", "ID"), ("name", "Name"), ("version", "Version"), ("build", "Build"), ("icon", "Icon"))
# Up to so many apps each is a block; so many places of a facet are shown without --origins.
_FEW, _SHOWN = 3, 8
# Where values begin, and how far they reach where there is room.
_LABEL, _VALUE = 11, 34


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    if options.since:
        from onomaxis.cli.changed import since

        return since(options, tree)
    if options.history:
        from onomaxis.cli.changed import history

        return history(options, tree)
    if options.facet:
        raise InputError("--facet is one of a history", remedy="Give --history with it.")
    if options.guard or options.exit_code or options.form != "text":
        raise InputError("--guard, --exit-code and --as are about changes", remedy="Give --since REV with them.")
    from onomaxis.surveys.survey import take_survey  # imported while git lists the files

    with working(options, "Looking through the project"):
        whole = take_survey(tree)
    options.flavor = named_flavor(tree, options.flavor)
    survey, brand = _narrowed(options, whole), _brand(whole)
    if options.json:
        print_json(as_document(survey) | ({"brand": brand} if brand else {}))
    else:
        show(make_console(options), survey, options.all, options.origins, brand, options.flavor)
    return 0


def _brand(survey: Survey) -> str:
    """Return the brand that the whole tree is today; none where the build knows flavors, or nothing can be told."""
    if not survey.tree.exists(NAME) or any(app.flavor for app in survey.apps):
        return ""
    from onomaxis.brands.tree_brand import flavor_here

    try:
        return flavor_here(survey.tree, survey.projects, "")[1]
    except OnomaxisError:
        return ""  # what is not right with the identity file is for check to say


def _narrowed(options: argparse.Namespace, survey: Survey) -> Survey:
    """Return the survey of the apps that are asked for. Raises InputError where there is none."""
    if not (options.app or options.flavor or options.platform):
        return survey
    called = (
        [app for project in survey.projects for app in apps_called(project, options.app)] if options.app else None
    )
    from onomaxis.surveys.flavors import flavors_of

    brands = flavors_of(survey.projects)
    kept = [
        app
        for app in survey.apps
        if (called is None or app in called)
        and (not options.platform or app.platform == options.platform)
        and (not options.flavor or selects(options.flavor, app.variant, brands))
    ]
    if not kept:
        known = listed(
            sorted({app.module for app in survey.apps} | {app.flavor for app in survey.apps if app.flavor}), 8
        )
        raise InputError(
            "no app here has this ID or name", remedy=f"There are: {known}." if known else "No app is built here."
        )
    narrowed = (replace(p, apps=tuple(app for app in p.apps if app in kept)) for p in survey.projects)
    return replace(survey, projects=tuple(narrowed))


def as_document(survey: Survey) -> dict[str, Any]:
    """Return the survey as the JSON document that docs/json.md describes."""
    from onomaxis.surveys.survey import unstated

    return {
        "kinds": list(survey.kinds),
        "apps": [_app(app, variant) for app, variant in zip(survey.apps, survey.variants, strict=True)],
        "mentions": [_mention(item) for item in survey.mentions],
        "disagreements": [
            {"code": d.code, "message": d.message, "at": [{"file": f, "line": n} for f, n in d.at]}
            for d in survey.disagreements
        ],
        "unresolved": [
            {"facet": str(u.facet), "file": u.file, "line": u.line, "text": u.text, "reason": u.reason}
            for u in (*survey.unresolved, *unstated(survey.projects))
        ],
    }


def _text(value: Value | None) -> str | None:
    return value.text if value else None


def _app(app: ShippedApp, variant: Variant) -> dict[str, Any]:
    values = {key: getattr(app, key) for key, _ in _FACETS}
    return {
        "platform": app.platform,
        "module": app.module,
        "flavor": app.flavor,
        "flavors": dict(variant.flavors),
        "variant": variant.name,
        "build_type": variant.build_type,
        "ships": app.ships,
        "key": variant.key,
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


def show(
    console: SafeConsole,
    survey: Survey,
    every: bool = False,
    origins: bool = False,
    brand: str = "",
    selected: str = "",
) -> None:
    """Print the survey for people: why they look first, then a block for each app, or a line where there are many."""
    problems = [(f"{d.at[0][0]}:{d.at[0][1]}", d.message) for d in survey.disagreements]
    merges = [(f"{u.file}:{u.line}", "nothing in it was read") for u in survey.unresolved if u.facet == UNMERGED]
    others = (u for u in survey.unresolved if u.facet != UNMERGED)
    doubts = [(f"{u.file}:{u.line}", _why(u.facet, u.text, u.reason)) for u in others]
    section(console, "Unresolved merges", merges)
    section(console, "Disagreements", problems)
    section(console, "Unresolved", doubts)
    if merges or problems or doubts:
        blank(console)
    if brand:
        put(console, Cell(f"This tree is {brand}", "bold"))
        blank(console)
    if selected:
        put(console, Cell(selection(selected, survey.apps), "bold"))
        blank(console)
    if not survey.apps:
        put(console, Cell("No app is built here: the projects hold only libraries, or could not be read."))
    elif origins or len(survey.apps) <= _FEW:
        for number, app in enumerate(survey.apps):
            _block(console, app, number > 0)
    else:
        _lines(console, survey.apps, _groups(survey))
        _places(console, survey.apps)
    roles = Counter(str(mention.role) for mention in survey.mentions)
    files = len({mention.place.file for mention in survey.mentions})
    listed_ = ", ".join(f"{number} {role}" for role, number in sorted(roles.items()))
    hint = "" if every else "; --all lists them"
    section(console, "Signing", _signed(survey), 0 if origins else _SHOWN, places=False)
    blank(console)
    put(console, Cell(f"{count(len(survey.mentions), 'mention')} in {count(files, 'file')} ({listed_}){hint}"))
    if every:
        section(console, "Mentions", ((f"{m.place.at}:{m.place.column}", _said(m)) for m in survey.mentions))


def _title(app: ShippedApp) -> str:
    platform = PLATFORM_NAMES.get(app.platform, app.platform)
    return f"{platform} {app.module}"


def _variant(app: ShippedApp) -> str:
    return " ".join(item for item in (app.flavor, app.configuration) if item)


def _block(console: SafeConsole, app: ShippedApp, apart: bool) -> None:
    """Print one app as a block: each value with the place where it is written."""
    if apart:
        blank(console)
    put(console, Cell(f"{_title(app)} ", "bold"), Cell(f" {_variant(app)}", "dim"))
    rows: list[tuple[str, str, str, str]] = []
    for key, label in _FACETS:
        value = getattr(app, key)
        if value is None and key == "icon":
            continue
        style = "yellow" if value is None else "green" if key == "id" else ""
        place = console.place(value.origin.at) if value else ""
        rows.append((label, value.text if value else "not stated", place, style))
        if key == "name":
            rows += [("", f"{locale}: {text.text}", console.place(text.origin.at), "") for locale, text in app.names]
    for label, shown, place, style in rows:
        _row(console, label, shown, place, style)
    for part in app.parts:
        number = f"{part.version.text if part.version else '?'} ({part.build.text if part.build else '?'})"
        shown = "  ".join([part.id.text if part.id else "no ID", part.name.text if part.name else "", number])
        put(console, Cell(f"{part.kind} {part.target}: ", "dim"), Cell(shown), indent=2, hang=6)


def _row(console: SafeConsole, label: str, shown: str, place: str, style: str) -> None:
    """Print a value and its place: in one line where both fit, else the place below."""
    start = _LABEL + 2
    whole = start + columns(shown) + 2 + columns(place)
    head = f"  {label:<{_LABEL - 2}}"
    if whole <= console.width:
        room = min(_VALUE, max(console.width - start - 2 - columns(place), columns(shown)))
        padded = shown + " " * max(room - columns(shown), 0)
        put(console, Cell(head), Cell(padded, style), Cell(f"  {place}", "dim"), hang=start)
        return
    put(console, Cell(head), Cell(shown, style), hang=_LABEL)
    if place:
        put(console, Cell(place, "dim"), indent=_LABEL)


def _groups(survey: Survey) -> dict[str, list[ShippedApp]]:
    """Return the apps by module or target; where two are called alike, with the folder of each."""
    found: dict[tuple[str, str], list[ShippedApp]] = {}
    for project in survey.projects:
        for app in project.apps:
            found.setdefault((_title(app), project.folder or "."), []).append(app)
    titles = Counter(title for title, _ in found)
    return {title if titles[title] == 1 else f"{title} ({folder})": apps for (title, folder), apps in found.items()}


def _lines(console: SafeConsole, apps: Sequence[ShippedApp], groups: Mapping[str, Sequence[ShippedApp]]) -> None:
    """Print a line for each of many apps; what all of them share is said once."""
    numbers = {_number(app) for app in apps}
    shared = next(iter(numbers)) if len(numbers) == 1 else ""
    if shared:
        put(console, Cell(f"{len(apps)} apps, all of version {shared}", "bold"))
    else:
        put(console, Cell(f"{len(apps)} apps", "bold"))
    for title, mine in groups.items():
        blank(console)
        kinds = {app.configuration for app in mine}
        same = f" {next(iter(kinds))}" if len(kinds) == 1 else ""
        put(console, Cell(f"{title} ", "bold"), Cell(same, "dim"))
        rows = []
        for app in mine:
            name = app.flavor if same else _variant(app)
            cells = [Cell(name or "(app)"), _of(app.id, "green"), _of(app.name, "")]
            rows.append(cells if shared else [*cells, Cell(_number(app))])
        titles = ["", "", ""] if shared else ["", "", "", ""]
        if not table(console, titles, rows, indent=2) and not below(console, rows, indent=2):
            blocks(console, ["", "ID", "name"] if shared else ["", "ID", "name", "version"], rows, indent=2)


def _of(value: Value | None, style: str) -> Cell:
    return Cell(value.text, style) if value is not None else Cell("not stated", "yellow")


def _number(app: ShippedApp) -> str:
    version, build = (value.text if value else "not stated" for value in (app.version, app.build))
    return f"{version} ({build})"


def _places(console: SafeConsole, apps: Sequence[ShippedApp]) -> None:
    """Print where values are written, a place once for all apps that take theirs from it."""
    for key, label in _FACETS:
        found: dict[tuple[str, str], int] = {}
        for app in apps:
            value = getattr(app, key)
            if value is not None:
                spot = (value.text, console.place(value.origin.at))
                found[spot] = found.get(spot, 0) + 1
        ordered = sorted(found.items(), key=lambda item: -item[1])
        rows = [(text, place, f"for {number} apps" if number > 1 else "") for (text, place), number in ordered]
        if not rows:
            continue
        heading(console, f"{label} is written")
        cells = [[Cell(text), Cell(place, "dim"), Cell(many)] for text, place, many in rows[:_SHOWN]]
        if not table(console, ["", "", ""], cells, indent=2):
            for text, place, many in rows[:_SHOWN]:
                more = [Cell(f"  {many}")] if many else []
                put(console, Cell(f"{text} "), Cell(f" {place}", "dim"), *more, indent=2, hang=6)
        if len(rows) > _SHOWN:
            put(console, Cell(f"… and {len(rows) - _SHOWN} more (--origins lists all)", "dim"), indent=2)


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
