"""A folder of brand pictures in one line: what each replaces, what is refused, what a brand lacks."""

from __future__ import annotations

import io
import struct
import zlib

import pytest
from PIL import Image

from brands import FLAVORS, project
from onomaxis.brands.stamp import stamp
from onomaxis.checks.inspection import look_over
from onomaxis.errors import InputError
from onomaxis.identity.schema import NAME
from onomaxis.tree import Tree
from onomaxis.writing.change import applied

HOME = "app/src/main/res/drawable"
PICTURES = "[values.pictures]\nfiles = 'brands/{flavor}/drawable/*'\nplaces = [{ file = 'app/src/main/res/drawable/*', platform = 'android' }]\n"
OWN = PICTURES.replace("src/main", "src/{flavor}")


def picture(color: str, edge: int = 8, form: str = "PNG") -> bytes:
    made = io.BytesIO()
    Image.new("RGB", (edge, edge), color).save(made, form)
    return made.getvalue()


def claiming(edge: int) -> bytes:
    """A picture of a few bytes whose head says that it is huge."""
    head = b"IHDR" + struct.pack(">IIBBBBB", edge, edge, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + head + struct.pack(">I", zlib.crc32(head))


def tree(said: str = PICTURES, flavored: bool = True, **more: bytes | None) -> Tree:
    """Return the app with two pictures and two brands' own; *more* are files to add (two underscores: a slash) or leave out."""
    contents = {path: text.encode() for path, text in project(flavored).items()}
    contents |= {f"{HOME}/hero.png": picture("grey"), f"{HOME}/banner.png": picture("black")}
    for flavor, color in zip(FLAVORS, ("red", "blue"), strict=True):
        contents |= {f"brands/{flavor}/drawable/{name}.png": picture(color) for name in ("hero", "banner")}
    tables = "".join(f"[flavors.{flavor}]\n" for flavor in FLAVORS)
    contents[NAME] = f"format = 1\n{tables}\n{said}".encode()
    for name, data in more.items():
        path = name.replace("__", "/") + ".png"
        contents = {key: value for key, value in contents.items() if key != path} | ({path: data} if data is not None else {})
    return Tree.of(contents)


def codes(found: Tree) -> list[tuple[str, str]]:
    return [(item.rule.code, item.message) for item in look_over(found, ["values"])[0]]


@pytest.mark.parametrize("said", [PICTURES, OWN])
def test_a_folder_of_pictures(said: str) -> None:
    """Each brand's pictures stand in its source set; the app's own stay; a second stamp changes nothing."""
    before = tree(said)
    assert {code for code, _ in codes(before)} == {"VALUE04"}
    after = applied(before, stamp(before).changes)
    for flavor, color in zip(FLAVORS, ("red", "blue"), strict=True):
        assert after.read(f"app/src/{flavor}/res/drawable/hero.png") == picture(color)
    assert after.read(f"{HOME}/hero.png") == picture("grey") and stamp(after).empty and codes(after) == []


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"brands__mossgate__drawable__hero": picture("blue", 9)}, "9 x 9"),
        ({"brands__mossgate__drawable__hero": picture("blue", 8, "GIF")}, "GIF picture"),
        ({"brands__mossgate__drawable__hero": claiming(60_000)}, "no picture, font or document"),
        ({"brands__mossgate__drawable__hero": b"not a picture"}, "no picture, font or document"),
        ({"brands__mossgate__drawable__other": picture("blue")}, "that it replaces is gone"),
        ({"brands__mossgate__drawable__hero": None, "brands__mossgate__drawable__banner": None}, "mossgate has no files"),
    ],
)
def test_pictures_that_cannot_stand_in(more: dict[str, bytes | None], said: str) -> None:
    """Another size, another form, nothing to replace, no files at all: refused at the identity file's line, and found."""
    found = tree(**more)
    with pytest.raises(InputError, match=said) as caught:
        stamp(found)
    assert caught.value.file == NAME and caught.value.line
    assert any(code == "VALUE02" and said in message for code, message in codes(found))


def test_a_brand_that_lacks_a_picture() -> None:
    """What more than half of the brands have, one lacks: it would show the app's own."""
    third = {f"brands__pennywick__drawable__{name}": picture("green") for name in ("hero", "banner")}
    found = tree(**third, brands__mossgate__drawable__banner=None)
    text = (found.read(NAME) or b"").replace(b"[flavors.mossgate]", b"[flavors.pennywick]\n[flavors.mossgate]")
    build = (found.read("app/build.gradle.kts") or b"").replace(
        b'create("mossgate")', b'create("pennywick") { dimension = "brand" }\n        create("mossgate")'
    )
    found = found.overlay({NAME: text, "app/build.gradle.kts": build}, ())
    lacking = [message for code, message in codes(found) if code == "VALUE05"]
    assert lacking == ["mossgate has no banner.png among brands/{flavor}/drawable/*"]


@pytest.mark.parametrize(
    ("said", "wrong"),
    [
        (PICTURES.replace("drawable/*'\n", "drawable'\n"), "no single star"),
        (PICTURES.replace("brands/{flavor}", "brands/*"), "no single star"),
        (PICTURES.replace("drawable/*',", "drawable/hero.png',"), "no single star"),
        (PICTURES + "value = 'x'\n", "takes places, and no more"),
        (PICTURES + "type = 'text'\n", "takes places, and no more"),
        (PICTURES.replace("brands/{flavor}", "../brands/{flavor}"), "leads out of the project"),
    ],
)
def test_files_that_cannot_be_told(said: str, wrong: str) -> None:
    """What the line must look like, and where it may lead."""
    with pytest.raises(InputError, match=wrong) as caught:
        stamp(tree(said))
    assert caught.value.line
