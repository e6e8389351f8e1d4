"""A release sheet: what each shipped app was at one revision, and what it is at a later one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.brands.ledger import Published
from onomaxis.checks.finding import Finding
from onomaxis.flavor_names import Singles, selects
from onomaxis.history.differences import paired
from onomaxis.history.state import Entity, state_of
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.tree import Tree
from onomaxis.visible import escaped


class Pair(NamedTuple):
    """What something was, and what it is; both empty where nobody can tell."""

    before: str
    after: str

    @property
    def text(self) -> str:
        """As a cell of a table says it: one text where nothing changed."""
        if self.before == self.after:
            return self.after or "–"
        return f"{self.before or '–'} → {self.after or '–'}"


class Line(NamedTuple):
    """One shipped app of a release; ``published`` and ``digest`` are what the ledger tells of just this build."""

    platform: str
    module: str
    flavor: str
    configuration: str
    id: Pair
    name: Pair
    version: Pair
    build: Pair
    icon: str
    errors: int
    warnings: int
    published: str = ""
    digest: str = ""

    @property
    def app(self) -> str:
        """As a person speaks of it."""
        stage = f"({self.configuration})" if self.configuration else ""
        named = (PLATFORM_NAMES.get(self.platform, self.platform), self.module, self.flavor, stage)
        return " ".join(filter(None, named))


class Sheet(NamedTuple):
    """A release: both revisions as they were named, the later one's commit and day, its apps, those that are gone."""

    since: str
    until: str
    commit: str
    date: str
    lines: tuple[Line, ...]
    gone: tuple[str, ...] = ()


class Span(NamedTuple):
    """From which revision to which, with both trees, and the commit and the day of the later one."""

    since: str
    until: str
    before: Tree
    commit: str
    date: str


def sheet_of(span: Span, tree: Tree, found: Sequence[Finding], ledger: Sequence[Published], known: Singles) -> Sheet:
    """Return the sheet of a release; *tree* is the later one, *found* what is wrong there, *known* its flavors."""
    pairs, gone, added = paired(state_of(span.before).entities, state_of(tree).entities)
    every: list[tuple[Entity | None, Entity]] = [*pairs, *((None, item) for item in added)]
    lines = [_line(before, after, found, ledger, known) for before, after in every if not after.part]
    lines.sort(key=lambda line: (line.flavor.casefold(), line.platform, line.module))
    left = tuple(f"{PLATFORM_NAMES.get(e.platform, e.platform)} {e.id or e.module}" for e in gone if not e.part)
    return Sheet(span.since, span.until, span.commit, span.date, tuple(lines), left)


def _line(
    before: Entity | None, app: Entity, found: Sequence[Finding], ledger: Sequence[Published], known: Singles
) -> Line:
    def text(item: Entity | None, facet: str) -> str:
        return item.facets[facet].text if item is not None and facet in item.facets else ""

    id_, name, version, build = (
        Pair(text(before, key), text(app, key)) for key in ("id", "name", "version", "build")
    )
    then, now = text(before, "icon"), text(app, "icon")
    mine = [item.rule.severity for item in found if _is_of(item.flavor, app.flavor, known)]
    built = (app.platform, id_.after, version.after, build.after)
    row = next((r for r in reversed(ledger) if (r.platform, r.id, r.version, r.build) == built), None)
    return Line(
        app.platform,
        app.module,
        app.flavor,
        app.configuration if app.configuration.casefold() != "release" else "",
        id_,
        name,
        version,
        build,
        "none" if not now else "as before" if now == then else "another one" if then else "new",
        mine.count("error"),
        mine.count("warning"),
        row.date if row is not None else "",
        row.digest if row is not None else "",
    )


def _is_of(flavor: str, built: str, known: Singles) -> bool:
    """Tell whether a finding about a flavor is about what is built; one about no flavor is about the app itself."""
    return selects(flavor, built, known) if flavor else not built


_COLUMNS = ("App", "ID", "Name", "Version", "Build", "Icon", "Findings", "Published", "Package")


def as_markdown(title: str, sheet: Sheet) -> str:
    """Return the sheet as Markdown, for a release's notes or a ticket."""
    lines = [f"# {escaped(title)}: {escaped(sheet.since)} to {escaped(sheet.until)}", ""]
    lines += [
        f"Commit {sheet.commit}, {sheet.date}",
        "",
        f"| {' | '.join(_COLUMNS)} |",
        "| --- " * len(_COLUMNS) + "|",
    ]
    for line in sheet.lines:
        numbers = ((line.errors, "error"), (line.warnings, "warning"))
        found = ", ".join(f"{n} {word}{'s' if n > 1 else ''}" for n, word in numbers if n) or "none"
        facts = (line.app, line.id.text, line.name.text, line.version.text, line.build.text, line.icon, found)
        cells = (*facts, line.published or "–", line.digest or "–")
        lines.append(f"| {' | '.join(map(escaped, cells))} |")
    lines += ["", f"No longer there: {escaped(', '.join(sheet.gone))}"] if sheet.gone else []
    return "\n".join(lines) + "\n"


def as_data(sheet: Sheet) -> dict[str, object]:
    """Return the sheet as docs/json.md describes it."""
    apps = [
        {
            key: {"before": value.before, "after": value.after} if isinstance(value, Pair) else value
            for key, value in line._asdict().items()
        }
        for line in sheet.lines
    ]
    return {**sheet._asdict(), "lines": apps, "gone": list(sheet.gone)}
