"""Versions and builds of many flavors in one change: each from its own, or as a plan says; the identity file in step."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import right
from conftest import commit_all, files, onomaxis, snapshot
from test_checks import clean

HEAD = "date,platform,flavor,id,version,build,fingerprint\n"


def shop(root: Path, identity: bool = True) -> Path:
    contents = clean()
    if identity:
        contents["onomaxis.toml"] = (
            'format = 1\n[app]\nversion = "1.2"\nbuild = 7\n[flavors.alderbank]\nname = "Alderbank" # bank\n[flavors.mossgate]\nname = "Mossgate"\n'
        )
    else:
        del contents["onomaxis.toml"]
    made = files(root, contents)
    commit_all(made)
    return made


def numbers(root: Path) -> dict[tuple[str, str], tuple[str, str]]:
    return {(app["platform"], app["flavor"]): (app["version"], app["build"]) for app in onomaxis("survey", root, "--json").json["apps"]}


TODAY = {
    ("android", "alderbank"): ("1.2", "7"),
    ("android", "mossgate"): ("1.2", "7"),
    ("ios", ""): ("1.2", "7"),
    ("ios", "alderbank"): ("1.2", "7"),
    ("ios", "mossgate"): ("1.2", "7"),
}


@pytest.mark.parametrize("identity", [True, False], ids=["with an identity file", "without"])
def test_every_flavor_from_its_own_numbers(tmp_path: Path, identity: bool) -> None:
    """Next is above what the ledger names for each; the app itself stays; stamping changes nothing; undo is exact."""
    root = shop(tmp_path / "x", identity)
    (root / "onomaxis.ledger.csv").write_text(
        f"{HEAD}2026-01-02,android,mossgate,org.lendspan.mossgate,1.1,19,\n2026-01-02,ios,alderbank,org.lendspan.alderbank,1.1,8,\n"
    )
    commit_all(root)
    before = snapshot(root)
    done = onomaxis("renumber", root, "--every-flavor", "--version", "minor", "--build", "next")
    assert done.code == 0, done.err
    assert numbers(root) == {
        **TODAY,
        **{(p, "alderbank"): ("1.3", "9") for p in ("android", "ios")},
        **{(p, "mossgate"): ("1.3", "20") for p in ("android", "ios")},
    }
    if identity:
        assert onomaxis("stamp", root, "--allow-dirty", "--json").json["files"] == []
        assert "# bank" in (root / "onomaxis.toml").read_text()
    assert onomaxis("renumber", root, "--every-flavor", "--version", "1.3", "--allow-dirty", "--json").json["files"] == []
    onomaxis("undo", root, "--allow-dirty")
    assert snapshot(root) == before


PLAN = "\ufeffflavor;platform;version;build\r\nAlderbank;;;+2\r\nmossgate;ios;2.0;\r\n;;;\r\nmossgate;android;;40\r\n"


def test_a_plan_says_each_ones_numbers(tmp_path: Path) -> None:
    """Blank stays, relative is counted, platforms may differ; a second time there is nothing to do."""
    root = shop(tmp_path / "x")
    (tmp_path / "plan.csv").write_text(PLAN, "utf-8", newline="")
    done = onomaxis("renumber", root, "--plan", tmp_path / "plan.csv")
    assert done.code == 0, done.err
    own = {
        ("android", "alderbank"): ("1.2", "9"),
        ("ios", "alderbank"): ("1.2", "9"),
        ("ios", "mossgate"): ("2.0", "7"),
        ("android", "mossgate"): ("1.2", "40"),
    }
    assert numbers(root) == {**TODAY, **own}
    assert onomaxis("stamp", root, "--allow-dirty", "--json").json["files"] == []
    (tmp_path / "plan.csv").write_text(PLAN.replace("+2", "9"), "utf-8", newline="")
    assert onomaxis("renumber", root, "--plan", tmp_path / "plan.csv", "--allow-dirty", "--json").json["files"] == []


WRONG = [
    ("flavor,vresion\nmossgate,1\n", "plan.csv:1:", "Did you mean “version”?"), ("version,flavor\n1,mossgate\n", "plan.csv:1:", "first column"),
    ("flavor,version,version\nmossgate,1,2\n", "plan.csv:1:", "has it twice"),
    ("flavor,version\nmosgate,2.0\n", "plan.csv:2:", "Did you mean “mossgate”?"),
    ("flavor,version\nmossgate,2.0\nMossgate,3.0\n", "plan.csv:3:", "stands here twice"),
    ("flavor,platform,version\nmossgate,web,2.0\n", "plan.csv:2:", "“web” is neither"),
    ("flavor,version\nmossgate,two\n", "plan.csv:2:", "neither a version"), ("flavor,build\nmossgate,+x\n", "plan.csv:2:", "is not a step"),
    ("flavor,build\nmossgate,x\n", "", "is no"), ("flavor,build\nmossgate,1,2\n", "plan.csv:2:", "longer than the header"),
    ("", "plan.csv", "first column"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "at", "said"), WRONG)
def test_plans_that_are_not_right(tmp_path: Path, text: str, at: str, said: str) -> None:
    """File, line, what to do; nothing changes."""
    root = shop(tmp_path / "x")
    (tmp_path / "plan.csv").write_text(text)
    before = snapshot(root)
    done = onomaxis("renumber", root, "--plan", tmp_path / "plan.csv")
    words = " ".join(done.err.split())
    assert done.code == 2 and at in words and said in words, done.err
    assert snapshot(root) == before


def test_options_that_contradict_each_other(tmp_path: Path) -> None:
    """A plan stands alone; without numbers, or with one flavor named, there is nothing to give to all."""
    root = shop(tmp_path / "x")
    (tmp_path / "plan.csv").write_text("flavor,build\nmossgate,9\n")
    for words in (
        ["--plan", tmp_path / "plan.csv", "--build", "9"],
        ["--every-flavor"],
        ["--every-flavor", "--flavor", "mossgate", "--build", "9"],
        ["--plan", tmp_path / "none.csv"],
    ):
        assert onomaxis("renumber", root, *words).code == 2


@pytest.mark.parametrize("kind", ["native", "flutter", "react_native", "capacitor", "expo"])
def test_levels_without_an_identity_file(tmp_path: Path, kind: str) -> None:
    """The app's levels are written where its tools state them, of a desktop's app none; a second time nothing, back to the byte."""
    root = files(tmp_path / kind, getattr(right, kind)())
    commit_all(root)
    before, words = snapshot(root), ("renumber", root, "--min-sdk", "27", "--deployment-target", "16.4")
    done = onomaxis(*words)
    if kind == "expo":  # its tools have it from a plug-in
        assert done.code == 2 and "no “level”" in done.err and snapshot(root) == before
        return
    changed = {path: (root / path).read_text() for path, data in snapshot(root).items() if before.get(path) != data and not path.startswith(".onomaxis")}
    assert done.code == 0 and {path.partition("/")[0] for path in changed} == {"android", "ios"} and "onomaxis.toml" not in changed
    assert any(re.search(r"minSdk(?:Version)?\W+27\b", text) for text in changed.values())
    assert any("IPHONEOS_DEPLOYMENT_TARGET = 16.4;" in text for text in changed.values())
    assert "the project has these levels already" in onomaxis(*words, "--allow-dirty").err
    assert onomaxis("undo", root).code == 0 and snapshot(root) == before
    assert onomaxis(*words, "--build", "3").code == 2 and "not a level such as" in onomaxis("renumber", root, "--min-sdk", "x").err
    assert onomaxis("adopt", root).code == 0 and "a level is a value of it" in onomaxis(*words).err


def test_levels_of_one_of_several_apps(tmp_path: Path) -> None:
    """The one that is named gets them, and no other; where a platform has no app that is said, not passed over."""
    module = "plugins { id 'com.android.application' }\nandroid {\n    namespace 'org.l.%s'\n    defaultConfig {\n        applicationId 'org.l.%s'\n        minSdk 24\n    }\n}\n"
    contents = {"settings.gradle": "include ':shop', ':till'\n"}
    for name in ("shop", "till"):
        contents |= {f"{name}/build.gradle": module % (name, name), f"{name}/src/main/AndroidManifest.xml": "<manifest><application/></manifest>\n"}
    root = files(tmp_path, contents)
    commit_all(root)
    before = snapshot(root)
    for words, said in (((), "several"), (("--app", "nobody"), "nobody")):
        done = onomaxis("renumber", root, "--min-sdk", "27", *words)
        assert done.code in (2, 3) and said in done.err and snapshot(root) == before, done.err
    done = onomaxis("renumber", root, "--deployment-target", "16.4", "--app", "shop")
    assert done.code == 2 and "no iOS app here whose level could be set" in done.err
    assert onomaxis("renumber", root, "--min-sdk", "27", "--app", "shop").code == 0
    assert [path for path, data in snapshot(root).items() if before.get(path) != data and not path.startswith(".onomaxis")] == ["shop/build.gradle"]
    assert "minSdk 27" in (root / "shop/build.gradle").read_text()
