"""Branded copies of a tree: each what a stamp in place makes, the original untouched, resumable, nothing foreign written over."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from pathlib import Path

import pytest
from PIL import Image

from brands import project
from conftest import commit_all, files, onomaxis, snapshot
from onomaxis.brands import copies
from onomaxis.brands.copies import copy_brands
from onomaxis.demo import copy_demo
from onomaxis.tree import Tree
from test_neighbours import agency

NAMES = ("alderbank", "mossgate", "pennywick")
TABLES = 'format = 1\n[app]\nid = "org.lendspan.app"\n[values.server]\nvalue = "https://main.lendspan.org"\nplaces = [{ plist = "LendspanServer" }]\n'


def template(root: Path) -> Path:
    brands = "".join(
        f'[flavors.{name}]\nid = "org.lendspan.{name}"\nname = "{name.title()} & Co"\nvalues = {{ server = "https://{name}.org" }}\n' for name in NAMES
    )
    made = files(
        root, {**project(False), "onomaxis.toml": TABLES + brands, ".gitignore": "ignored.txt\nbuild/\n", "tool.sh": "#!/bin/sh\n", "Pods/kept.txt": "kept\n"}
    )
    (made / "tool.sh").chmod(0o755)
    (made / "link").symlink_to("app/build.gradle.kts")
    (made / "out").symlink_to("/etc/hostname")
    Image.new("RGB", (9, 9), "red").save(made / "picture.png")
    commit_all(made)
    (made / "ignored.txt").write_text("no\n")
    (made / "new.txt").write_text("untracked\n")
    (made / "lib/brand.dart").write_text((made / "lib/brand.dart").read_text() + "// dirty\n")
    return made


def held(root: Path) -> dict[str, tuple[str, bytes, int]]:
    """Return everything below a folder but repository and journal: kind, bytes, permissions."""
    found: dict[str, tuple[str, bytes, int]] = {}
    for here, folders, names in os.walk(root):
        folders[:] = [name for name in folders if name not in (".git", ".onomaxis")]
        for name in (*names, *(f for f in folders if (Path(here) / f).is_symlink())):
            path = Path(here) / name
            key = path.relative_to(root).as_posix()
            if path.is_symlink():
                found[key] = ("link", str(path.readlink()).encode(), 0)
            else:
                found[key] = ("file", path.read_bytes(), path.stat().st_mode & 0o777)
    return found


def test_a_copy_is_what_a_stamp_in_place_makes(tmp_path: Path) -> None:
    """Files that git takes, dirty as they lie, links as links, permissions; no hard link; the original stays as it is."""
    root = template(tmp_path / "x")
    before = snapshot(root)
    done = onomaxis("stamp", root, "--flavor", "Mossgate", "--flavor", "alderbank", "--into", tmp_path / "out", "--json")
    assert done.code == 0, done.err
    assert [item["flavor"] for item in done.json["copies"]] == ["mossgate", "alderbank"] and snapshot(root) == before
    for item in done.json["copies"]:
        copied = held(tmp_path / "out" / item["flavor"])
        there = tmp_path / f"there-{item['flavor']}"
        shutil.copytree(root, there, symlinks=True)
        (there / "ignored.txt").unlink()
        assert onomaxis("stamp", there, "--flavor", item["flavor"], "--allow-dirty").code == 0
        (there / "onomaxis.toml").unlink()  # the fleet's own file
        assert copied == held(there)
        assert (item["files"], item["folder"]) == (len(copied), (tmp_path / "out" / item["flavor"]).as_posix())
        assert item["changed"] == sum(copied[path] != other for path, other in held(root).items() if path in copied) > 0
        assert copied["new.txt"][1] == b"untracked\n" and b"// dirty" in copied["lib/brand.dart"][1] and "Pods/kept.txt" in copied
    inodes = {(path.stat().st_dev, path.stat().st_ino) for path in root.rglob("*") if path.is_file()}
    assert not inodes & {(path.lstat().st_dev, path.lstat().st_ino) for path in (tmp_path / "out").rglob("*") if path.is_file() and not path.is_symlink()}


def test_a_second_call_makes_what_is_missing(tmp_path: Path) -> None:
    """Finished copies are left alone, whatever was done in them; an unfinished one is made anew; all flavors at once."""
    root, out = template(tmp_path / "x"), tmp_path / "out"
    assert onomaxis("stamp", root, "--flavor", "mossgate", "--into", out).code == 0
    (out / "mossgate/mine.txt").write_text("mine\n")
    onomaxis("stamp", root, "--flavor", "alderbank", "--into", out)
    mark = out / ".onomaxis-copy.alderbank.json"
    mark.write_text(json.dumps({"format": 1, "state": "begun"}))
    (out / "alderbank/half.txt").write_text("half\n")
    done = onomaxis("stamp", root, "--every-flavor", "--into", out, "--json")
    assert done.code == 0 and [item["flavor"] for item in done.json["copies"]] == list(NAMES)
    assert (out / "mossgate/mine.txt").exists() and not (out / "alderbank/half.txt").exists()
    assert "org.lendspan.pennywick" in (out / "pennywick/app/build.gradle.kts").read_text()
    shutil.rmtree(out / "mossgate")
    onomaxis("stamp", root, "--every-flavor", "--into", out)
    assert (out / "mossgate/new.txt").exists()
    again = onomaxis("stamp", root, "--every-flavor", "--into", out, "--json").json
    assert [item["files"] for item in again["copies"]] == [item["files"] for item in done.json["copies"]]


@pytest.mark.parametrize("what", ["a folder", "a file", "a link", "inside", "the project", "inside by a link", "a mark of another form"])
def test_what_is_not_ones_own_is_not_written_over(tmp_path: Path, what: str) -> None:
    """A place that something else has, a folder in the project: refused before anything is made."""
    root, out = template(tmp_path / "x"), tmp_path / "out"
    (tmp_path / "other").mkdir()
    if what in ("a folder", "a mark of another form"):
        (out / "mossgate").mkdir(parents=True)
        if what == "a mark of another form":
            (out / ".onomaxis-copy.mossgate.json").write_text('{"format": 2}')
    elif what == "a file":
        out.mkdir()
        (out / "mossgate").write_text("x")
    elif what == "a link":
        out.mkdir()
        (out / "mossgate").symlink_to(tmp_path / "other")
        (out / ".onomaxis-copy.mossgate.json").write_text('{"format": 1, "state": "begun"}')
    elif what == "inside by a link":
        out.symlink_to(root / "app")
    target = {"inside": root / "app/out", "the project": root}.get(what, out)
    before = snapshot(tmp_path)
    done = onomaxis("stamp", root, "--flavor", "alderbank", "--flavor", "mossgate", "--into", target)
    assert done.code == 3 and snapshot(tmp_path) == before, done.err


def test_what_copies_do_not_take(tmp_path: Path) -> None:
    """An unknown flavor, none at all, options of a stamp in place, several without a folder: exit 2, nothing made."""
    root, out = template(tmp_path / "x"), tmp_path / "out"
    for words in (["--flavor", "nobody"], [], ["--flavor", "mossgate", "--dry-run"]):
        assert onomaxis("stamp", root, *words, "--into", out).code == 2 and not out.exists()
    assert onomaxis("stamp", root, "--flavor", "mossgate", "--flavor", "alderbank").code == 2
    assert onomaxis("stamp", root, "--every-flavor").code == 2


def test_a_flavor_that_cannot_be_stamped_leaves_nothing_of_itself(tmp_path: Path) -> None:
    """What is wrong is told as by a stamp in place; the copies that were made stay, the next call goes on."""
    root, out = template(tmp_path / "x"), tmp_path / "out"
    text = (root / "onomaxis.toml").read_text()
    (root / "onomaxis.toml").write_text(text.replace('id = "org.lendspan.mossgate"', 'id = "1.bad"'))
    done = onomaxis("stamp", root, "--every-flavor", "--into", out)
    assert done.code == 2 and "1.bad" in done.err and not (out / "mossgate").exists()
    (root / "onomaxis.toml").write_text(text)
    assert onomaxis("stamp", root, "--every-flavor", "--into", out).code == 0 and (out / "mossgate").is_dir()


def test_without_git_and_without_shared_blocks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Elsewhere the ignore rules say what counts; a file system that shares no blocks gets the bytes."""
    root = template(tmp_path / "x")
    shutil.rmtree(root / ".git")
    monkeypatch.setattr(copies, "_cloned", lambda source, target: False)
    made = copy_brands(Tree.open(root), ["mossgate"], tmp_path / "out")
    copied = held(tmp_path / "out/mossgate")
    assert "new.txt" in copied and "ignored.txt" not in copied and made[0].files == len(copied)
    monkeypatch.setattr(copies, "_cloned", lambda source, target: os.sendfile(target, source, 0, 1 << 20) >= 0)
    copy_brands(Tree.open(root), ["alderbank"], tmp_path / "out")
    assert held(tmp_path / "out/alderbank")["new.txt"][1] == b"untracked\n"


def test_a_repository_within_goes_along(tmp_path: Path) -> None:
    """A submodule's files are copied as files; its repository stays behind."""
    root = template(tmp_path / "x")
    inner = files(tmp_path / "inner", {"a.txt": "a\n"})
    commit_all(inner)
    subprocess.run(["git", "-C", root, "-c", "protocol.file.allow=always", "submodule", "add", "-q", inner, "sub"], check=True, capture_output=True)
    assert onomaxis("stamp", root, "--flavor", "mossgate", "--into", tmp_path / "out").code == 0
    assert (tmp_path / "out/mossgate/sub/a.txt").read_text() == "a\n" and not (tmp_path / "out/mossgate/sub/.git").exists()


def test_a_name_that_a_language_repeats_goes_with_the_brands_name(tmp_path: Path) -> None:
    """What adopt writes of a template stamps: a brand is not called by the app's name where a language's file repeats it."""
    root = copy_demo(str(tmp_path / "x"))
    commit_all(root)
    assert onomaxis("adopt", root, "--yes").code == 0
    told = (root / "onomaxis.toml").read_text()
    assert '[ios.names]\nen = "Lendspan"' in told
    done = onomaxis("stamp", root, "--flavor", "alderbank", "--flavor", "mossgate", "--into", tmp_path / "out", "--json")
    assert done.code == 0 and [item["flavor"] for item in done.json["copies"]] == ["alderbank", "mossgate"]
    for flavor, shown, german in (("alderbank", "Alderbank Tools", "Erlenufer"), ("mossgate", "Mossgate Shed", "Moostor")):
        there = tmp_path / "out" / flavor / "ios/Lendspan"
        assert f'"{shown}"' in (there / "en.lproj/InfoPlist.strings").read_text()
        assert f'"{german}"' in (there / "de.lproj/InfoPlist.strings").read_text()
        assert (there / "fr.lproj/InfoPlist.strings").read_bytes() == (root / "ios/Lendspan/fr.lproj/InfoPlist.strings").read_bytes()
    (root / "onomaxis.toml").write_text(told.replace("[flavors.alderbank.names]\n", '[flavors.alderbank.names]\nen = "Lendspan"\n'))
    assert onomaxis("stamp", root, "--flavor", "alderbank", "--allow-dirty", "--yes").code == 0
    assert '"CFBundleDisplayName" = "Lendspan"' in (root / "ios/Lendspan/en.lproj/InfoPlist.strings").read_text(), "said for the brand itself"
    assert "Alderbank Tools" in (root / "ios/Lendspan.xcodeproj/project.pbxproj").read_text()


@pytest.mark.parametrize("leads", ["absolute", "relative"])
def test_nothing_is_read_or_written_beyond_a_link(tmp_path: Path, leads: str) -> None:
    """The index names a file where a link now stands that leads out: neither copied from there nor written there."""
    root = template(tmp_path / "x")
    files(root, {"lend/secret.txt": "ours\n"})
    commit_all(root)
    outside = files(tmp_path / "outside", {"secret.txt": "theirs\n"})
    shutil.rmtree(root / "lend")
    (root / "lend").symlink_to(outside if leads == "absolute" else "../outside")
    done = onomaxis("stamp", root, "--flavor", "alderbank", "--into", tmp_path / "deep/out", "--json")
    assert done.code == 0
    copy = tmp_path / "deep/out/alderbank"
    assert (copy / "lend").is_symlink() and "secret.txt" not in [path.name for path in copy.rglob("*")]
    assert [path.name for path in outside.iterdir()] == ["secret.txt"] and (outside / "secret.txt").read_text() == "theirs\n"
    assert not (tmp_path / "deep/outside").exists()


def test_a_copy_for_one_brand_alone(tmp_path: Path) -> None:
    """A search finds nothing of the others in it, environments stay, it ships what it shipped; what cannot go is named."""
    root = agency(tmp_path / "app")
    script = root / "android/app/build.gradle.kts"
    text = script.read_text().replace('flavorDimensions += "brand"', 'flavorDimensions += listOf("brand", "stage")')
    stages = "".join(f'        create("{name}") {{ dimension = "stage" }}\n' for name in ("staging", "production"))
    script.write_text(text.replace("    }\n}\n", f"{stages}    }}\n}}\n"))
    (root / "lib").mkdir()
    (root / "lib/all.dart").write_text("final all = [Brand.alderbank, Brand.mossgate, Brand.pennywick];\n")
    apps = lambda folder: {(a["platform"], a["flavor"], a["id"], a["name"]) for a in onomaxis("survey", folder, "--json").json["apps"]}  # noqa: E731
    before = apps(root)
    done = onomaxis("stamp", root, "--every-flavor", "--into", tmp_path / "out", "--only-brand", "--json")
    assert done.code == 1, done.err  # prose that names all three is not a list
    for item in done.json["copies"]:
        copied, others = held(tmp_path / "out" / item["flavor"]), {name for name in NAMES if name != item["flavor"]}
        assert {left.partition(":")[0] for left in item["left"]} == {"other/notes.md"}
        found = {path for path, (_, data, _) in copied.items() for name in others if name.encode() in data.lower() or name in path.lower()}
        assert found == {"other/notes.md"} and "onomaxis.toml" not in copied
        assert apps(tmp_path / "out" / item["flavor"]) == {app for app in before if item["flavor"] in app[1].casefold()}
