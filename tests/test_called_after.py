"""Files and folders that are called after a flavor, beside those that the commands make and take away themselves."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files, onomaxis
from onomaxis.brands.elsewhere import called_after, left_of
from onomaxis.tree import Tree

SCRIPT = """plugins { id 'com.android.application' }
android {
    namespace 'org.lendspan'
    defaultConfig { applicationId 'org.lendspan' }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand'; applicationIdSuffix '.alderbank' }
        mossgate { dimension 'brand'; applicationIdSuffix '.mossgate' }
    }
}
"""
MANIFEST = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Lendspan"/></manifest>\n'
OWN = {
    "app/src/main/AndroidManifest.xml": MANIFEST,
    "brands/alderbank.properties": "host=a\n",
    "brands/mossgate.properties": "host=m\n",
    "art/Alderbank/logo.svg": "<svg/>\n",
    "art/Alderbank/deep/mossgate.svg": "<svg/>\n",
    "art/Mossgate/logo.svg": "<svg/>\n",
    "legal/terms-alderbank.md": "terms\n",
    "legal/terms-mossgate.md": "terms\n",
    "notes/alderbank.md": "of one alone\n",
    "app/src/alderbank/res/raw/a.txt": "a\n",
    "app/src/mossgate/res/raw/a.txt": "a\n",
}

# paths beside siblings, which new one lacks what (by the first sibling's), which gone one leaves what
TABLE = [
    (["a/{}.txt"], ["a/oak.txt"], ["a/elm.txt"]),
    (["a/{}/x.txt", "a/{}/y.txt"], ["a/oak"], ["a/elm"]),
    (["a/{}/{}.txt"], ["a/oak"], ["a/elm"]),
    (["{}"], ["oak"], ["elm"]),
    (["a/logo-{}@2x.png"], ["a/logo-oak@2x.png"], ["a/logo-elm@2x.png"]),
    (["a/logo{}.png"], [], []),  # no word of its own
    ([".env.{}"], [".env.oak"], [".env.elm"]),
]


@pytest.mark.parametrize(("patterns", "lacking", "left"), TABLE)
def test_paths_that_differ_in_the_flavor_alone(patterns: list[str], lacking: list[str], left: list[str]) -> None:
    tree = Tree.of({pattern.replace("{}", name): b"x" for pattern in patterns for name in ("oak", "elm")})
    assert [note.at for note in called_after(tree, ("oak", "elm"), "ash")] == lacking
    assert [note.at for note in left_of(tree, ("oak",), "elm")] == left
    assert not list(called_after(tree, ("oak",), "ash"))
    whole = Tree.of({pattern.replace("{}", name): b"x" for pattern in patterns for name in ("oak", "elm", "ash")})
    assert not list(called_after(whole, ("oak", "elm"), "ash"))
    most = ("oak", "yew", "fir", "bay")  # one of four has it
    assert not list(called_after(tree, most, "ash"))
    assert not list(left_of(tree, ("yew",), "elm"))


def test_a_new_flavor_is_told_what_is_called_after_its_siblings(tmp_path: Path) -> None:
    """What the command makes itself is not among it, nor what one of them has alone."""
    root = files(tmp_path, {"settings.gradle": "include ':app'\n", "app/build.gradle": SCRIPT, **OWN})
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--name", "Pennywick", "--json", "--yes")
    assert done.code == 0, done.err
    said = [note.split(": ", 1) for note in done.json["notes"] if "have their own" in note]
    assert [at for at, _ in said] == ["art/Alderbank", "brands/alderbank.properties", "legal/terms-alderbank.md"]
    assert {text for _, text in said} == {"alderbank, mossgate have their own; pennywick has none yet"}


def test_a_retired_flavor_leaves_nothing_unsaid(tmp_path: Path) -> None:
    """What is called after it and is no part of the build is named, and stays."""
    root = files(tmp_path, {"settings.gradle": "include ':app'\n", "app/build.gradle": SCRIPT, **OWN})
    done = onomaxis("flavor", "retire", "mossgate", root, "--json", "--yes")
    assert done.code == 0, done.err
    said = [note.split(": ", 1)[0] for note in done.json["notes"] if "called after mossgate" in note]
    assert said == ["art/Mossgate", "brands/mossgate.properties", "legal/terms-mossgate.md"]
    assert all((root / path).exists() for path in said) and not (root / "app/src/mossgate").exists()
