"""A package opened: what it is, is recognised by its contents, never by its name."""

from __future__ import annotations

import hashlib
from pathlib import Path

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.binary.archive import Archive, is_archive
from onomaxis.formats.binary.compiled_xml import is_compiled
from onomaxis.packages.facts import Package
from onomaxis.packages.files import Files, Folder

# APKs inside another archive are taken into memory where they are packed: so many bytes at most.
_MOST_INNER = 160 * 1024 * 1024
_MOST_SPLITS = 500
_INFO, _MANIFEST, _BUNDLE = "Info.plist", "AndroidManifest.xml", "base/manifest/AndroidManifest.xml"
_KINDS = "an APK, a set of APKs, an app bundle, an IPA, an .app or an .xcarchive"


def open_package(path: str) -> Package:
    """Read a package. Raises InputError for what is none, is damaged, or is made to mislead or to be costly."""
    place = Path(path)
    try:
        found = _folder(path, place) if place.is_dir() else _file(path, place)
    except FormatError as error:
        raise InputError(error.message, file=path, remedy="Nothing was unpacked or run.") from None
    except FileNotFoundError:
        raise InputError("there is no such package", file=path) from None
    except (OSError, ValueError) as error:
        said = getattr(error, "strerror", None) or str(error)
        raise InputError(f"the package cannot be read: {said}", file=path) from None
    except RecursionError:
        raise InputError("the package nests its parts beyond all use", file=path) from None
    if found is None:
        raise InputError(f"this is not a package: neither {_KINDS}", file=path, remedy="Give what the build made.")
    return found


def _file(path: str, place: Path) -> Package | None:
    with place.open("rb") as file:
        head = file.read(4)
    if not is_archive(head):
        return None
    archive = Archive.open(place)
    if _MANIFEST in archive and is_compiled(archive.head(_MANIFEST, 4)):
        return _read_apks(path, "apk", [("", archive)])
    if _BUNDLE in archive:
        return _read_bundle(path, archive)
    apps = _apps(archive, "Payload/")
    if apps:
        return _read_app(path, "ipa", archive, _only(apps, "Payload"))
    inner = [name for name in archive.names() if name.endswith(".apk")]
    return _set(path, archive, inner) if inner else None


def _set(path: str, archive: Archive, names: list[str]) -> Package:
    """Read a set of APKs: the universal one where it is there, else the base and its splits."""
    universal = [name for name in names if name == "universal.apk"]
    split = [name for name in names if not name.startswith(("standalones/", "instant/"))]
    chosen = universal or split or names[:1]
    if len(chosen) > _MOST_SPLITS:
        raise FormatError(f"the set holds {len(chosen)} APKs: more than any store makes")
    packed = sum(entry.size for name in chosen if (entry := archive.entries[name]).method != 0)
    if packed > _MOST_INNER:
        raise FormatError(f"its APKs hold {packed:,} bytes: too many to be read out of their archive")
    layers = [(f"{name}/", _inner(archive, name)) for name in chosen]
    return _read_apks(path, "apks", _one_variant(layers))


def _one_variant(layers: list[tuple[str, Archive]]) -> list[tuple[str, Archive]]:
    """Leave out the variants of an APK for other devices (``base-master_2.apk``): they say the same."""
    names = {lead for lead, _ in layers}

    def again(lead: str) -> bool:
        first, _, number = lead.removesuffix(".apk/").rpartition("_")
        return number.isdecimal() and f"{first}.apk/" in names

    return [item for item in layers if not again(item[0])]


def _inner(archive: Archive, name: str) -> Archive:
    entry = archive.entries[name]
    try:
        return Archive(archive.stored_at(name) if entry.method == 0 else archive.read(name, _MOST_INNER))
    except FormatError as error:
        raise FormatError(f"{name}: {error.message}") from None


def _folder(path: str, place: Path) -> Package | None:
    """Read a bundle, an archive of Xcode, or a folder of split APKs."""
    if (place / _INFO).is_file() and (place / "Products" / "Applications").is_dir():
        files: Files = Folder(place)
        return _read_app(path, "xcarchive", files, _only(_apps(files, "Products/Applications/"), "Products"))
    if (place / _INFO).is_file() or (place / "Contents" / _INFO).is_file():
        return _read_app(path, "app", Folder(place), "")
    found = sorted(item for item in place.iterdir() if item.is_file() and not item.is_symlink())
    apks = [item for item in found if item.suffix == ".apk" or _is_apk(item)]
    if not apks:
        return None
    if len(apks) > _MOST_SPLITS:
        raise FormatError(f"the folder holds {len(apks)} APKs: more than one package is split into")
    layers = []
    for item in apks:
        try:
            layers.append((f"{item.name}/", Archive.open(item)))
        except FormatError as error:
            raise FormatError(f"{item.name}: {error.message}") from None
    return _read_apks(path, "apks", layers)


def _is_apk(path: Path) -> bool:
    with path.open("rb") as file:
        if not is_archive(file.read(4)):
            return False
    return _MANIFEST in Archive.open(path)


def _apps(files: Files, lead: str) -> list[str]:
    """Return the folders of the apps that lie in a folder."""
    found = set()
    for name in files.names():
        app, slash, rest = name[len(lead) :].partition(".app/")
        if name.startswith(lead) and slash and "/" not in app and rest in (_INFO, f"Contents/{_INFO}"):
            found.add(f"{lead}{app}.app/")
    return sorted(found)


def _only(apps: list[str], where: str) -> str:
    if len(apps) != 1:
        raise FormatError(f"{where} holds {len(apps)} apps, and one is expected")
    return apps[0]


# Only the readers of one platform are loaded: a small package takes no longer to read than they do.


def _read_apks(path: str, kind: str, layers: list[tuple[str, Archive]]) -> Package:
    from onomaxis.packages.android import read_apks

    return read_apks(path, kind, layers)


def _read_bundle(path: str, archive: Archive) -> Package:
    from onomaxis.packages.android import read_bundle

    return read_bundle(path, archive)


def _read_app(path: str, kind: str, files: Files, root: str) -> Package:
    from onomaxis.packages.apple import read_app

    return read_app(path, kind, files, root)


def digest_of(package: Package) -> str:
    """Return the digest of a package: of its file's bytes; of a folder, of the names and bytes of all its files."""
    path = Path(package.path)
    if path.is_file():
        with path.open("rb") as file:
            return f"sha256:{hashlib.file_digest(file, 'sha256').hexdigest()}"
    found = hashlib.sha256()
    for lead, files in package.content.layers:
        for name in sorted(files.names()):
            found.update(f"{lead}{name}\0{files.size(name)}\0".encode("utf-8", "surrogateescape"))
            for part in files.chunks(name):
                found.update(part)
    return f"sha256:{found.hexdigest()}"
