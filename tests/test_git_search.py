"""A search that git does finds the same files as one that reads every file, in trees made to be odd."""

from __future__ import annotations

import random
import subprocess
import sys
from pathlib import Path

import pytest

from onomaxis import git_search, tree
from onomaxis.projects import KINDS, kind_named
from onomaxis.tree import Tree
from onomaxis.workers import halved

ID = "org.lendspan.app"
SAID = f"the ID is {ID}, and no other\n"
CONTENTS: dict[str, bytes] = {
    "plain.txt": SAID.encode(),
    "none.txt": b"nothing here\n",
    "crlf.txt": SAID.replace("\n", "\r\n").encode(),
    "marked.txt": b"\xef\xbb\xbf" + SAID.encode(),
    "latin.txt": b"caf\xe9 " + SAID.encode(),
    "latin name.txt": "Lendspänn".encode("latin-1"),
    "wide.strings": SAID.encode("utf-16"),
    "wide big.strings": b"\xfe\xff" + SAID.encode("utf-16-be"),
    "wide bare.strings": SAID.encode("utf-16-le"),
    "wider.strings": SAID.encode("utf-32"),
    "wide none.strings": "nothing".encode("utf-16"),
    "binary.dat": b"\0\1\2" + SAID.encode(),
    "late nul.txt": SAID.encode() + b"x" * 9000 + b"\0",
    "long line.txt": b"y" * 300_000 + ID.encode(),
    "no end.txt": ID.encode(),
    "empty.txt": b"",
    "picture.png": SAID.encode(),
    "name with \n in it.txt": SAID.encode(),
    "folder/ümlaut.txt": SAID.encode(),
    ".hidden": SAID.encode(),
    "ignored.txt": SAID.encode(),
    ".gitignore": b"ignored.txt\n",
    "sub/.gitattributes": b"*.text -diff\n",
    "sub/a.text": SAID.encode(),
    "driver/.gitattributes": b"*.strings diff=strings\n",
    "driver/a.strings": SAID.encode("utf-16-le"),
}


def run(root: Path, *words: str) -> None:
    subprocess.run(["git", "-c", "user.name=a", "-c", "user.email=a@b", "-C", str(root), *words], check=True, capture_output=True)


def made(root: Path, contents: dict[str, bytes], committed: set[str] | None = None) -> Path:
    for path, data in contents.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_bytes(data)
    run(root, "init", "-q")
    chosen = [path for path in contents if committed is None or path in committed]
    for path in chosen:
        run(root, "add", "--", path) if path != "ignored.txt" else None
    run(root, "commit", "-qm", "x", "--allow-empty")
    return root


def both(root: Path, monkeypatch: pytest.MonkeyPatch, needles: list[str]) -> tuple[dict[str, bytes], dict[str, bytes], int]:
    """Return what is found with git's help and without, and how many files git spared."""
    monkeypatch.setattr(tree, "_WORTH_ASKING", 10**9)
    read = dict(Tree.open(root).holding(needles))
    monkeypatch.setattr(tree, "_WORTH_ASKING", 1)
    spared: list[int] = []
    ask = git_search.without_any

    def counting(*words: object) -> frozenset[str] | None:
        found = ask(*words)  # type: ignore[arg-type]
        spared.append(len(found - {""}) if found is not None else -1)
        return found

    monkeypatch.setattr(tree, "without_any", counting)
    asked = dict(Tree.open(root).holding(needles))
    return read, asked, spared[0]


NEEDLES = [ID, "org/lendspan/app", "org_lendspan_app", "Lendspänn"]


@pytest.mark.parametrize("committed", ["all", "half", "none"])
def test_the_same_files_are_found(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, committed: str) -> None:
    """Encodings, marks, NUL bytes, odd names, attributes, ignored and new files: nothing is passed over."""
    known = sorted(CONTENTS)
    chosen = {"all": set(known), "half": set(known[::2]), "none": set()}[committed]
    root = made(tmp_path, CONTENTS, chosen)
    read, asked, spared = both(root, monkeypatch, NEEDLES)
    assert list(read) == list(asked) and read == asked
    assert {"plain.txt", "wide.strings", "wide bare.strings", "wider.strings", "latin name.txt", "driver/a.strings"} <= set(asked)
    assert spared >= (2 if committed == "all" else 0) and "none.txt" not in asked


@pytest.mark.parametrize("where", [".gitattributes", "sub/.gitattributes", ".git/info/attributes"])
@pytest.mark.parametrize("line", ["*.data diff\n", "*.data text diff eol=lf\n"])
def test_attributes_that_make_text_of_all(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, where: str, line: str) -> None:
    """Where an attribute makes git read NUL bytes as text, it is not asked: wide text would be passed over."""
    root = made(tmp_path, {"sub/a.data": SAID.encode("utf-16-le"), "b.txt": b"x"})
    (root / where).parent.mkdir(exist_ok=True)
    (root / where).write_text(line)
    read, asked, spared = both(root, monkeypatch, [ID])
    assert list(read) == list(asked) == ["sub/a.data"] and spared == -1


def test_inner_repositories_links_and_the_repositorys_own_settings(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A repository within is searched; no setting of the repository's own changes what is found."""
    root = made(tmp_path / "x", {"a.txt": SAID.encode(), "b.txt": b"x\n"})
    made(root / "inner", {"c.txt": SAID.encode(), "d.txt": b"x\n"})
    (root / "link.txt").symlink_to("a.txt")
    for key, text in (
        ("grep.patternType", "perl"),
        ("grep.lineNumber", "true"),
        ("grep.column", "true"),
        ("submodule.recurse", "true"),
        ("grep.fullName", "true"),
        ("color.ui", "always"),
    ):
        run(root, "config", key, text)
    read, asked, _ = both(root, monkeypatch, [ID])
    assert list(read) == list(asked) and set(asked) == {"a.txt", "inner/c.txt"}


def test_a_folder_of_a_repository(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Below the top of the work tree the same holds; paths are those of the folder."""
    root = made(tmp_path, {"app/a.txt": SAID.encode(), "app/b.txt": b"x\n", "other/c.txt": SAID.encode()})
    read, asked, spared = both(root / "app", monkeypatch, [ID])
    assert list(read) == list(asked) == ["a.txt"] and spared == 1


def test_without_git_or_with_odd_needles(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No repository, no git, a needle of two lines: git is not asked, or gives no answer."""
    (tmp_path / "a.txt").write_text(SAID)
    assert git_search.without_any(tmp_path, [ID.encode()], ()) is None
    made(tmp_path, {"b.txt": b"x"})
    assert git_search.without_any(tmp_path, [b"a\nb"], ()) is None
    monkeypatch.setenv("PATH", "/nowhere")
    assert git_search.without_any(tmp_path, [ID.encode()], ()) is None


# -- two halves


@pytest.mark.usefixtures("processors")
def test_two_halves_are_the_whole() -> None:
    """What a forked half gives comes back in order; what it raises is raised."""
    items = list(range(1000))
    random.Random(3).shuffle(items)
    parts = halved(items, lambda some: [item * 2 for item in some])
    assert [item for part in parts for item in part] == [item * 2 for item in items]
    assert halved([1], lambda some: list(some)) == [[1]]

    def fails(some: object) -> None:
        if 999 in some:  # type: ignore[operator]
            raise ValueError("met again")

    with pytest.raises(ValueError, match="met again"):
        halved(sorted(items), fails)


# -- kinds that are not loaded


@pytest.mark.parametrize("listed", KINDS, ids=lambda item: item.name)
def test_a_kind_asks_for_no_file_that_it_is_not_registered_for(listed: object, monkeypatch: pytest.MonkeyPatch) -> None:
    """A tree without a kind's signs holds no project of it: what the kind looks for first is among its signs."""
    kind, signs = kind_named(listed.name), listed.signs  # type: ignore[attr-defined]
    asked: set[str] = set()
    real = Tree.named

    def named(self: Tree, *names: str) -> list[str]:
        asked.update(names)
        return real(self, *names)

    monkeypatch.setattr(Tree, "named", named)
    assert kind.find(Tree.of({"readme.txt": b"x"})) == [] and kind.name == listed.name  # type: ignore[attr-defined]
    assert asked <= set(signs) | ({"settings.gradle", "settings.gradle.kts"} if kind.name == "multiplatform" else set())


@pytest.mark.processes
@pytest.mark.parametrize("words", ["survey", "flavor list", "flavor show mossgate", "adopt --again --dry-run", "survey --since HEAD"])
def test_commands_that_draw_nothing_load_no_pixels(words: str, demo: Path) -> None:
    """Whether a flavor has an icon is told by its files: NumPy and the renderer stay where they are."""
    (demo / "onomaxis.toml").write_text('format = 1\n[android]\nmodule = "app"\n[ios]\ntarget = "Lendspan"\n[flavors.mossgate]\nname = "Mossgate"\n')
    code = "import sys; from onomaxis.cli.main import main; code = main(sys.argv[1:]); print(code, sorted({'numpy', 'resvg_py', 'PIL'} & {*sys.modules}), file=sys.stderr)"
    done = subprocess.run([sys.executable, "-c", code, *words.split()], cwd=demo, capture_output=True, text=True, check=False)
    assert done.stderr.splitlines()[-1] in ("0 []", "1 []"), done.stderr[-500:]
