"""Siblings compared: what most flavors have and one lacks, what speaks of another flavor than its own.

Nothing here knows what a file is for. Files that are called after flavors are one pattern (``main_{flavor}.dart``,
``src/{flavor}/res/values/strings.xml``); lists name flavors, and files of one pattern hold the same keys.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping
from html import unescape
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.neighbours import files_lacking, texts_lacking
from onomaxis.brands.new_flavor import called_as
from onomaxis.brands.owed import owed_values
from onomaxis.checks.context import Context, in_a_row
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.groups import groups
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.source import Source, bytes_of
from onomaxis.formats.xml import parse_xml
from onomaxis.model import Note
from onomaxis.projects.flavored_files import is_file_of
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.neighbours.twins import plain_key
from onomaxis.projects.services import ASSET_LINKS, ASSOCIATION
from onomaxis.projects.siblings import Group, majority
from onomaxis.surveys.survey import own_files
from onomaxis.tree import Tree, parent

LACKS = rule("FLAVOR10")
UNNAMED = rule("FLAVOR11")
KEYS = rule("FLAVOR12")
OTHER = rule("FLAVOR13")
OWING = rule("FLAVOR14")

# Told by rules of their own, or by nobody: pictures and what holds them are the icons' affair.
_TOLD = late.compile(
    r"(?:/|\A)(?:google-services\.json|GoogleService-Info\.plist)\Z|\.(?:ttf|otf)\Z"
    r"|/(?:mipmap|drawable)[^/]*/|\.(?:appiconset|imageset|launchimage|brandassets|xcscheme)(?:/|\Z)"
)
# A flavor's resources may stand in any file of its source set, or in the build script.
_RESOURCES = late.compile(r"/res/values[^/]*/[^/]*\.xml\Z")
_LANGUAGE = late.compile(r"/res/values-[^/]+/[^/]*\.xml\Z")
# Where lists of ways to build and run an app stand: data and scripts, by their form.
_LISTS = late.compile(
    r"(?:\.ya?ml|(?:\A|/)(?:launch|tasks|package)\.json|(?:\A|/)(?:Makefile|Podfile|Rakefile|Justfile)|\.(?:sh|mk|rb))\Z"
)
# What a flavor may say in one of several ways, and which rules of their own look at.
_OWNED = late.compile(
    r"\b(?:application|bundle)Id(?:Suffix)?\b|\bversion(?:Name|Code)\w*\b|\bid(?:-suffix)?\b", re.IGNORECASE
)
_LONGEST = 400_000


def _patterns(tree: Tree, group: Group) -> Mapping[str, dict[str, str]]:
    """Return the files that are called after a flavor: by their name with the flavor in braces, by flavor."""
    found: dict[str, dict[str, str]] = defaultdict(dict)
    own = own_files(tree)
    for path in tree.files:
        named = list(group.mentions(path)) if group.reaches(path) and path not in own else []
        if len(named) == 1:
            found[group.braced(path)].setdefault(named[0], path)
    return found


def _called(context: Context, group: Group) -> list[Called]:
    """Return how texts speak of the siblings of a group."""
    meant = [subject for subject in context.subjects if any(subject.main_of(name) for name in group.flavors)]
    return [called_as(meant, name) for name in group.flavors]


@check(LACKS)
def files(context: Context) -> Iterator[Finding]:
    """Look for files that more than half of the flavors have."""
    for group in groups(context):
        lacking: dict[str, list[str]] = defaultdict(list)
        beside: dict[str, str] = {}
        for flavor, path, first in files_lacking(context.tree, _called(context, group), group.reaches):
            spoken = any(True for _ in context.tree.below(parent(path))) if _LANGUAGE.search(path) else True
            if _TOLD.search(path) or (_RESOURCES.search(path) and spoken):
                continue
            lacking[flavor].append(group.braced(path))
            beside.setdefault(flavor, first)
        for flavor, patterns in lacking.items():
            shown = ", ".join(sorted(patterns)[:3]) + (f" and {len(patterns) - 3} more" if len(patterns) > 3 else "")
            yield Finding(LACKS, f"{flavor} has no {shown}", ((beside[flavor], 0),), flavor)


# -- lists, cases, tables, blocks


@check(UNNAMED, KEYS)
def listed(context: Context) -> Iterator[Finding]:
    """Look for what texts say of all flavors but one: it is not listed, or its own block leaves something out.

    In code all others count, in lists of ways to build and run most: code may treat some alike.
    """
    for group in groups(context):
        for path, line, item in texts_lacking(context.tree, _called(context, group), group.reaches):
            rest = len(group.flavors) - 1
            if path.endswith((ASSET_LINKS, ASSOCIATION)) or _OWNED.search(item.said):
                continue
            if item.said:
                said = f"{item.flavor} says no {item.said.replace('…', '')}"
                yield Finding(KEYS, " ".join(said.split()), ((path, line),), item.flavor)
            elif len(item.named) == rest or (_LISTS.search(path) and majority(len(item.named), range(rest))):
                named = ", ".join(item.named[:3]) + (" and others" if len(item.named) > 3 else "")
                yield Finding(UNNAMED, f"it names {named}, not {item.flavor}", ((path, line),), item.flavor)


def _text(tree: Tree, path: str) -> str:
    data = tree.read(path)
    try:
        return Source.read(data).view if data is not None and len(data) <= _LONGEST else ""
    except FormatError:
        return ""


# -- what is owed


@check(OWING)
def owed(context: Context) -> Iterator[Finding]:
    """Look for the marks that stand where a value is to be given, and whose it is."""
    flavors = (flavor for subject in context.subjects for flavor in subject.flavors)
    for flavor, items in owed_values(context.tree, flavors).items():
        whose = f"{flavor} is not complete" if flavor else "a flavor is not complete"
        keys = {
            plain_key(item.key): item.key for item in reversed(items) if item.key
        }  # a table and files call one value
        number = len(keys) + sum(not item.key for item in items)
        named = f" ({in_a_row([*reversed(keys.values())])})" if keys else ""
        said = f"{whose}: {number} {'value is' if number == 1 else 'values are'} to be given{named}"
        places = dict.fromkeys((note.file, note.line) for item in items for note in (Note(item.at, ""),))
        yield Finding(OWING, said, tuple(places), flavor)


# -- files of one pattern


class _Own(NamedTuple):
    """A flavor's own file of a pattern that its siblings have too."""

    flavor: str
    path: str
    text: str


def _own_files(context: Context, group: Group) -> Iterator[tuple[_Own, ...]]:
    for pattern, having in _patterns(context.tree, group).items():
        if not _TOLD.search(pattern) and len(having) > 1:
            yield tuple(_Own(flavor, path, _text(context.tree, path)) for flavor, path in having.items())


@check(KEYS)
def entries(context: Context) -> Iterator[Finding]:
    """Compare the keys of files that are one pattern."""
    scripts = [_text(context.tree, path) for path in context.tree.named("build.gradle", "build.gradle.kts")]
    for group in groups(context):
        for mates in _own_files(context, group):
            keys = {item.flavor: _keys(item.path, item.text) for item in mates}
            known = {key for found in keys.values() for key in found}
            usual = {key for key in known if majority(sum(key in found for found in keys.values()), mates)}
            for item in mates:
                missing = sorted(usual - keys[item.flavor]) if keys[item.flavor] else []
                if _RESOURCES.search(item.path):  # the script may make a resource, another file may hold it
                    missing = [key for key in missing if not any(f'"{key}"' in text for text in scripts)]
                if missing:
                    shown = ", ".join(missing[:3]) + (f" and {len(missing) - 3} more" if len(missing) > 3 else "")
                    yield Finding(KEYS, f"{item.flavor} says no {shown}", ((item.path, 1),), item.flavor)


_LINE = late.compile(r"^[ \t]*(?:export[ \t]+)?([A-Za-z_][\w.\[\]=*-]*)[ \t]*=", re.MULTILINE)


def _keys(path: str, text: str) -> set[str]:
    """Return the keys of a file of settings; nothing where it is of another form."""
    name = path.rpartition("/")[2]
    try:
        if path.endswith(".json"):
            return {key for key, _ in parse_json(bytes_of(text)).top.members}
        if path.endswith(".xml") and "/res/values" in path:
            return {item.value("name") for item in parse_xml(bytes_of(text)).root.children} - {""}
    except FormatError:
        return set()
    if path.endswith((".xcconfig", ".properties", ".env")) or name.startswith(".env"):
        return {match[1] for match in _LINE.finditer(text)}
    return set()


@check(OTHER)
def of_others(context: Context) -> Iterator[Finding]:
    """Look into a flavor's files for its siblings' names, where the siblings' files speak of themselves alone."""
    shown = _shown_as(context)
    for group in groups(context):
        for mates in _own_files(context, group):
            own = {item.flavor: set(_spoken(group, item, item.flavor)) for item in mates}
            for item in mates:
                usual = {line for flavor, lines in own.items() if flavor != item.flavor for line in lines}
                for line, (flavor, number) in _others(group, item).items():
                    if line in usual and (line not in own[item.flavor] or flavor != item.flavor):
                        said = f"{item.path.rpartition('/')[2]} of {item.flavor} names {flavor}"
                        yield Finding(OTHER, said, ((item.path, number),), item.flavor)
                        break
                else:
                    yield from _called_as_others(shown, item)


def _called_as_others(shown: Mapping[str, set[str]], item: _Own) -> Iterator[Finding]:
    """Look into a flavor's own page or web manifest for a name under which another flavor is *shown*."""
    for number, line in enumerate(item.text.split("\n") if is_file_of(item.path, item.flavor) else (), 1):
        for match in _SHOWN.finditer(line):
            name = unescape(match[1] or match[2] or match[3] or "").strip()
            others = shown.get(name, set())
            if others and item.flavor.casefold() not in others:
                whose = f"bears the name of {min(others)}: {name}"
                said = f"{item.path.rpartition('/')[2]} of {item.flavor} {whose}"
                yield Finding(OTHER, said, ((item.path, number),), item.flavor)
                return


# What a name may be in a page, in a manifest, in settings.
_SHOWN = late.compile(r""""([^"]{1,99})"|'([^']{1,99})'|>([^<>]{1,99})<""")


def _shown_as(context: Context) -> Mapping[str, set[str]]:
    """Return the flavors that are shown under each name."""
    found: dict[str, set[str]] = defaultdict(set)
    for subject in context.subjects:
        for flavor in subject.flavors:
            found[subject.text(flavor, "name") or ""].add(flavor.casefold())
    return found


def _spoken(group: Group, item: _Own, flavor: str) -> Iterator[str]:
    """Yield the lines of a file that name one flavor alone, with the flavor in braces."""
    for line in _code(item.text).split("\n"):
        if set(group.mentions(line)) == {flavor}:
            yield group.braced_line(line)


def _others(group: Group, item: _Own) -> dict[str, tuple[str, int]]:
    """Return the lines that name another flavor alone: in braces, with that flavor and the number."""
    found: dict[str, tuple[str, int]] = {}
    for number, line in enumerate(_code(item.text).split("\n"), 1):
        named = set(group.mentions(line))
        if len(named) == 1 and item.flavor not in named:
            found.setdefault(group.braced_line(line), (next(iter(named)), number))
    return found


# What begins a comment and what ends it; nothing: the line's end.
_COMMENTS = (("/*", "*/"), ("<!--", "-->"), ("//", ""), ("#", ""))
_BEGINS = late.compile(r"/\*|<!--|(?<![:\w])//|(?m:^)[ \t]{0,99}#(?!include)")


def _code(text: str) -> str:
    """Return a text with its comments blanked."""
    parts: list[str] = []
    at = 0
    while (match := _BEGINS.search(text, at)) is not None:
        end_mark = next(end for begin, end in _COMMENTS if match[0].lstrip(" \t").startswith(begin))
        stop = text.find(end_mark or "\n", match.end())
        stop = len(text) if stop < 0 else stop + len(end_mark)
        parts += [text[at : match.start()], re.sub(r"[^\n]", " ", text[match.start() : stop])]
        at = stop
    return "".join([*parts, text[at:]])
