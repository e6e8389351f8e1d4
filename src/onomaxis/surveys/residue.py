"""What of an old identity still stands after a change, and why each mention stands."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, as_viewed, flat
from onomaxis.model import Facet, Mention, Residue, Role
from onomaxis.projects.occurrences import is_prose, occurrences
from onomaxis.projects.project import Occurrence, Project
from onomaxis.surveys.survey import SHORTEST_NAME, Survey, kind_of, loose_mention, project_of, written_forms
from onomaxis.wishes import Renaming

_WIDTH = 160
# Files in which a name is a project's, a target's or a folder's, not one that users see.
_TECHNICAL = (
    ".pbxproj",
    ".xcscheme",
    ".xcworkspacedata",
    ".gradle",
    ".gradle.kts",
    "Podfile",
    ".iml",
    "package.json",
)


def _word_reason(path: str, line: str) -> str:
    """Return why a word that is the old display name most likely is another: three reasons, each with what to do."""
    if is_prose(path):
        return "a document speaks of it: change it by hand where it means the app's name"
    if path.endswith(_TECHNICAL):
        return "a project's, target's or folder's own name: --project-name changes it"
    return "a comment or an import speaks of it: change it by hand where it means the app's name"


_IMPORT = late.compile(r"\s*(?:@testable\s+)?import\b|\s*(?://|\*|/\*|#)")


def find_residue(
    survey: Survey,
    held: Mapping[str, bytes],
    renamings: Sequence[Renaming],
    names: Iterable[tuple[str, str]],
    technical: Iterable[tuple[str, str]] = (),
) -> tuple[Residue, ...]:
    """Search *held* (files as they will be, by new path) for the old identifiers, display and technical names."""
    found: set[Residue] = set()
    names, technical = tuple(names), tuple(technical)
    spelled = _spelled(renamings)
    called = [old.encode() for old, _ in (*names, *technical)]
    for path, data in held.items():
        plain = flat(data)
        if not (any(word in plain for word in called) or _may_hold(plain, spelled)):
            continue
        try:
            source = Source.read(data)
        except FormatError:
            continue
        hits = occurrences(path, source, {item.old for item in renamings}, _moved(renamings))
        mine = {*_identifiers(survey.projects, path, source, hits, renamings)}
        mine.update(_forms(path, source, {hit.start for hit in hits}, renamings))
        lines = {item.line for item in mine}
        mine.update(item for item in _otherwise(path, source, renamings) if item.line not in lines)
        found |= mine
        for old, new in names:
            found.update(_names(path, source, old, new))
        for old, new in technical:
            found.update(_technical_names(path, source, old, new))
    return tuple(sorted(found, key=lambda item: (item.file, item.line, item.text, item.reason)))


# Bytes as they count where an identifier is looked for in any spelling: one separator, no backticks.
_FOLDED = bytes.maketrans(b"_/-", b"...")


def _spelled(renamings: Sequence[Renaming]) -> list[bytes]:
    """Return every form of the old identifiers, folded as :func:`_may_hold` folds a file."""
    forms = (form for item in renamings for form in (item.old, *written_forms(item.old)))
    return list(dict.fromkeys(form.encode().lower().translate(_FOLDED, b"`") for form in forms))


def _may_hold(plain: bytes, spelled: Sequence[bytes]) -> bool:
    """Tell whether an old identifier may stand in a file, in whatever case and with whatever separators."""
    folded = plain.lower().translate(_FOLDED, b"`")
    return any(form in folded for form in spelled)


def _identifiers(
    projects: Sequence[Project], path: str, source: Source, hits: Sequence[Occurrence], renamings: Sequence[Renaming]
) -> Iterable[Residue]:
    olds = {item.old for item in renamings}
    seen = {hit.start for hit in hits}
    for hit in hits:
        if _is_new(hit, renamings):
            continue
        mention = _mention(projects, path, source, hit)
        yield Residue(path, source.line(hit.start), shown_line(source, hit.start), _reason(mention, renamings))

    for old in olds:
        loose = re.compile(rf"(?<![\w$\udc80-\udcff]){re.escape(as_viewed(old))}(?![\w\udc80-\udcff-])", re.ASCII)
        for match in loose.finditer(source.view):
            if match.start() not in seen and source.view[match.start() - 1] in ".-":
                reason = "the end of a longer name: change it by hand if it means this app"
                yield Residue(path, source.line(match.start()), shown_line(source, match.start()), reason)


def _is_new(hit: Occurrence, renamings: Sequence[Renaming]) -> bool:
    """Tell whether an occurrence is the new identifier, which may hold the old one as its beginning."""
    return any(
        item.new.startswith(item.old + ".") and (hit.token == item.new or hit.token.startswith(item.new + "."))
        for item in renamings
    )


def _mention(projects: Sequence[Project], path: str, source: Source, hit: Occurrence) -> Mention | None:
    project = project_of(projects, path)
    if project is None:
        return loose_mention(projects, path, source, hit)
    found = kind_of(project).mentions(project, path, source, [hit])
    return found[0] if found else None


def _reason(mention: Mention | None, renamings: Sequence[Renaming]) -> str:
    if mention is None:
        return "the reason is not known"
    if mention.reason:
        return mention.reason
    if mention.facet not in {item.facet for item in renamings}:
        label = "code package" if mention.facet in (Facet.CODE_PACKAGE, Facet.NAMESPACE) else str(mention.facet)
        return f"the {label} was not changed"
    if mention.role is Role.OWNER:
        return "set for another scope"
    whose = " ".join(filter(None, (mention.scope.module, mention.scope.flavor)))
    return f"it belongs to {whose}" if whose else "it belongs to an app or flavor that was not changed"


def _moved(renamings: Sequence[Renaming]) -> list[str]:
    return [item.old for item in renamings if item.facet in (Facet.CODE_PACKAGE, Facet.NAMESPACE)]


_PATH_REASON = "a path or a class descriptor that spells the old identifier"
_SYMBOL_REASON = "a symbol that spells the old identifier"


def _forms(path: str, source: Source, seen: set[int], renamings: Sequence[Renaming]) -> Iterable[Residue]:
    """Yield paths (``a/b/c``) and native symbols (``Java_a_b_c``) that still spell an old identifier."""
    for item in renamings:
        for form in written_forms(item.old):
            border, reason = (r"[\w-]", _PATH_REASON) if "/" in form else (r"[A-Za-z0-9]", _SYMBOL_REASON)
            if form not in source.view:
                continue
            new_forms = written_forms(item.new)
            pattern = re.compile(rf"(?<!{border}){re.escape(form)}(?!{border})", re.ASCII)
            for match in pattern.finditer(source.view):
                if match.start() in seen:
                    continue
                if any(new.startswith(form) and source.view.startswith(new, match.start()) for new in new_forms):
                    continue
                yield Residue(path, source.line(match.start()), shown_line(source, match.start()), reason)


def other_spellings(identifier: str) -> tuple[str, ...]:
    """Return how an ID may be spelled beside the forms that are followed: in one case, with other separators."""
    if not _is_telling(identifier):
        return ()
    low, high = identifier.lower(), identifier.upper()
    forms = (low, *(text.replace(".", mark) for text in (identifier, low, high) for mark in "_-/"))
    return tuple(dict.fromkeys(form for form in forms if form not in (identifier, *written_forms(identifier))))


def _is_telling(identifier: str) -> bool:
    """Tell whether an ID is so long that its words in a row, however they are parted, mean it."""
    return identifier.count(".") > 0 and len(identifier) >= _TELLING


_TELLING = 9
_OF_USERS = late.compile(r"_(?:preferences|prefs)(?![A-Za-z0-9])")


def _otherwise(path: str, source: Source, renamings: Sequence[Renaming]) -> Iterable[Residue]:
    """Yield an old ID in another case or with other separators, and the names of what users keep under it."""
    view = source.view
    for item in renamings:
        if item.facet not in (Facet.APPLICATION_ID, Facet.BUNDLE_ID) or not _is_telling(item.old):
            continue
        words = [re.escape(as_viewed(word)) for word in item.old.split(".")]
        pattern = re.compile(rf"(?<![A-Za-z0-9]){'[._/-]'.join(words)}(?![A-Za-z0-9])", re.IGNORECASE | re.ASCII)
        fresh = re.sub(r"[._/-]", ".", item.new).casefold()
        for match in pattern.finditer(view):
            kept = match[0] == item.old and _OF_USERS.match(view, match.end())
            if (match[0] in (item.old, *written_forms(item.old)) and not kept) or _is_fresh(
                view, match.start(), fresh
            ):
                continue
            dotted = match[0].casefold() == item.old.casefold()
            if kept:
                reason = "users' data is kept under this name: changing it would cut users off"
            else:
                reason = f"spells the old identifier {'in another case' if dotted else 'with other separators'}"
            loose = not kept and view[match.end() : match.end() + 1] in ("-", "_")
            yield Residue(path, source.line(match.start()), shown_line(source, match.start()), reason, loose)


def _is_fresh(view: str, start: int, fresh: str) -> bool:
    """Tell whether the new ID, in any case and with any separators, stands at a position."""
    return re.sub(r"[._/-]", ".", view[start : start + len(fresh)]).casefold() == fresh


def _names(path: str, source: Source, old: str, new: str) -> Iterable[Residue]:
    """Yield places that still show the old display name as a whole word or phrase."""
    needle = as_viewed(old)
    if len(old) < SHORTEST_NAME or needle not in source.view:
        return
    pattern = re.compile(rf"(?<![\w.\udc80-\udcff-]){re.escape(needle)}(?![\w\udc80-\udcff-]|\.\w)", re.ASCII)
    fresh = as_viewed(new)
    for match in pattern.finditer(source.view):
        if old in new and source.view.startswith(fresh, match.start() - fresh.find(needle)):
            continue
        line = source.line_around(match.start())
        technical = path.endswith(_TECHNICAL) or is_prose(path) or bool(_IMPORT.match(line))
        reason = _word_reason(path, line) if technical else "shows the old display name: decide by hand"
        yield Residue(path, source.line(match.start()), shown_line(source, match.start()), reason, technical)


# Files that speak of projects, targets and folders; elsewhere a word is more likely a type or a text.
_BUILD_FILES = (
    ".pbxproj",
    ".xcscheme",
    ".xcworkspacedata",
    ".xctestplan",
    ".xcconfig",
    ".storyboard",
    ".xib",
    ".yml",
    ".yaml",
    ".sh",
    ".json",
    ".rb",
    ".toml",
    ".gitignore",
    "file",
    ".js",
    ".cjs",
    ".mjs",
    ".gradle",
    ".kts",
)
_SEEN_NAME = late.compile(r"Display_?Name|CFBundleName|app_?name|BUNDLE_IDENTIFIER|<label", re.IGNORECASE)


def _technical_names(path: str, source: Source, old: str, new: str) -> Iterable[Residue]:
    """Yield places in build files that still bear the old technical name as a word."""
    needle = as_viewed(old)
    if not path.endswith(_BUILD_FILES) or needle not in source.view:
        return
    pattern = re.compile(rf"(?<![\w$\udc80-\udcff]){re.escape(needle)}(?![\w\udc80-\udcff])", re.ASCII)
    fresh = as_viewed(new)
    for match in pattern.finditer(source.view):
        if old in new and source.view.startswith(fresh, match.start() - fresh.find(needle)):
            continue
        line = source.line_around(match.start())
        if not _SEEN_NAME.search(line):
            reason = "the old technical name: change it by hand if it means the project, a target or a folder"
            yield Residue(path, source.line(match.start()), shown_line(source, match.start()), reason)


def shown_line(source: Source, position: int) -> str:
    """Return the line around a position, as it is printed."""
    text = source.line_around(position).strip()
    return text if len(text) <= _WIDTH else text[: _WIDTH - 1] + "…"
