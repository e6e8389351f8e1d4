"""The end of a flavor of a Gradle build: what is provably its own is taken out, what still names it is said.

Source of the rules: developer.android.com, "Configure build variants" (flavors, dimensions, source sets).
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis.flavor_names import same_flavor
from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import Statement, literal_text
from onomaxis.formats.lexer import GROOVY, KOTLIN, Region, Token, enclosing, item_end, tokens
from onomaxis.formats.source import Source
from onomaxis.model import Note
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.flavors import libraries
from onomaxis.projects.android.script_calls import LISTS, MAPS
from onomaxis.projects.android.variants import flavor_containers, flavor_names, flavor_statements
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.tree import join


def retire_flavor(reader: ModuleReader, flavor: str) -> Draft:
    """Remove a flavor's block and source sets, in the libraries beside the app too where no other app has it.

    Only what is provably the flavor's goes: its statements, and the container with the dimension where nothing else
    stands in them.
    """
    draft = _retired(reader, flavor)
    apps = (other for other in reader.others if other.kind == "application")
    if not any(same_flavor(name, flavor) for app in apps for name in flavor_names(app)):
        for library in libraries(reader):
            draft.join(_retired(library, flavor))
    return draft


def _retired(reader: ModuleReader, flavor: str) -> Draft:
    """Remove a flavor from one module."""
    name = next((item for item in flavor_names(reader.module) if item.casefold() == flavor.casefold()), "")
    draft = Draft()
    if not name:
        return draft
    files = (reader.module.file, *reader.module.environment.others)
    declared = [(item, [one for label, one in flavor_statements(item.script) if label == name]) for item in files]
    file, found = next(((item, found) for item, found in declared if found), (reader.module.file, []))
    script = file.script
    blocks = [statement for statement in found if not statement.looped]
    listed = {item.args[0].start: item.args[0] for item in found if item.looped and item.args}
    listed = {
        at: token
        for at, token in listed.items()
        if not any(b.start <= at < b.end for b in blocks) and all(isinstance(part, Region) for part in token.parts)
    }
    items = [span for token in listed.values() if (span := _item_span(script, token)) is not None]
    asked = next((item for item in blocks if item.conditional and _is_a_branch(script, item)), None)
    if asked is not None:
        at = f"{file.path}:{script.source.line(asked.start)}"
        draft.refusals.append(Note(at, f"flavor {name} is declared under a condition: take it out by hand"))
        return draft
    if not blocks and not items:
        draft.refusals.append(Note(file.path, f"flavor {name} is declared in another script: remove it there"))
        return draft
    removed = [lines_of(script.source, block.start, block.end) for block in blocks]
    if listed:
        draft.notes.append(Note(f"{file.path}:{script.source.line(min(listed))}", f"{name} is taken out of a list"))
    removed = [*(_with_container(script, removed, draft, file.path) if removed else []), *items]
    source = script.source
    draft.edits += [span_edit(file.path, source, a, b, b"") for a, b in removed]
    draft.notes += list(_still_named(file.path, script, name, removed))
    folders = [join(reader.module.folder, f"src/{item}") for item in _source_sets(reader, name)]
    draft.removed += [path for folder in folders for path in reader.tree.below(folder)]
    return draft


def _is_a_branch(script: Script, item: Statement) -> bool:
    """Tell whether a statement is all that a condition has: without braces, which would be left empty."""
    before = script.source.view[: item.start].rstrip()
    return before.endswith((")", "else"))


def _item_span(script: Script, token: Token) -> tuple[int, int] | None:
    """Return the span of the item of a list or map that a literal begins, or is given to; None where it is in none.

    An item that has lines of its own goes with them.
    """
    found = [item for item in _tokens(script) if item.kind != "newline"]
    at = _item_start(found, next((index for index, item in enumerate(found) if item.start == token.start), -1))
    end = item_end(found, at)
    before = found[at - 1] if at > 0 else None
    if at < 0 or end >= len(found) or before is None or before.text not in (",", "(", "["):
        return None
    start = found[at].start
    if found[end].text == ",":  # with the comma behind it, up to the next item
        whole = lines_of(script.source, start, found[end].end)
        if whole[0] < start:
            return whole
        following = found[end + 1].start if end + 1 < len(found) else found[end].end
        return start, following
    # the last one: with the comma before it
    return (before.start if before.text == "," else before.end), found[end - 1].end


def _item_start(found: list[Token], at: int) -> int:
    """Return where the item begins that a token is in: before its key, and the calls that it is given to."""
    while at > 0:
        if at > 1 and found[at - 1].text in ("to", ":"):
            at -= 2
            continue
        opening = enclosing(found, at)
        called = found[opening - 1] if opening > 0 else None
        if (
            opening < 0
            or found[opening].text != "("
            or called is None
            or called.kind != "name"
            or called.text in LISTS | MAPS
        ):
            return at
        at = opening - 1
        while at > 1 and found[at - 1].text == ".":
            at -= 2
        at -= 1 if at and found[at - 1].text == "new" else 0
    return at


def lines_of(source: Source, start: int, end: int) -> tuple[int, int]:
    """Return the span of the whole lines of a statement; of the statement alone where its lines hold more."""
    begin, after = source.whole_lines(start, end, ";?")
    more = re.compile(r"[ \t]*+;[ \t]*+").match(source.view, end) if (begin, after) == (start, end) else None
    return begin, more.end() if more else after


def _with_container(script: Script, removed: list[tuple[int, int]], draft: Draft, path: str) -> list[tuple[int, int]]:
    """Add the containers and the dimension, which mean nothing without a flavor, where nothing else is in them."""
    containers = flavor_containers(script)
    if not containers or not all(_holds_only(script, item, removed) for item in containers):
        return removed
    spans = [lines_of(script.source, item.start, item.end) for item in containers]
    loose = [span for span in removed if not any(a <= span[0] and span[1] <= b for a, b in spans)]
    named = sum(token.text == "productFlavors" for token in _tokens(script))
    spoken = len(containers) + sum("productFlavors" in script.source.view[a:b] for a, b in loose)
    if named != spoken:
        draft.notes.append(
            Note(path, "productFlavors is spoken of elsewhere too: the block stays, without the flavor")
        )
        return removed
    dimensions = [
        child
        for android in script.blocks("android")
        for child in android.children
        if child.kind == "set" and "flavorDimensions" in child.name
    ]
    one = sum(len([t for t in item.value if literal_text([t])]) for item in dimensions[:1]) <= 1
    if len(dimensions) == 1 and one and sum("lavorDimensions" in t.text for t in _tokens(script)) == 1:
        spans.append(lines_of(script.source, dimensions[0].start, dimensions[0].end))
    elif dimensions:
        draft.notes.append(
            Note(f"{path}:{script.source.line(dimensions[0].start)}", "the dimensions stay as declared")
        )
    return [*spans, *loose]


def _holds_only(script: Script, container: Statement, spans: list[tuple[int, int]]) -> bool:
    """Tell whether a block holds nothing, not even a comment, beside the statements in *spans*."""
    start, end = container.body
    inner = sorted((a, b) for a, b in spans if start <= a and b <= end)
    edges = [start, *(position for span in inner for position in span), end]
    between = zip(edges[::2], edges[1::2], strict=True)
    return bool(end) and not any(script.source.view[a:b].strip("; \t\r\n") for a, b in between)


def _tokens(script: Script) -> list[Token]:
    return tokens(script.source.view, KOTLIN if script.kotlin else GROOVY)


def _source_sets(reader: ModuleReader, flavor: str) -> list[str]:
    """Return the source sets that a flavor alone has: its own, with each build type, and its combinations."""
    folder = join(reader.module.folder, "src")
    found = {path[len(folder) + 1 :].split("/")[0] for path in reader.tree.below(folder)}
    others = {name for name in flavor_names(reader.module) if name != flavor}
    capital = flavor[:1].upper() + flavor[1:]
    mine = []
    for name in sorted(found):
        rest = name[len(flavor) :]
        starts = name in (flavor, f"android{capital}") or (name.startswith(flavor) and rest[:1].isupper())
        longer = any(name.startswith(other) for other in others if len(other) > len(flavor) and starts)
        tests = re.match(rf"(?:test|androidTest){re.escape(capital)}(?=[A-Z]|\Z)", name)
        within = any(name.startswith(other) for other in others) and re.search(
            rf"{re.escape(capital)}(?=[A-Z]|\Z)", name
        )
        if (starts and not longer) or (tests and not any(name.endswith(other) for other in others)) or within:
            mine.append(name)
    return mine


def _still_named(path: str, script: Script, flavor: str, removed: list[tuple[int, int]]) -> Iterator[Note]:
    """Say where a script goes on naming a flavor that is gone: dependencies, source sets, tasks, folders.

    The lines are those of the script as it will be.
    """
    source = script.source
    for before, token in zip([None, *_tokens(script)], _tokens(script), strict=False):
        if token.kind not in ("name", "string") or any(a <= token.start < b for a, b in removed):
            continue
        member = before is not None and before.text in (".", "?.") and token.text == flavor
        if not member and _names_flavor(token, flavor):
            line = source.line(token.start) - sum(
                source.view.count("\n", a, b) for a, b in removed if b <= token.start
            )
            text = source.line_around(token.start).strip()
            yield Note(f"{path}:{line}", f"{flavor} is still named here: {text}")


# A longer word or string is not a task, configuration or folder.
_LONGEST_NAMED = 300


def _names_flavor(token: Token, flavor: str) -> bool:
    """Tell whether a word or string names a flavor: itself, what the build makes of it, a folder of its own.

    ``devImplementation``, ``assembleDevRelease`` and ``src/dev`` do; ``dev.tool`` and ``device`` do not.
    """
    text = token.text.strip("'\"`") if token.kind == "string" else token.text
    if len(text) > _LONGEST_NAMED:
        return False
    capital = re.escape(flavor[:1].upper() + flavor[1:])
    made = rf"{re.escape(flavor)}(?:[A-Z]\w*)?|[a-z]\w*?{capital}(?:[A-Z]\w*)?"
    if re.fullmatch(made, text, re.ASCII):
        return True
    return token.kind == "string" and bool(
        re.search(rf"(?:\A|/){re.escape(flavor)}(?:/|\Z)|:{made}\Z", text, re.ASCII)
    )
