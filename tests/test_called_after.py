"""Files and folders that are called after a flavor, beside those that the commands make and take away themselves."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files, onomaxis

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


def test_a_new_flavor_is_told_what_is_called_after_its_siblings(tmp_path: Path) -> None:
    """What the command makes itself is not among it, nor what one of them has alone."""
    root = files(tmp_path, {"settings.gradle": "include ':app'\n", "app/build.gradle": SCRIPT, **OWN})
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--name", "Pennywick", "--json", "--yes")
    assert done.code == 0, done.err
    said = [note.split(": ", 1) for note in done.json["notes"] if "have their own" in note]
    assert said == [["art/Alderbank", "alderbank, mossgate have their own (1 picture); pennywick has none yet"]]
    assert done.json["owed"] == [{"at": "brands/pennywick.properties:1", "key": "host", "neighbours": False}]
    assert (root / "legal/terms-pennywick.md").read_text() == "terms\n"
    assert (root / "brands/pennywick.properties").read_text() == "host=TO_BE_GIVEN\n"


@pytest.mark.parametrize("command", [("flavor", "list"), ("flavor", "retire", "mossgate"), ("renumber", "--every-flavor", "--build", "+1")])
def test_an_app_is_named_where_one_platform_has_none(tmp_path: Path, command: tuple[str, ...]) -> None:
    """``--app`` asks for an app on the platforms that there are; a name that nobody bears is refused with those that are."""
    script = SCRIPT.replace("applicationId 'org.lendspan'", "applicationId 'org.lendspan'; versionCode 4")
    root = files(tmp_path, {"settings.gradle": "include ':app'\n", "app/build.gradle": script, **OWN})
    place, options = (command[:2], command[2:]) if command[0] == "flavor" else (command[:1], command[1:])
    names = options[:1] if options and not options[0].startswith("-") else ()
    extra = () if command[1] == "list" else ("--yes",)
    done = onomaxis(*place, *names, root, *options[len(names) :], "--app", "app", *extra)
    assert done.code == 0, done.out + done.err
    wrong = onomaxis(*place, *(("alderbank",) if names else ()), root, *options[len(names) :], "--app", "shed", *extra)
    assert wrong.code == 2 and "“shed” here" in wrong.err and "There are: app." in wrong.err
