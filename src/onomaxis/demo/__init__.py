"""The demo project that ships with Onomaxis, and how it is copied out."""

from __future__ import annotations

import shutil
import tempfile
from importlib import resources
from pathlib import Path

from onomaxis.errors import InputError

ART = Path(__file__).parent / "lendspan" / "art"
"""The art of the demo: a ladder on a green ground, and the ladder alone."""


FLAVORS = ("alderbank", "mossgate", "pennywick")
KEYSTORE, PASSWORD = "keys/release.p12", "lendspan"


PACKAGES = "packages"
"""The folder of the demo's built packages, made by tools/demo_packages.py."""


def copy_packages(target: Path) -> None:
    """Copy the demo's built packages into *target*: Alderbank's, one of them with another brand's service in it."""
    _copy(PACKAGES, target / PACKAGES)


def copy_lockers(target: Path) -> bool:
    """Copy the app of the lockers, which has environments beside its neighbourhoods, into a new folder *target*."""
    if not target.exists():
        _copy("lockers", target)
    return True


def copy_demo(folder: str | None, counter: bool = False, brands: bool = False) -> Path:
    """Copy the demo project into *folder* (default: a new one for temporary files); return where it stands.

    With *counter* a second app stands beside the native pair: the tablet on the counter, in the layout of Flutter.
    With *brands* both are white-labelled for three neighbourhoods on every platform, with an identity file, service
    files, a keystore and some of the faults that creep in by hand.

    Raises InputError when the folder exists and holds something.
    """
    if folder is None:
        target = Path(tempfile.mkdtemp(prefix="onomaxis-demo-")) / "lendspan"
    else:
        target = Path(folder)
        if target.exists() and (not target.is_dir() or any(target.iterdir())):
            raise InputError(
                "the folder exists and is not empty", file=folder, remedy="Give the name of a new folder."
            )
    _copy("lendspan", target)
    if counter or brands:
        _copy("counter", target / "counter")
    if brands:
        from onomaxis.demo.brandmaking import white_label

        white_label(target, lambda: _copy("brands", target))
    return target


def _copy(name: str, place: Path) -> None:
    with resources.as_file(resources.files("onomaxis.demo") / name) as source:
        try:
            shutil.copytree(source, place, dirs_exist_ok=True)
        except OSError as error:
            raise InputError(f"cannot write here: {error.strerror}", file=str(place)) from None
