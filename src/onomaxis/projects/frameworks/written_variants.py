"""Variants that configuration scripts make by the environment: a new one, the end of one, a value of its own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.script import ScriptFile
from onomaxis.model import Edit, Facet, Note, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.flavored_files import twin_of
from onomaxis.projects.frameworks.files import ID_OF, Files
from onomaxis.projects.frameworks.variants import Part, asked, parts_of, twin_text, variables
from onomaxis.projects.neighbours.called import Called, renamed
from onomaxis.tree import inside, join

# A file of the project, as a configuration names it.
NAMED_FILE = late.compile(r"(?:\./)?[\w@./-]+\.(?:png|jpe?g|webp|svg|json|plist|icon)")
_LITERAL = late.compile(r"'([^'\n]*)'|\"([^\"\n]*)\"|`([^`\n]*)`")
# What a key can say, with the variant that says it; the app itself has none.
Branches = list[tuple[str, Value]]


def main_variant(found: Branches) -> str:
    """Return the condition of the app itself, where a variant of it is what is built without any.

    A variant's ID is the app's with something behind it.
    """
    default = next((value.text for condition, value in found if not condition), "")
    return next((said for said, value in found if said and default.startswith(f"{value.text}.")), "")


def turned(found: Branches, main: str) -> Branches:
    """Return values with those of the app itself as the default, and the default as a variant."""
    if not main or all(condition != main for condition, _ in found):
        return found
    return [("" if condition == main else condition or f"not ({main})", value) for condition, value in found]


def asked_variables(files: Files, scripts: Sequence[str]) -> frozenset[str]:
    """Return the environment variables that some scripts ask for."""
    return frozenset().union(*(variables(file) for name in scripts if (file := files.script(name))))


def branches(files: Files, name: str, facet: Facet, path: tuple[str, ...]) -> Branches:
    """Return what a key of a script can hold, with the variant of each value."""
    if files.script(name) is None:
        return []
    return files.script_values(name, facet, *files.made(name).top("expo"), *path)


def says(files: Files, name: str, path: tuple[str, ...]) -> bool:
    """Tell whether a script says anything at a path of keys, or may."""
    made = files.made(name)
    return made.says(*made.top("expo"), *path)


def alike(
    files: Files, scripts: Sequence[str], keys: Sequence[tuple[tuple[str, ...], Facet]], siblings: Sequence[Called]
) -> list[Called]:
    """Return the siblings that vary what a new variant varies; all, where one variable asks for every one of them.

    An environment's ID goes on from the app's own (``.dev`` behind it), a brand's is another one.
    """
    asked_by: dict[str, str] = {}
    own: set[str] = set()
    for name in scripts:
        if files.script(name) is None:
            continue
        asked_by |= files.made(name).variables
        for path, facet in keys:
            told = branches(files, name, facet, path) if facet in ID_OF.values() else []
            own |= {value.text for condition, value in told if not condition}
    by_variable: dict[str, list[Called]] = {}
    for item in siblings:
        if item.name in asked_by:
            by_variable.setdefault(asked_by[item.name], []).append(item)
    if len(by_variable) < 2:
        return list(siblings)
    return max(by_variable.values(), key=lambda items: sum(not _goes_on(item, own) for item in items))


def _goes_on(item: Called, own: Set[str]) -> bool:
    return any(id_ == base or id_.startswith(f"{base}.") for id_ in item.ids.values() for base in own)


def add_variant(files: Files, scripts: Sequence[str], siblings: Sequence[Called], new: Called) -> Draft:
    """Write a variant wherever a sibling is written; what names files that are not there yet is said."""
    draft, names = Draft(), [item.name for item in siblings]
    for name in scripts:
        file = files.script(name)
        draft.created += _chosen_files(files, name, siblings, new) if file is not None else []
        if file is None or parts_of(file, new.name, [*names, new.name]):
            continue
        parts = {item.name: parts_of(file, item.name, names) for item in siblings}
        model = max(siblings, key=lambda item: len(parts[item.name]), default=None)
        if model is None:
            break
        for part in parts[model.name]:
            draft.edits.append(_twin(files.path(name), file, part, model, new))
            draft.notes += _missing(files, name, file, draft.edits[-1])
    return draft


def _chosen_files(files: Files, name: str, siblings: Sequence[Called], new: Called) -> Iterator[tuple[str, bytes]]:
    """Yield the files that the script would take for a variant, as a sibling's are (``brands/mossgate.json``)."""
    chosen = files.made(name).files
    model = max(siblings, key=lambda item: len(chosen.get(item.name, ())), default=None)
    for path in chosen.get(model.name, ()) if model is not None else ():
        head, found, tail = path.rpartition(model.name) if model is not None else ("", "", "")
        target = f"{head}{new.name}{tail}"
        data = twin_of(files.tree.read(path) or b"", path, model, new) if found and model is not None else None
        if data is not None and not files.tree.exists(target):
            yield target, data


def _twin(path: str, file: ScriptFile, part: Part, model: Called, new: Called) -> Edit:
    question = _question(file, [model.name], new.name)
    text = twin_text(file, part, lambda said: renamed(said, model, new, _in_script), question)
    return span_edit(path, file.source, part.at, part.at, text)


def _question(file: ScriptFile, known: Sequence[str], name: str) -> str:
    return f"{asked(file, known)} === {_quoted(file, name)}"


def _quoted(file: ScriptFile, text: str) -> str:
    """Return a literal in the quotes that the script uses."""
    double = next((token.text[0] == '"' for token in file.tokens if token.kind == "string"), False)
    return f'"{encode("double", text)}"' if double else f"'{encode('single', text)}'"


def _in_script(title: str) -> str:
    return encode("single", title)


def _missing(files: Files, name: str, file: ScriptFile, edit: Edit) -> Iterator[Note]:
    for match in _LITERAL.finditer(file.source.decoded(edit.new)):
        said = match[1] or match[2] or match[3] or ""
        if NAMED_FILE.fullmatch(said) and inside(said) and not files.tree.exists(join(files.folder, said)):
            yield Note(files.path(name), f"the new variant names {said}, which is not there yet")


def retire_variant(files: Files, scripts: Sequence[str], name: str, siblings: Sequence[str]) -> Draft:
    """Take out what is said of a variant alone; where it is still named is said."""
    draft = Draft()
    for script in scripts:
        file = files.script(script)
        if file is None:
            continue
        draft.removed += [path for path in files.made(script).files.get(name, ()) if name in path.rpartition("/")[2]]
        parts = parts_of(file, name, siblings)
        path, source = files.path(script), file.source
        draft.edits += [span_edit(path, source, part.cut[0], part.cut[1], b"") for part in parts]
        for token in file.tokens:
            left = token.kind == "string" and token.text[1:-1] == name
            if left and not any(start <= token.start < end for start, end in (part.cut for part in parts)):
                draft.notes.append(
                    Note(f"{path}:{source.line(token.start)}", f"names {name} still: see to it by hand")
                )
    return draft


def own_value(
    files: Files, scripts: Sequence[str], keys: Sequence[tuple[str, ...]], facet: Facet, text: str, name: str
) -> Draft | None:
    """Let a key say *text* for a variant, whatever it says for the others; None where no script states the key.

    *keys* are the paths of keys that can say it, the first that is there counts.
    """
    for script in scripts:
        file = files.script(script)
        members = (
            member
            for path in keys
            for start in (("expo", *path), path)
            for member in (file.members(*start) if file is not None else ())
        )
        found = next((member for member in members if member.value), None)
        if file is None or found is None:
            continue
        bare = facet is Facet.VERSION_CODE and found.value[0].kind == "number"
        said = text if bare else _quoted(file, text)
        choice = f"{_question(file, [name], name)} ? {said} : "
        return Draft(
            edits=[
                span_edit(files.path(script), file.source, found.value[0].start, found.value[0].start, choice, facet)
            ]
        )
    return None
