"""An identity file read, and checked by all that can be told from it: with file and line of what is not right."""

from __future__ import annotations

from collections.abc import Mapping

from onomaxis.formats.toml import Path
from onomaxis.identity.checking import check_table, parsed
from onomaxis.identity.declared import allowances, declared_values, fault
from onomaxis.identity.file import IdentityFile, Opened, never_opened
from onomaxis.identity.gathering import Around, gathered
from onomaxis.identity.schema import FLAVOR, FORMAT, TABLES, nearest
from onomaxis.identity.templates import NAME_IN, keystore_of, needed
from onomaxis.platforms import PLATFORMS


def read_identity(
    path: str, data: bytes, opened: Opened = never_opened, around: Around | None = None, strict: bool = True
) -> IdentityFile:
    """Read an identity file and check all that can be told from it, and from the keystores that *opened* opens.

    *around* gives the files of brands that it names. Raises InputError with file and line for an unknown key, a value
    of the wrong kind, a missing key; with *strict* also for values that their type or pattern forbids.
    """
    document = parsed(path, data)
    check_table(path, document, "", document.top, ())
    if document.top["format"] != FORMAT:
        raise fault(path, document, ("format",), f"this Onomaxis reads format {FORMAT}", "Bring Onomaxis up to date.")
    if around is not None:
        document = gathered(path, document, around)
    flavors = tuple(document.top.get("flavors", {}))
    folded: dict[str, str] = {}
    for name in flavors:
        if not FLAVOR.match(name):
            said = "it begins with a letter or digit and holds none of / \\ : * ? < > |"
            raise fault(path, document, ("flavors", name), f"“{name}” names no flavor: {said}")
        other = folded.setdefault(name.casefold(), name)
        if other != name:
            raise fault(path, document, ("flavors", name), f"“{name}” and “{other}” differ in case alone")
    file = IdentityFile(
        path, document, flavors, tuple(declared_values(path, document)), tuple(allowances(path, document)), opened
    )
    _check_values(file)
    if strict:
        file.refuse_wrong()
    return file


def _check_values(file: IdentityFile) -> None:
    """Refuse values that nobody declared, and templates that refer to nothing or to themselves."""
    declared = {item.name for item in file.values}
    tables: list[Path] = [("app",), *((platform,) for platform in PLATFORMS)]
    for flavor in file.flavors:
        tables += [("flavors", flavor), *(("flavors", flavor, platform) for platform in PLATFORMS)]
    colors = {name for table in tables for name in file._table((*table, "colors"))}
    for table in tables:
        for name in file._table((*table, "values")):
            if name not in declared:
                guess = nearest(name, tuple(declared))
                advice = f"Did you mean “{guess}”?" if guess else f"Add [values.{name}] with its places."
                at = (*table, "values", name)
                raise fault(file.path, file.document, at, f"no value “{name}” is declared", advice)
    known = declared | colors | {"flavor", *(key for key, item in TABLES["app"].items() if item.kind == "text")}
    known |= {"build"}
    for item in file.values:
        if not item.template:
            continue
        at = ("values", item.name, "template")
        keystores = {name for table in tables for name in file._table((*table, "keystores"))}
        told = (n for n in needed(item.template) if n not in known and not NAME_IN.match(n))
        unknown = next((n for n in told if keystore_of(n) not in keystores), "")
        if keystore_of(unknown):
            advice = f"Name it: [app.keystores.{keystore_of(unknown)}], with its file."
            said = f"there is no keystore “{keystore_of(unknown)}”"
            raise fault(file.path, file.document, at, said, advice)
        if unknown:
            guess = nearest(unknown, tuple(known))
            advice = f"Did you mean “{guess}”?" if guess else ""
            raise fault(file.path, file.document, at, f"there is no value “{unknown}”", advice)
        if _circular(item.name, {value.name: value.template for value in file.values}):
            raise fault(file.path, file.document, at, f"value “{item.name}” is derived from itself")


def _circular(name: str, templates: Mapping[str, str]) -> bool:
    pending, seen = [name], set()
    while pending:
        for inner in needed(templates.get(pending.pop(), "")):
            if inner == name:
                return True
            if inner not in seen:
                seen.add(inner)
                pending.append(inner)
    return False
