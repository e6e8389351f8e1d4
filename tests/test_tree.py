"""Which files are read: links, repositories within, ignore rules with and without git, checkouts of every sort."""

from __future__ import annotations

import os
import random
import shutil
import subprocess
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import GIT, Trap, commit_all, examples, files, onomaxis, snapshot
from onomaxis.tree import Tree

pytestmark = pytest.mark.processes  # git is asked what it would say

SCRIPT = "apply plugin: 'com.android.application'\n%sandroid {\n    namespace 'org.x.app'\n    defaultConfig { applicationId 'org.x.app' }\n}\n"
BASE = {
    "settings.gradle": "include ':app'\n",
    "app/build.gradle": SCRIPT % "",
    "app/src/main/AndroidManifest.xml": "<manifest/>\n",
    "app/src/main/java/org/x/app/Main.kt": "package org.x.app\nclass Main\n",
    "app/src/main/java/org/x/app/deep/Part.kt": "package org.x.app.deep\nclass Part\n",
}
NEW = "net.other.place.shed"
HOME = "app/src/main/java"


def git(folder: Path, *words: str) -> str:
    done = subprocess.run([*GIT, *words], cwd=folder, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout


# Where the link stands, what it says; where it stands after the rename and what it says then.
LINKS = {
    "to a folder elsewhere": (
        f"{HOME}/org/x/app/common",
        "../../../../../../../common",
        f"{HOME}/net/other/place/shed/common",
        "../../../../../../../../common",
    ),
    "to a file beside it": (f"{HOME}/org/x/app/Same.kt", "Main.kt", f"{HOME}/net/other/place/shed/Same.kt", "Main.kt"),
    "to a folder below it": (f"{HOME}/org/x/app/other", "deep", f"{HOME}/net/other/place/shed/other", "deep"),
    "to a file that moves": ("link.kt", f"{HOME}/org/x/app/Main.kt", "link.kt", f"{HOME}/net/other/place/shed/Main.kt"),
    "to a folder that moves": ("tools/code", f"../{HOME}/org/x/app", "tools/code", f"../{HOME}/net/other/place/shed"),
    "to a folder within": ("code", f"{HOME}/org/x/app/deep/", "code", f"{HOME}/net/other/place/shed/deep/"),
    "to what stays": ("manifest", "app/src/main/AndroidManifest.xml", "manifest", "app/src/main/AndroidManifest.xml"),
    "to nothing": (f"{HOME}/org/x/app/gone", "nowhere", f"{HOME}/net/other/place/shed/gone", "nowhere"),
    "out of the root": (f"{HOME}/org/x/app/away", "../../../../../../../../outside", f"{HOME}/net/other/place/shed/away", "../../../../../../../../../outside"),
    "absolute": (f"{HOME}/org/x/app/root", "/etc/hostname", f"{HOME}/net/other/place/shed/root", "/etc/hostname"),
}


@pytest.mark.parametrize("versioned", [False, True])
@pytest.mark.parametrize("name", LINKS)
def test_links_go_on_meaning_what_they_meant(tmp_path: Path, name: str, versioned: bool) -> None:
    """A link moves with its folder and is written anew where its text would mean another place; undo is exact."""
    where, text, there, said = LINKS[name]
    outside = files(tmp_path / "outside", {"Kept.kt": "package org.x.app\n"})
    root = files(tmp_path / "t", {**BASE, "common/Helper.kt": "package org.x.app.common\n// org.x.app\nclass Helper\n"})
    (root / where).parent.mkdir(parents=True, exist_ok=True)
    (root / where).symlink_to(text)
    if versioned:
        commit_all(root)
    before, kept = snapshot(root), snapshot(outside)
    aim = os.path.realpath(root / where)
    done = onomaxis("rename", root, "--id", NEW, "--json")
    assert done.code == 0, done.out
    assert (root / there).is_symlink() and os.readlink(root / there) == said  # noqa: PTH115
    moved = aim.replace(f"{HOME}/org/x/app", f"{HOME}/net/other/place/shed")
    assert os.path.realpath(root / there) == moved and snapshot(outside) == kept
    assert onomaxis("rename", root, "--id", NEW, "--json", "--allow-dirty").json["files"] == []
    assert onomaxis("undo", root, "--quiet").code == 0 and snapshot(root) == before


def test_nothing_is_read_over_a_link_that_leads_out(tmp_path: Path) -> None:
    """A script outside the root, over a folder link or a file link, is not read: its values are unknown."""
    files(tmp_path / "outside", {"secret.gradle": "ext.version = '6.6.6'\n"})
    script = "apply plugin: 'com.android.application'\napply from: 'away/secret.gradle'\napply from: 'one.gradle'\nandroid { defaultConfig { applicationId 'org.x.app'\nversionName version } }\n"
    root = files(tmp_path / "t", {**BASE, "app/build.gradle": script})
    (root / "app/away").symlink_to("../../outside")
    (root / "app/one.gradle").symlink_to("../../outside/secret.gradle")
    assert "6.6.6" not in onomaxis("survey", root, "--json").out
    tree = Tree.open(root)
    assert tree.read("app/away/secret.gradle") is None and tree.read("app/one.gradle") is None and not tree.exists("app/one.gradle")
    assert tree.read("app/../settings.gradle") == b"include ':app'\n" and tree.read("../outside/secret.gradle") is None


def test_repositories_within(tmp_path: Path) -> None:
    """Files of a submodule and of a repository that is not one are read, changed, guarded, and named as such."""
    part = f"{HOME}/org/x/app/lib"
    library = files(tmp_path / "library", {f"{part.removeprefix('app/')}/Lib.kt": 'package org.x.app.lib\nval id = "org.x.app"\n'})
    commit_all(library)
    root = files(tmp_path / "t", {**BASE, ".gitignore": ".onomaxis\n"})
    commit_all(root)
    git(root, "-c", "protocol.file.allow=always", "submodule", "--quiet", "add", str(library), "app/src/main/kit")
    commit_all(root)
    inner = files(root / "vendor/kit", {"Kit.kt": "package org.x.app.kit\n", ".gitignore": "made/\n", "made/Gone.kt": "package org.x.app\n"})
    commit_all(inner)
    tree = Tree.open(root)
    lib = next(path for path in tree.files if path.endswith("Lib.kt"))
    assert lib.startswith("app/src/main/kit/") and "vendor/kit/Kit.kt" in tree.known and "vendor/kit/made/Gone.kt" not in tree.known
    assert {"app/src/main/kit", "vendor/kit"} == tree.listing.repositories and "app/src/main/kit" not in tree.known
    preview = onomaxis("rename", root, "--id", "org.x.shed", "--dry-run", "--json").json
    assert any("app/src/main/kit: a repository of its own" in note for note in preview["notes"])
    (root / lib).write_text("package org.x.app.lib\n// mine org.x.app\n")
    done = onomaxis("rename", root, "--id", "org.x.shed")
    assert done.code == 3 and "uncommitted" in done.err and "Lib.kt" in done.err
    commit_all(root / "app/src/main/kit")
    done = onomaxis("rename", root, "--id", "org.x.shed", "--json", yes=False)
    mentioned = {item["file"] for item in done.json["residue"]} | set(done.json["files"])
    assert {path.rpartition("/")[2] for path in mentioned} >= {"Kit.kt", "Lib.kt"}, mentioned
    assert not any("org/x/app" in path for path in Tree.open(root).files)


def test_a_move_out_of_a_repository_is_refused(tmp_path: Path) -> None:
    """Sources of the app's own package that are a repository of their own do not move out of it."""
    root = files(tmp_path / "t", dict(BASE))
    commit_all(root)
    commit_all(root / f"{HOME}/org/x/app/deep")
    before = snapshot(root)
    done = onomaxis("rename", root, "--id", "org.x.shed", "--allow-dirty")
    assert done.code == 3 and snapshot(root) == before
    assert done.err.splitlines() == [
        f"onomaxis: {HOME}/org/x/app/deep/Part.kt: this file would move out of the repository {HOME}/org/x/app/deep into the one around it",
        "  Move that repository first (git mv), or pass --keep-code; nothing was changed.",
    ]
    assert onomaxis("rename", root, "--id", "org.x.shed", "--keep-code", "--quiet", "--allow-dirty").code == 0


RULES = {
    ".gitignore": "*.log\n!keep.log\nbuild/\n/only-here\n**/deep/*.tmp\n!/app/deep/kept.tmp\ndocs/*\n!docs/guide\nsp ace\\ \n# comment\n\\#hash\n\\!bang\n*.b[12]\nfoo/**/bar\n",
    "app/.gitignore": "!again.log\n*.kt\n!Main.kt\nbuild\n!/kept/\n",
    "docs/guide/.gitignore": "*\n!here.md\n",
}
PATHS = [
    "a.log", "keep.log", "app/again.log", "app/keep.log", "app/x.log", "build/x", "app/build/x", "src/build/x", "only-here", "app/only-here",
    "deep/a.tmp", "app/deep/a.tmp", "app/deep/kept.tmp", "docs/a.md", "docs/guide/here.md", "docs/guide/there.md", "docs/other/x.md", "sp ace ",
    "#hash", "!bang", "x.b1", "x.b3", "foo/bar", "foo/x/y/bar", "foo/x/barn", "app/A.kt", "app/Main.kt", "app/kept/x", "ü/ä.log", "ü/ä.txt",
]  # fmt: skip


def test_the_same_files_with_and_without_git(tmp_path: Path) -> None:
    """Nested and negated ignore rules: the walk lists what git lists."""
    root = files(tmp_path / "t", {**RULES, **dict.fromkeys(PATHS, "x\n")})
    without = Tree.open(root).files
    git(root, "init", "-q")
    assert Tree.open(root).files == without
    commit_all(root)
    assert Tree.open(root).files == without and len(without) > 12


PATTERNS = ["*.a", "!*.a", "/x", "x/", "!x/", "**/y", "x/*", "!x/b.a", "x/**", "*", "!*/", "?.b", "[ab].b", "y/x", "/y/", "b.*", "!b.b", " ", "#a.a"]


@settings(examples(60), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.sampled_from(PATTERNS), max_size=5), st.lists(st.sampled_from(PATTERNS), max_size=4), st.integers(0, 9))
def test_any_rules_hide_what_git_hides(tmp_path: Path, top: list[str], inner: list[str], seed: int) -> None:
    """Random rules in two ignore files over random small trees."""
    root = tmp_path / "t"
    shutil.rmtree(root, ignore_errors=True)
    chance = random.Random(seed)
    names = ["/".join(chance.choice(["x", "y", "a", "b"]) for _ in range(chance.randrange(3))) for _ in range(8)]
    paths = [f"{name}/{chance.choice(['a.a', 'b.a', 'a.b', 'b.b'])}".lstrip("/") for name in names]
    files(root, {**dict.fromkeys(paths, "x"), ".gitignore": "\n".join(top) + "\n", "x/.gitignore": "\n".join(inner) + "\n"})
    without = Tree.open(root).files
    git(root, "init", "-q")
    assert Tree.open(root).files == without


def test_checkouts_of_every_sort(tmp_path: Path) -> None:
    """Work trees, sparse checkouts, a repository that git does not trust, a folder that git ignores: said, not wrong."""
    root = files(tmp_path / "t", {**BASE, "docs/a.md": "org.x.app\n"})
    commit_all(root)
    listed = Tree.open(root).files
    git(root, "worktree", "add", "-q", str(tmp_path / "w"))
    assert Tree.open(tmp_path / "w").files == listed
    git(root, "sparse-checkout", "set", "--no-cone", "/app/", "/settings.gradle")
    done = onomaxis("survey", root)
    assert done.code == 0 and "sparse checkout: 1 files" in done.err and "docs/a.md" not in Tree.open(root).files
    git(root, "sparse-checkout", "disable")
    other = files(tmp_path / "o", {".gitignore": "sub/\n", **{f"sub/{path}": text for path, text in BASE.items()}})
    commit_all(other)
    assert set(Tree.open(other / "sub").files) == set(BASE)
    if os.getuid() == 0:
        for path in (root, *root.rglob("*")):
            os.lchown(path, 12345, 12345)
        done = onomaxis("survey", root, env={"HOME": tmp_path, "SUDO_UID": ""})
        assert done.code == 0 and "safe.directory" in done.err and Tree.open(root).files == listed
        refused = onomaxis("rename", root, "--id", "org.y", yes=False)
        assert refused.code == 3 and "version control" in refused.err


def test_git_runs_nothing_of_the_repository(tmp_path: Path, trap: Trap) -> None:
    """What a repository's own configuration would have git run is not run."""
    root = files(tmp_path / "t", dict(BASE))
    commit_all(root)
    git(root, "config", "core.fsmonitor", trap.word)
    git(root, "status")
    assert trap.sprung()
    assert onomaxis("survey", root).code == 0 and onomaxis("rename", root, "--id", "org.y", "--quiet").code == 0
    assert not trap.sprung()


def test_what_cannot_be_read_is_said(tmp_path: Path) -> None:
    """A pipe in the tree, a name that is not UTF-8, a folder and a file without permission: nothing hangs, nothing fails."""
    root = files(tmp_path / "t", {**BASE, "shut/in.txt": "org.x.app\n", "shut.txt": "org.x.app\n"})
    os.mkfifo(root / "pipe")
    os.mkfifo(root / "gradle.properties")
    (root / os.fsdecode(b"caf\xe9.txt")).write_text("org.x.app\n")
    (root / "shut").chmod(0)
    (root / "shut.txt").chmod(0)
    try:
        done = onomaxis("survey", root, "--json")
        assert done.code == 0 and [app["id"] for app in done.json["apps"]] == ["org.x.app"], done
        assert onomaxis("rename", root, "--id", "org.y", "--prose", "--quiet").code == 0
    finally:
        (root / "shut").chmod(0o755)
    assert (root / os.fsdecode(b"caf\xe9.txt")).read_text() == "org.y\n"
