"""Flavored projects at random: read, added to, retired from byte for byte, adopted and stamped, spoiled and repaired."""

from __future__ import annotations

import random
import re
from functools import cache

import pytest

from compositions import plist
from flavored import BRANDS, SEEDS, App, Flavored, flavored
from onomaxis.brands.adopt import adopted
from onomaxis.brands.flavors import FlavorWish, plan_flavor
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import subjects
from onomaxis.checks.inspection import look_over
from onomaxis.identity.schema import NAME
from onomaxis.survey.survey import read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from xcode import pbxproj

NEW = FlavorWish("pennywick", id="org.lendspan.pennywick", shown="Pennywick")


@cache
def made(seed: str) -> Flavored:
    return flavored(seed)


def told(tree: Tree) -> list[App]:
    return sorted((app.platform, app.flavor, app.id.text if app.id else "?", app.name.text if app.name else "?") for app in take_survey(tree).apps)


def contents(tree: Tree) -> dict[str, bytes | None]:
    return {path: tree.read(path) for path in tree.known}


def with_identity(tree: Tree) -> Tree:
    """Return a tree with the identity file that adopting it writes."""
    found = subjects(read_projects(tree))
    return tree.overlay({NAME: adopted(found, {}).encode()}, ())


@pytest.mark.parametrize("seed", SEEDS)
def test_flavors_are_what_was_put_in(seed: str) -> None:
    """However they are declared, each flavor ships what it was given; nothing is unresolved."""
    project = made(seed)
    tree = Tree.of(project.files)
    assert told(tree) == sorted(project.apps), project.said
    assert not take_survey(tree).unresolved, project.said


@pytest.mark.parametrize("seed", SEEDS)
def test_a_flavor_comes_and_goes(seed: str) -> None:
    """A new flavor is called as wished and changes no other; retired again, the tree is the same byte for byte."""
    project = made(seed)
    tree = Tree.of(project.files)
    later = applied(tree, plan_flavor(tree, NEW).changes)
    now = told(later)
    assert [app for app in now if "pennywick" not in app[1]] == sorted(project.apps), project.said
    fresh = [app for app in now if "pennywick" in app[1]]
    platforms = {app[0] for app in project.apps}
    assert {app[0] for app in fresh} == platforms and {app[3] for app in fresh} == {"Pennywick"}, project.said
    assert all(app[2] in (NEW.id, f"{NEW.id}.plus") for app in fresh), project.said
    assert contents(applied(later, plan_retirement(later, "pennywick").changes)) == contents(tree), project.said


@pytest.mark.parametrize("seed", SEEDS)
def test_adopting_and_stamping_changes_nothing(seed: str) -> None:
    """What is adopted is what there is; a brand that is retired leaves nothing of its own, and all of the other."""
    project = made(seed)
    tree = with_identity(Tree.of(project.files))
    assert stamp(tree).empty, project.said
    for brand in BRANDS:
        left = told(applied(tree, plan_retirement(tree, brand).changes))
        assert left == sorted(app for app in project.apps if brand not in app[1]), project.said


@pytest.mark.parametrize("seed", [seed for seed in SEEDS if not seed.startswith("android")])
def test_a_configuration_that_is_spoiled(seed: str) -> None:
    """One configuration of a flavor with a stray ID, name or icon: checking names it, stamping brings exactly it back."""
    project = made(seed)
    tree = with_identity(Tree.of(project.files))
    dice = random.Random(seed)
    path = next(path for path in project.files if path.endswith("project.pbxproj"))
    text = project.files[path].decode()
    id_, shown = dice.choice(list(BRANDS.values()))
    wanted = dice.choice([rf"= \"?{re.escape(id_)}(?:\.debug)?\"?;", rf"SHOWN = {shown};", "APPICON_NAME = [^;]*;"])
    hit = dice.choice(list(re.finditer(wanted, text)))
    wrong = re.sub(r"= [^;]*AppIcon[^;]*;", "= Stray;", hit[0].replace(id_, "org.stray.app").replace(shown, "Stray"))
    spoiled = text[: hit.start()] + wrong + text[hit.end() :]
    off = tree.overlay({path: spoiled.encode()}, ())
    found = {item.rule.code for item in look_over(off)[0] if "tray" in item.message}
    assert found, project.said
    assert contents(applied(off, stamp(off).changes)) == contents(tree), project.said


def test_profiles_of_configurations_are_compared() -> None:
    """A profile for another flavor's ID is named and put right; where all flavors share one, nothing is said."""
    flavors = ("alderbank", "mossgate", "pennywick")
    names = [f"{kind}-{flavor}" for flavor in flavors for kind in ("Debug", "Release")]
    own = {}
    for name in names:
        kind, _, flavor = name.partition("-")
        profile = f"{'Dev' if kind == 'Debug' else 'Store'} org.lendspan.{flavor}"
        own[name] = {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{flavor}", "PROVISIONING_PROFILE_SPECIFIER": profile}
    right = pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Info.plist"}, **own})})
    files = {"Info.plist": plist({"CFBundleDisplayName": "Lend"})}
    tree = with_identity(Tree.of({"Lend.xcodeproj/project.pbxproj": right.encode(), **{k: v.encode() for k, v in files.items()}}))
    assert not [item for item in look_over(tree)[0] if item.rule.code == "FLAVOR09"] and stamp(tree).empty
    wrong = right.replace('"Store org.lendspan.mossgate"', '"Store org.lendspan.alderbank"')
    off = tree.overlay({"Lend.xcodeproj/project.pbxproj": wrong.encode()}, ())
    said = [item.message for item in look_over(off)[0] if item.rule.code == "FLAVOR09"]
    assert said == ["Release-mossgate: provisioning profile is “Store org.lendspan.alderbank”, not “Store org.lendspan.mossgate”"]
    assert applied(off, stamp(off).changes).read("Lend.xcodeproj/project.pbxproj") == right.encode()
    shared = re.sub(r'"Store org[^"]*"', '"Store of all"', right)
    alike = tree.overlay({"Lend.xcodeproj/project.pbxproj": shared.encode()}, ())
    assert not [item for item in look_over(alike)[0] if item.rule.code == "FLAVOR09"]
