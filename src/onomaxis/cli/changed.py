"""What ``survey --since`` tells: the changes of an identity as text, as JSON, as Markdown; its guards."""

from __future__ import annotations

import argparse
import itertools
import sys
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from onomaxis.brands.ledger import published
from onomaxis.brands.publishing import load_ledger
from onomaxis.cli.layout import Cell, blank, put
from onomaxis.cli.output import count, make_console, print_json, tell
from onomaxis.cli.progress import drawing, working
from onomaxis.errors import OnomaxisError
from onomaxis.history.changed import since as history_since
from onomaxis.history.differences import Differences, Row, guards_of
from onomaxis.history.state import Entity
from onomaxis.history.timeline import Event, facet_of, timeline
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.surveys.survey import read_projects
from onomaxis.surveys.variants import keys_of
from onomaxis.tree import Tree
from onomaxis.visible import code, escaped, visible

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_LABELS = {"id": "ID", "name": "name", "version": "version", "build": "build number", "icon": "icon"}


def since(options: argparse.Namespace, tree: Tree) -> int:
    """Tell what changed since a revision; return the exit code."""
    guards = guards_of(options.guard) if options.guard else ()
    with working(options, f"Comparing with {options.since}"):
        found, commit = history_since(tree, options.since)
    form = "json" if options.json else options.form
    if form == "json":
        print_json(as_document(found, commit, _keys(found, tree)))
    elif form == "markdown":
        sys.stdout.write("".join(f"{visible(line)}\n" for line in markdown(found, options.since)))
    else:
        _show(make_console(options), found, options.since)
    return _judged(tree, found, guards, options.exit_code)


def _judged(tree: Tree, found: Differences, guards: Sequence[str], exit_code: bool) -> int:
    """Say what guards see, on standard error; return the exit code."""
    seen = found.guarded(guards)
    for item in seen:
        tell(f"onomaxis: {_warning(tree, item)}")
    if seen or (exit_code and found.any):
        return 1
    unsure = found.unsure(guards)
    for open_ in unsure:
        at = f"{open_.file}:{open_.line}"
        tell(f"onomaxis: {at}: the {open_.facet} ({open_.when}) cannot be determined: {open_.reason}")
    return 3 if unsure else 0


def _warning(tree: Tree, item: Row | Entity) -> str:
    """Return one line for a guard: what changes, and what was published under the old ID."""
    who = _who(item.platform, item.module, item.flavor, item.part)
    if isinstance(item, Entity):
        return f"{who}: {item.id or 'an app'} no longer ships{_published(tree, item.platform, item.id)}"
    if item.secret:
        return f"{who}: {item.facet} changes (a secret)"
    label = _LABELS.get(item.facet, item.facet)
    if item.before is None or item.after is None:
        return f"{who}: {label} " + (f"{item.after} comes" if item.before is None else f"{item.before} goes")
    if item.facet == "icon":
        return f"{who}: the icon changes"
    more = _published(tree, item.platform, item.before) if item.facet == "id" else ""
    return f"{who}: {label} changes from {item.before} to {item.after}{more}"


def _published(tree: Tree, platform: str, id_: str | None) -> str:
    try:
        builds = [row for row in published(load_ledger(tree)) if row.platform == platform and row.id == id_]
    except OnomaxisError:
        return ""
    verb = "carries" if len(builds) == 1 else "carry"
    return f"; {count(len(builds), 'published build')} {verb} the old one (ledger)" if builds else ""


def _who(platform: str, module: str, flavor: str, part: bool = False) -> str:
    named = f"{flavor} {module}".strip() if part else flavor or module
    return " ".join(filter(None, (PLATFORM_NAMES.get(platform, platform), named)))


def history(options: argparse.Namespace, tree: Tree) -> int:
    """Tell when what apps are called changed; return the exit code."""
    facet = facet_of(options.facet)
    with drawing(options, "Reading commits") as tick:
        events = timeline(tree.root, facet, tick=tick)
    if options.json or options.form == "json":
        print_json({"history": [_event(event) for event in events]})
        return 0
    console = make_console(options)
    if not events:
        put(console, Cell("No commit changed an app's ID, name, version or build number."))
    for number, (commit, mine) in enumerate(itertools.groupby(events, key=lambda event: event.commit)):
        told = list(mine)
        if number:
            blank(console)
        put(console, Cell(f"{told[0].date}  {commit[:10]}", "bold"), Cell(f"  {told[0].subject}", "dim"), hang=2)
        lines = (f"{_who(event.platform, event.module, event.flavor)}: {_said(event)}" for event in told)
        for line in dict.fromkeys(lines):  # an app's parts mostly go with it
            put(console, Cell(line), indent=2, hang=2)
    return 0


def _said(event: Event) -> str:
    if event.secret:
        return f"{event.facet} changes (a secret)"
    if event.facet == "app":
        return (
            f"appears as {event.after or 'an app'}" if event.before is None else f"no longer ships ({event.before})"
        )
    if event.facet == "icon":
        return "another icon"
    label = _LABELS.get(event.facet, event.facet)
    return f"{label} {event.before or 'none'} → {event.after or 'none'}"


def _event(event: Event) -> dict[str, Any]:
    told = event._asdict()
    secret = told.pop("secret")
    return {**told, "secret": True} if secret else told


# -- the forms


def _keys(found: Differences, tree: Tree) -> dict[str, str]:
    """Return the key of everything that differs, by what its build calls it."""
    names = [row.flavor for row in found.rows] + [item.flavor for item in (*found.added, *found.retired)]
    return dict(zip(names, keys_of(names, read_projects(tree), tree), strict=True))


def as_document(found: Differences, commit: str, keys: Mapping[str, str]) -> dict[str, Any]:
    """Return the changes as the JSON document that docs/json.md describes."""
    return {
        "since": commit,
        "changes": [{**_row(row), "key": keys[row.flavor]} for row in found.rows],
        "added": [{**_entity(item), "key": keys[item.flavor]} for item in found.added],
        "retired": [{**_entity(item), "key": keys[item.flavor]} for item in found.retired],
        "unresolved": [item._asdict() for item in found.untold],
    }


def _row(row: Row) -> dict[str, Any]:
    told: dict[str, Any] = {
        "platform": row.platform,
        "module": row.module,
        "flavor": row.flavor,
        "configuration": row.configuration,
        "facet": row.facet,
        "before": row.before,
        "after": row.after,
        "at": _spot(row.at),
        "was_at": _spot(row.was_at),
    }
    return {**told, "secret": True} if row.secret else told


def _spot(at: tuple[str, int] | None) -> dict[str, Any] | None:
    return {"file": at[0], "line": at[1]} if at is not None else None


def _entity(item: Entity) -> dict[str, Any]:
    named = {"platform": item.platform, "module": item.module, "flavor": item.flavor}
    return {**named, "configuration": item.configuration, "id": item.id or None}


def markdown(found: Differences, revision: str) -> Iterator[str]:
    """Yield the lines of a comment: a table of what changed, what came and what went."""
    if not found.any:
        yield f"No app's IDs, names or numbers differ from {code(revision)}."
    else:
        yield f"What changed since {code(revision)}:"
        yield ""
        yield "| app | facet | before | after |"
        yield "| --- | --- | --- | --- |"
        for row in found.rows:
            was, now = (code(_shown(row, text)) for text in (row.before, row.after))
            who = escaped(_who(row.platform, row.module, row.flavor, row.part))
            yield f"| {who} | {escaped(row.facet)} | {was} | {now} |"
        for item in found.added:
            who = escaped(_who(item.platform, item.module, item.flavor, item.part))
            yield f"| {who} | comes |  | {code(item.id)} |"
        for item in found.retired:
            who = escaped(_who(item.platform, item.module, item.flavor, item.part))
            yield f"| {who} | goes | {code(item.id)} |  |"
    if found.untold:
        yield ""
        yield "Cannot be determined:"
        yield ""
        for open_ in found.untold:
            at = code(f"{open_.file}:{open_.line}")
            yield f"- {open_.when}: {escaped(open_.facet)}, {at}: {escaped(open_.reason)}"


def _shown(row: Row, text: str | None) -> str:
    if row.secret:
        return "••••"
    return f"{text[:19]}…" if text and text.startswith("sha256:") else text or ""


def _show(console: SafeConsole, found: Differences, revision: str) -> None:
    if not found.any:
        put(console, Cell(f"No app's IDs, names or numbers differ from {revision}."))
    apps: dict[tuple[str, ...], list[Row]] = {}
    for row in found.rows:
        apps.setdefault((row.platform, row.module, row.flavor, row.configuration), []).append(row)
    for number, ((platform, *rest), rows) in enumerate(apps.items()):
        if number:
            blank(console)
        put(console, Cell(" ".join(filter(None, (PLATFORM_NAMES.get(platform, platform), *rest))), "bold"))
        for row in rows:
            was, now = (_shown(row, text) or "none" for text in (row.before, row.after))
            put(console, Cell(f"{_LABELS.get(row.facet, row.facet)}: {was} → {now}"), indent=2, hang=2)
            at = row.at or row.was_at
            if at is not None:
                put(console, Cell(f"{at[0]}:{at[1]}", "dim"), indent=4)
    for label, items in (("New", found.added), ("Ships no more", found.retired)):
        if items:
            blank(console)
            put(console, Cell(label, "bold"))
        for item in items:
            told = (PLATFORM_NAMES.get(item.platform, item.platform), item.module, item.flavor, item.id)
            put(console, Cell(" ".join(filter(None, told))), indent=2, hang=2)
    if found.untold:
        blank(console)
        put(console, Cell("Cannot be determined", "bold yellow"))
    for open_ in found.untold:
        put(console, Cell(f"{open_.facet} ({open_.when}), {open_.file}:{open_.line}"), indent=2, hang=2)
        put(console, Cell(open_.reason, "dim"), indent=4)
