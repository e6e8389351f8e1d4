"""Rules about occurrences that hold for every kind of project: what is prose, what belongs to others.

Each rule returns a reason why the mention stays, or an empty string.
"""

from __future__ import annotations

import re

from onomaxis import late
from onomaxis.formats.source import Source
from onomaxis.model import Role
from onomaxis.projects.occurrences import is_prose
from onomaxis.projects.project import Occurrence

# Files that another company's console made for one identifier: they must be fetched anew, not edited.
SERVICE_FILES = frozenset(
    {
        "google-services.json",
        "GoogleService-Info.plist",
        "agconnect-services.json",
        "assetlinks.json",
        "apple-app-site-association",
        "amplifyconfiguration.json",
    }
)
# What bundlers and compilers of scripts leave behind.
_COMPILED = (".bundle", ".jsbundle", ".hbc", ".js.map", ".css.map", ".min.js")
_COORDINATE = late.compile(r"[\w.-]*:(?!//)[\w\"'$]")
_PLUGIN_CALL = late.compile(r"""\b(?:id|group|groupId|plugin|plugins)\s*[(=:]?\s*["']\Z""")
_USER_DATA = late.compile(
    r"(?:getSharedPreferences|databaseBuilder|openOrCreateDatabase|preferencesDataStore|getSharedPreferencesName"
    r"|AccountManager|Account|SQLiteOpenHelper|RealmConfiguration)\s*\([^()\n]*\Z"
    # a constant that names a store, whatever it is called by the code that opens it
    r"|(?i:\b\w*(?:prefs|preferences|database|datastore|db)(?:_?(?:name|file|path))?\s*+(?::\s*+\w++\s*+)?=\s*+@?[\"']\Z)"
)
_STORE_FILE = late.compile(r"\.(?:prefs|preferences|db|sqlite3?|realm|datastore)\Z", re.IGNORECASE)
_DOC_LINK = late.compile(r"(?:\{@(?:link|linkplain|value|code)\s+|@(?:see|throws|exception)\s+|\[)\Z")
_URL_KEPT = late.compile(r"https?://[^\s]*[?&=][^\s/]*\Z|https?://schemas\.android\.com/apk/res/\Z")


def _is_code(path: str, hit: Occurrence) -> bool:
    """Tell a string of the app's code from one of a build script: there ``a.b.db`` is a package to generate."""
    return hit.context == "string" and not path.endswith((".gradle", ".kts", ".toml"))


def is_service_file(path: str) -> bool:
    """Tell whether *path* is a service's own file."""
    return path.rpartition("/")[2] in SERVICE_FILES


def other_app(token: str, foreign: tuple[str, ...]) -> str:
    """Return the identifier of another app that *token* is or lies below, or an empty string."""
    return next((other for other in foreign if token == other or token.startswith(other + ".")), "")


def belongs_elsewhere(path: str, source: Source, hit: Occurrence, foreign: tuple[str, ...]) -> str:
    """Return why an occurrence is not this app's own, or an empty string."""
    if is_service_file(path):
        return "a service's own file: fetch a new one for the new ID (or --services rewrite)"
    if path.endswith(_COMPILED):
        return "a compiled copy: the build makes it again"
    other = other_app(hit.token, foreign)
    if other:
        return f"another app of this repository ({other})"
    if hit.before.startswith(("http://", "https://")) and not _URL_KEPT.match(hit.before):
        return "part of a web address"
    head = source.view[max(0, hit.start - 160) : hit.start]
    if hit.context == "string" or path.endswith(".toml"):
        if _COORDINATE.match(source.view, hit.start + len(hit.token)) and path.endswith((".gradle", ".kts", ".toml")):
            return "a Maven coordinate"
        if path.endswith((".gradle", ".kts", ".toml")) and _PLUGIN_CALL.search(head):
            return "a Gradle plug-in or Maven group"
        if _USER_DATA.search(head) or (_is_code(path, hit) and _STORE_FILE.search(hit.token)):
            return "users' data is kept under this name: changing it would cut users off"
    return ""


def prose(path: str, source: Source, hit: Occurrence) -> str:
    """Return why an occurrence is prose, or an empty string. Documentation links are code."""
    if is_prose(path):
        return "a document (--prose changes it)"
    if hit.context == "comment":
        head = source.view[max(0, hit.start - 40) : hit.start]
        if path.endswith((".kt", ".java")) and _DOC_LINK.search(head):
            return ""
        return "a comment (--prose changes it)"
    return ""


def standing(path: str, source: Source, hit: Occurrence, foreign: tuple[str, ...]) -> tuple[Role, str] | None:
    """Return the role and reason of an occurrence that does not follow, None for one that does."""
    reason = belongs_elsewhere(path, source, hit, foreign)
    if reason:
        return Role.OUTSIDE, reason
    reason = prose(path, source, hit)
    return (Role.PROSE, reason) if reason else None
