"""What an identifier found in a file of an Android project means there."""

from __future__ import annotations

from dataclasses import dataclass

from onomaxis import late
from onomaxis.formats.source import Source
from onomaxis.model import Facet, Mention, Role, Scope
from onomaxis.projects.android.manifest import names_class
from onomaxis.projects.android.packages import CodeIndex, SourceFile, within
from onomaxis.projects.occurrences import FORMS, ending, is_told, language_of
from onomaxis.projects.ownership import is_service_file, standing
from onomaxis.projects.project import Hits, Occurrence, place

_EDITED = frozenset(
    """.java .kt .kts .groovy .gradle .aidl .xml .pro .properties .toml .c .cc .cpp .h .hpp .mk .sq .sqm .proto
    .graphql .graphqls .rs .fbs""".split()
)
_CODE = frozenset(""".java .kt .kts .groovy .aidl""".split())
# Calls that are given a class by its name (java.lang.ClassLoader, android.content.Intent and ComponentName).
_CLASS_CALL = late.compile(
    r"""\b(?:forName|loadClass|setClassName|ComponentName)\s*+\((?>(?:[^()"\n]|\([^()\n]*\)|"[^"\n]*"\s*+,)*)"\Z"""
)


@dataclass(frozen=True)
class Names:
    """The identifiers that an Android build goes by: application IDs, namespaces, code packages."""

    application_ids: tuple[str, ...]
    namespaces: tuple[str, ...]
    packages: tuple[str, ...]
    index: CodeIndex
    modules: tuple[str, ...]
    placed: tuple[SourceFile, ...] = ()

    def has_code(self, token: str) -> bool:
        """Tell whether *token* lies in a package or namespace of the build."""
        return any(within(token, name) for name in (*self.namespaces, *self.packages))

    def has_id(self, token: str) -> bool:
        """Tell whether *token* is an application ID or below one."""
        return any(within(token, name) for name in self.application_ids)


def classify(names: Names, foreign: tuple[str, ...], path: str, source: Source, hits: Hits) -> list[Mention]:
    """Say what each occurrence is: the ID, the code package, or something that stays."""
    return [_one(names, foreign, path, source, hit) for hit in hits]


def _one(names: Names, foreign: tuple[str, ...], path: str, source: Source, hit: Occurrence) -> Mention:
    scope = Scope("android", _module(names.modules, path))
    form = hit.syntax if hit.syntax in FORMS else "raw"
    spot = place(path, source, hit.start, hit.end, form)
    facet = _facet(names, path, source, hit) if form == "raw" else Facet.CODE_PACKAGE
    stays = standing(path, source, hit, foreign)
    if stays is None:
        stays = _kept(names, path, source, hit, facet)
    if stays:
        return Mention(facet, stays[0], spot, hit.identifier, scope, reason=stays[1])
    return Mention(facet, Role.FOLLOWER, spot, hit.identifier, scope)


def _module(folders: tuple[str, ...], path: str) -> str:
    for folder in folders:
        if folder and path.startswith(folder + "/"):
            return folder.rpartition("/")[2]
    return ""


def _facet(names: Names, path: str, source: Source, hit: Occurrence) -> Facet:
    """Tell code from ID: where a class is named, and a class or package of the tree, is code; the rest is the ID."""
    if is_service_file(path):
        return Facet.APPLICATION_ID
    if hit.context == "attribute" and names_class(hit.holder):
        return Facet.CODE_PACKAGE  # also a class that is generated or in a library
    is_code = names.index.is_code(hit.token)
    written_as_code = hit.context in ("code", "tag") and not is_told(path)
    if hit.token in names.application_ids and hit.context != "comment" and not written_as_code:
        # The bare ID in a string is what the device reports at run time, even where a package has the same name.
        return Facet.APPLICATION_ID
    if hit.context == "string" and _CLASS_CALL.search(source.view, max(0, hit.start - 200), hit.start):
        return Facet.CODE_PACKAGE
    if is_told(path) and source.view[hit.start - 1 : hit.start] == "/":
        return Facet.CODE_PACKAGE  # "am start -n ID/CLASS"
    if written_as_code and (is_code or names.has_code(hit.token)):
        return Facet.CODE_PACKAGE
    if is_code or (names.has_code(hit.token) and not names.has_id(hit.token)):
        return Facet.CODE_PACKAGE
    return Facet.APPLICATION_ID


def _kept(names: Names, path: str, source: Source, hit: Occurrence, facet: Facet) -> tuple[Role, str] | None:
    if hit.syntax in FORMS:
        return _kept_form(names, path, hit)
    if path.rpartition("/META-INF/services/")[2].count("/") == 0 and "/META-INF/services/" in path:
        return None
    if ending(path) not in _EDITED and language_of(path) is None:
        return Role.OUTSIDE, "not a file of a known kind: change it by hand if it means this app"
    attribute = hit.holder.rpartition("@")[2].rpartition(":")[2]
    if attribute == "sharedUserId":
        return Role.OUTSIDE, "users' data is kept under this name: changing it would cut users off"
    if hit.holder.startswith("package@") and hit.token not in names.application_ids:
        return Role.OUTSIDE, "another app's package, named in queries"
    if hit.context == "attribute" and hit.holder.startswith("data@") and attribute == "host":
        return Role.OUTSIDE, "the host of a deep link"
    if hit.context == "code" and facet is Facet.APPLICATION_ID and ending(path) in _CODE:
        if source.line_around(hit.start).lstrip().startswith("package "):
            return Role.OUTSIDE, "a package of its own: line and folder stay as they are (--code-package moves them)"
        return Role.OUTSIDE, "a package that is not the module's own: it stays where it is"
    if path.endswith(".proto") and source.line_around(hit.start).lstrip().startswith("package "):
        return Role.OUTSIDE, "a package on the wire: what talks to this app knows it (java_package is the code's)"
    if ending(path) in (".c", ".cc", ".cpp", ".h", ".hpp") and hit.context == "code":
        return Role.OUTSIDE, "native code"
    return None


def _kept_form(names: Names, path: str, hit: Occurrence) -> tuple[Role, str] | None:
    """Say why a path or a native symbol stays: only what names a package or class of the tree moves with it."""
    if names.index.is_code(hit.token):
        return None
    if hit.syntax == "jni":
        return Role.OUTSIDE, "a symbol that spells the package, and names no class of this tree"
    return Role.OUTSIDE, "a path that spells the package, and names no package or class of this tree"
