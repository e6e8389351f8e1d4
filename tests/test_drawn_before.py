"""Pictures that were drawn before: not drawn again where they stand as they were, drawn wherever anything differs."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from conftest import files, onomaxis, snapshot
from icon_homes import HOMES
from onomaxis.icons.measured import taken
from onomaxis.icons.memory import FILE, recalled, remember
from onomaxis.icons.output import Output
from onomaxis.icons.wish import IconWish


def disc(radius: int) -> bytes:
    """Art whose bytes differ with its radius."""
    out = io.BytesIO()
    image = Image.new("RGBA", (128, 128))
    ImageDraw.Draw(image).ellipse((64 - radius, 64 - radius, 64 + radius, 64 + radius), fill="#7A3E2B")
    image.save(out, "PNG")
    return out.getvalue()


LEGACY = "app/src/main/res/mipmap-xxxhdpi/ic_launcher.webp"


@pytest.fixture
def drawn(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """How many pictures each set that was drawn in this process needed."""
    counts: list[int] = []
    real = Output.draw

    def counting(self: Output, most: int, tick: Callable[[int, int], None] | None = None) -> None:
        counts.append(len(self.drawings))
        real(self, most, tick)

    monkeypatch.setattr(Output, "draw", counting)
    return counts


def project(tmp_path: Path) -> Path:
    """A project with the icons of one drawing."""
    root = files(tmp_path / "x", HOMES["android"])
    (tmp_path / "art.png").write_bytes(disc(30))
    assert icons(root, "--background", "#F4ECD8").code == 0
    return root


def project_files(root: Path) -> dict[str, object]:
    return {path: held for path, held in snapshot(root).items() if not path.startswith(".onomaxis")}


def icons(root: Path, *words: str):
    return onomaxis("icons", root, "--art", root.parent / "art.png", "--yes", "--allow-dirty", *words)


def test_nothing_is_drawn_where_all_stands_as_it_was(tmp_path: Path, drawn: list[int]) -> None:
    """The same command once more draws no picture, and says what it said without a memory."""
    root = project(tmp_path)
    assert drawn.pop() > 5
    before_files = project_files(root)
    again = icons(root, "--background", "#F4ECD8")
    assert drawn == [0] and again.code == 0 and "Nothing to change" in again.err
    (root / FILE).unlink()
    without = icons(root, "--background", "#F4ECD8")
    assert drawn[1] > 5 and without.err == again.err and recalled(root).pictures
    assert project_files(root) == before_files


def test_a_picture_that_was_touched_or_lost_is_drawn_alone(tmp_path: Path, drawn: list[int]) -> None:
    """What stands there otherwise, or not at all, is drawn; the rest is not."""
    root = project(tmp_path)
    before = (root / LEGACY).read_bytes()
    other = root / LEGACY.replace("xxxhdpi", "hdpi")
    kept = other.read_bytes()
    (root / LEGACY).write_bytes(before + b"\0")
    other.unlink()
    assert icons(root, "--background", "#F4ECD8").code == 0
    assert drawn[1] == 2 and (root / LEGACY).read_bytes() == before and other.read_bytes() == kept


def test_a_memory_of_somebody_else_is_not_believed(tmp_path: Path, drawn: list[int]) -> None:
    """A repository that brings a memory which calls a wrong picture right: without this user's seal it is nothing."""
    root = project(tmp_path)
    right = (root / LEGACY).read_bytes()
    sealed, _, text = (root / FILE).read_bytes().partition(b"\n")
    wrong = (root / LEGACY.replace("xxxhdpi", "hdpi")).read_bytes()
    (root / LEGACY).write_bytes(wrong)
    told = json.loads(text)
    told["pictures"][LEGACY][1] = told["pictures"][LEGACY.replace("xxxhdpi", "hdpi")][1]
    (root / FILE).write_bytes(sealed + b"\n" + json.dumps(told).encode())
    assert recalled(root).pictures == {}
    assert icons(root, "--background", "#F4ECD8").code == 0
    assert (root / LEGACY).read_bytes() == right and drawn[1] == drawn[0]


def test_a_memory_from_another_checkout_is_not_believed(tmp_path: Path) -> None:
    """The seal holds for one checkout: a copied folder starts anew."""
    root = project(tmp_path)
    twin = files(tmp_path / "twin", HOMES["android"])
    (twin / ".onomaxis").mkdir()
    (twin / FILE).write_bytes((root / FILE).read_bytes())
    assert recalled(root).pictures and recalled(twin).pictures == {}


def spoil_bytes(root: Path) -> None:
    (root / FILE).write_bytes(b"\xff\n{")


def spoil_form(root: Path) -> None:
    (root / FILE).write_text("0\n[]")


def spoil_link(root: Path) -> None:
    (root / FILE).rename(root.parent / "moved.json")
    (root / FILE).symlink_to(root.parent / "moved.json")


def spoil_folder(root: Path) -> None:
    (root / FILE).unlink()
    (root / FILE).mkdir()


def spoil_size(root: Path) -> None:
    with (root / FILE).open("r+b") as file:
        file.truncate(1 << 26)


@pytest.mark.parametrize("spoil", [spoil_bytes, spoil_form, spoil_link, spoil_folder, spoil_size])
def test_a_spoiled_memory_is_none(tmp_path: Path, spoil: Callable[[Path], None], drawn: list[int]) -> None:
    """Whatever stands in its place: all is drawn, nothing fails, nothing outside is written."""
    root = project(tmp_path)
    spoil(root)
    outside = sorted(path.name for path in tmp_path.iterdir())
    assert recalled(root).pictures == {}
    assert icons(root, "--background", "#F4ECD8").code == 0
    assert drawn[1] == drawn[0] and sorted(path.name for path in tmp_path.iterdir()) == outside


def test_what_is_only_shown_is_not_remembered(tmp_path: Path) -> None:
    """A dry run writes nothing; a project in which nothing was written gets no folder."""
    root = files(tmp_path / "x", HOMES["android"])
    (tmp_path / "art.png").write_bytes(disc(30))
    assert onomaxis("icons", root, "--art", tmp_path / "art.png", "--dry-run").code == 0
    remember(root, {LEGACY: ("a", "b")})
    assert not (root / ".onomaxis").exists()


# -- what was measured of the art

WORDS = {
    "art": ("--art", "art.png"),
    "full art": ("--art", "full.png"),
    "a vector": ("--art", "drawing.svg"),
    "layers": ("--foreground", "art.png", "--background", "full.png"),
    "every part": ("--art", "art.png", "--background", "#102030", "--legacy-art", "full.png", "--ios-dark", "art.png", "--ios-tinted", "art.png", "--monochrome", "drawing.svg"),
    "one part": ("--monochrome", "art.png"),
    "text": ("--art", "text.svg", "--inset", "0.3"),
    "rounded": ("--art", "rounded.png"),
}  # fmt: skip


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.text(max_size=5), lambda inner: st.lists(inner, max_size=8) | st.dictionaries(st.text(max_size=5), inner)
    )
)
def test_what_is_not_whole_is_nothing(told: object) -> None:
    """Whatever is kept in its place: no set, no fault."""
    wish = IconWish(art="a.png")
    assert taken(wish, told) is None
    whole = {
        **dict.fromkeys(("foreground", "monochrome", "background", "whole", "legacy", "ios", "ios_dark", "ios_tinted", "ground")),
        "warnings": [],
        "parts": [],
        "vectors": {},
    }
    assert taken(wish, whole) is not None
    for key in whole:
        taken(wish, {**whole, key: told})
        assert taken(wish, {other: said for other, said in whole.items() if other != key}) is None
