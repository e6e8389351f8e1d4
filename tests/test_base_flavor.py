"""The app that goes on as a flavor: the identity file speaks of it, and what it is called stands in one place."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files, onomaxis, snapshot
from hybrids import spelled

KINDS = ["flutter", "react-native", "capacitor"]
ADDED = ["--id", "org.lendspan.mossgate", "--shown", "Mossgate", "--base", "lendspan"]


def grown(tmp_path: Path, kind: str) -> Path:
    """Return a project that has an identity file and two flavors, of which one is the app as it was."""
    root = files(tmp_path, spelled(kind, "org.lendspan", "Lend", "1.0.0", "3"))
    assert onomaxis("adopt", root).code == 0
    before = snapshot(root)
    done = onomaxis("flavor", "add", "mossgate", root, *ADDED)
    assert done.code == 0, done.err
    assert snapshot(root) != before
    return root


def named(root: Path, name: str) -> list[str]:
    """Return the files in which a display name stands."""
    return [str(path.relative_to(root)) for path in sorted(root.glob("ios/**/*")) if path.is_file() and name in path.read_text(errors="replace")]


@pytest.mark.parametrize("kind", KINDS)
def test_the_identity_file_speaks_of_it(tmp_path: Path, kind: str) -> None:
    """Right after it was made nothing is to be stamped, and no flavor is one that the file does not know."""
    root = grown(tmp_path, kind)
    text = (root / "onomaxis.toml").read_text()
    assert text.index("[flavors.lendspan]\n") < text.index("[flavors.mossgate]\n")
    assert onomaxis("stamp", root, "--json").json["files"] == []
    found = onomaxis("check", root, "--json").json["findings"]
    assert not [item for item in found if item["code"].startswith("FLAVOR")]


def test_a_later_name_of_its_own(tmp_path: Path) -> None:
    """Where the new flavor has no name, one that is stamped later is said in that flavor's file, the others' stay."""
    root = files(tmp_path, spelled("flutter", "org.lendspan", "Lend", "1.0.0", "3"))
    assert onomaxis("adopt", root).code == 0
    assert onomaxis("flavor", "add", "mossgate", root, "--id", "org.lendspan.mossgate", "--base", "lendspan").code == 0
    assert onomaxis("flavor", "add", "alderbank", root, "--id", "org.lendspan.alderbank").code == 0
    identity = root / "onomaxis.toml"
    identity.write_text(identity.read_text().replace("[flavors.mossgate]\n", '[flavors.mossgate]\nname = "Mossgate Shed"\n'))
    assert onomaxis("stamp", root).code == 0
    files_of = {path.stem: path.read_text() for path in root.glob("ios/**/*.xcconfig")}
    assert {name: text.count("BRAND_NAME = ") for name, text in files_of.items() if name in ("alderbank", "lendspan", "mossgate")} == {
        "alderbank": 1,
        "lendspan": 1,
        "mossgate": 1,
    }
    assert named(root, "Mossgate Shed") == [str(next(root.glob("ios/**/mossgate.xcconfig")).relative_to(root))]
    assert onomaxis("stamp", root, "--json").json["files"] == []
    assert onomaxis("flavor", "retire", "mossgate", root).code == 0
    assert named(root, "Mossgate Shed") == []
