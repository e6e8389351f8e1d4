"""Flavored projects at random: read, added to, retired from byte for byte, adopted and stamped, spoiled and repaired."""

from __future__ import annotations

import itertools
import random
import re

import pytest

from compositions import plist
from flavored import BRANDS, NAMING, SEEDS, App, Flavored, flavored
from onomaxis.brands.adopt import adopted
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.identity_after_rename import with_identity as followed
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import subjects
from onomaxis.checks.inspection import look_over
from onomaxis.errors import RefusedError
from onomaxis.identity.schema import NAME
from onomaxis.projects.project import build_type
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from xcode import pbxproj

NEW = FlavorWish("pennywick", id="org.lendspan.pennywick", shown="Pennywick")


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
    project = flavored(seed)
    tree = Tree.of(project.files)
    assert told(tree) == sorted(project.apps), project.said
    assert not take_survey(tree).unresolved, project.said


@pytest.mark.parametrize("seed", SEEDS)
def test_a_flavor_comes_and_goes(seed: str) -> None:
    """A new flavor is called as wished and changes no other; retired again, the tree is the same byte for byte."""
    project = flavored(seed)
    tree = Tree.of(project.files)
    later = applied(tree, plan_flavor(tree, NEW).changes)
    now = told(later)
    assert [app for app in now if "pennywick" not in app[1]] == sorted(project.apps), project.said
    if named := next((said.removeprefix("naming=") for said in project.said if said.startswith("naming=")), ""):
        types = {type_ for type_ in ("Debug", "Release", "Profile") if any(type_ in name for name in project.configurations)}
        file = next(path for path in later.known if path.endswith(".pbxproj"))
        text = (later.read(file) or b"").decode()
        for type_ in types:  # configurations are called as those of its siblings are
            name = NAMING[named].format(type=type_, flavor=NEW.name)
            assert f'name = "{name}";' in text or f"name = {name};" in text, (project.said, type_)
    fresh = [app for app in now if "pennywick" in app[1]]
    platforms = {app[0] for app in project.apps}
    assert {app[0] for app in fresh} == platforms and {app[3] for app in fresh} == {"Pennywick"}, project.said
    assert all(app[2] in (NEW.id, f"{NEW.id}.plus") for app in fresh), project.said
    assert contents(applied(later, plan_retirement(later, "pennywick").changes)) == contents(tree), project.said


@pytest.mark.parametrize("seed", SEEDS)
def test_adopting_and_stamping_changes_nothing(seed: str) -> None:
    """What is adopted is what there is; a brand that is retired leaves nothing of its own, and all of the other."""
    project = flavored(seed)
    tree = with_identity(Tree.of(project.files))
    assert stamp(tree).empty, project.said
    for brand in BRANDS:
        left = told(applied(tree, plan_retirement(tree, brand).changes))
        assert left == sorted(app for app in project.apps if brand not in app[1]), project.said


@pytest.mark.parametrize("seed", [seed for seed in SEEDS if not seed.startswith("android")])
def test_a_configuration_that_is_spoiled(seed: str) -> None:
    """One configuration of a flavor with a stray ID, name or icon: checking names it, stamping brings exactly it back."""
    project = flavored(seed)
    tree = with_identity(Tree.of(project.files))
    dice = random.Random(seed)
    path = next(path for path in project.files if path.endswith("project.pbxproj"))
    text = project.files[path].decode()
    id_, shown = dice.choice(list(BRANDS.values()))
    wanted = dice.choice([rf"= \"?{re.escape(id_)}(?:\.debug)?\"?;", rf"SHOWN = {shown};", "APPICON_NAME = [^;]*;"])
    hit = dice.choice(list(re.finditer(wanted, text)) or list(re.finditer("APPICON_NAME = [^;]*;", text)))
    wrong = re.sub(r"= [^;]*AppIcon[^;]*;", "= Stray;", hit[0].replace(id_, "org.stray.app").replace(shown, "Stray"))
    spoiled = text[: hit.start()] + wrong + text[hit.end() :]
    off = tree.overlay({path: spoiled.encode()}, ())
    found = {item.rule.code for item in look_over(off)[0] if "tray" in item.message}
    assert found, project.said
    assert contents(applied(off, stamp(off).changes)) == contents(tree), project.said


SET, ID = "ASSETCATALOG_COMPILER_APPICON_NAME", "PRODUCT_BUNDLE_IDENTIFIER"
FORGOT = {"the app's icon": (SET, "AppIcon"), "another's icon": (SET, "AppIcon-mossgate"), "the app's ID": (ID, "org.lendspan")}


@pytest.mark.parametrize("what", FORGOT)
@pytest.mark.parametrize("types", [("Debug", "Release"), ("Debug", "Profile", "Release")], ids=len)
@pytest.mark.parametrize("alone", [False, True], ids=["plain", "alone"])
def test_a_configuration_that_was_forgotten(what: str, types: tuple[str, ...], alone: bool) -> None:
    """One configuration takes what is the app's or another's: it alone is named, and stamping changes it alone."""
    for number, forgetful in itertools.product((1, 2, 3), types):
        flavors = ["alderbank", "mossgate", "pennywick"][:number]
        names = {f"{kind}-{flavor}": flavor for flavor in flavors for kind in types} | ({} if alone else dict.fromkeys(types, ""))
        own = {name: {ID: ".".join(filter(None, ("org.lendspan", flavor))), SET: "-".join(filter(None, ("AppIcon", flavor)))} for name, flavor in names.items()}
        rows = "".join(f'[flavors.{flavor}]\nid = "org.lendspan.{flavor}"\n' for flavor in flavors)
        key, wrong = FORGOT[what]
        if number == 1 and "mossgate" in wrong:
            continue
        written = {}
        for spoil in ({}, {key: wrong}):
            settings = {name: {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES", **values} for name, values in own.items()}
            settings[f"{forgetful}-alderbank"] |= spoil
            written[bool(spoil)] = pbxproj(list(names), {"SDKROOT": "iphoneos"}, {"Lend": ("app", settings)}).encode()
        off = Tree.of({"Lend.xcodeproj/project.pbxproj": written[True], "onomaxis.toml": f'format = 1\n[app]\nid = "org.lendspan"\n{rows}'.encode()})
        found = [item.message for item in look_over(off)[0] if item.rule.code in ("FLAVOR03", "FLAVOR07", "FLAVOR08", "FLAVOR09", "ID07")]
        assert len(found) == 1 and re.search(r"not “?(AppIcon-|org\.lendspan\.)alderbank”?$", found[0]), (found, number, forgetful)
        assert applied(off, stamp(off).changes).read("Lend.xcodeproj/project.pbxproj") == written[False], (number, forgetful)


# What Alderbank's two configurations show, and whether that tells which one is meant.
SHOWN = [(("Leaf", "Twig"), False), (("AppIcon-alderbank", "Twig"), True), (("AppIcon-mossgate", "Twig"), True), (("Leaf", "Leaf"), True)]


@pytest.mark.parametrize(("icons", "told"), SHOWN)
def test_an_icon_that_nobody_can_tell_is_left(icons: tuple[str, str], told: bool) -> None:
    """Where neither the file nor names nor numbers tell which of two sets is meant, that is said, and nothing written."""
    names = {f"{kind}-{flavor}": flavor for flavor in ("alderbank", "mossgate") for kind in ("Debug", "Release")}
    base = {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES"}
    own = {name: {**base, ID: f"org.lendspan.{flavor}", SET: f"AppIcon-{flavor}"} for name, flavor in names.items()}
    own["Debug-alderbank"][SET], own["Release-alderbank"][SET] = icons
    rows = "".join(f'[flavors.{flavor}]\nid = "org.lendspan.{flavor}"\n' for flavor in ("alderbank", "mossgate"))
    path = "Lend.xcodeproj/project.pbxproj"
    tree = Tree.of({path: pbxproj(list(names), {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)}).encode(), NAME: f"format = 1\n{rows}".encode()})
    plan = stamp(tree)
    assert any("it is unclear which" in note.text for note in plan.notes) != told
    assert plan.empty == (not told or len(set(icons)) == 1)


# What a flavor says today in its configurations, what the identity file says, and what it shall say in both.
SHORTER = [
    (ID, ("org.lendspan.oak", "org.lendspan.oak.debug"), 'id = "org.lendspan"', ("org.lendspan", "org.lendspan.debug")),
    (ID, ("org.lendspan", "org.lendspan.oak.debug"), 'id = "org.lendspan.oak"', ("org.lendspan.oak", "org.lendspan.oak.debug")),
    ("MARKETING_VERSION", ("1.0", "1.0"), 'version = "1"', ("1", "1")),
    ("MARKETING_VERSION", ("1", "1"), 'version = "1.0"', ("1.0", "1.0")),
    ("INFOPLIST_KEY_CFBundleDisplayName", ("Lend. Plus", "Lend. Plus"), 'name = "Lend"', ("Lend", "Lend")),
]


@pytest.mark.parametrize(("setting", "today", "said", "wanted"), SHORTER)
def test_what_a_flavor_becomes_may_begin_what_it_was(setting: str, today: tuple[str, str], said: str, wanted: tuple[str, str]) -> None:
    """A new value that the old one begins with is written all the same; what already goes further is left."""
    names = dict(zip(("Release-oak", "Debug-oak"), today, strict=True))
    base = {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES", "MARKETING_VERSION": "3.0", ID: "org.lendspan.oak"}
    own = {name: {**base, setting: text} for name, text in names.items()}
    tree = Tree.of(
        {
            "Lend.xcodeproj/project.pbxproj": pbxproj(list(names), {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)}).encode(),
            NAME: f"format = 1\n[flavors.oak]\n{said}\n".encode(),
        }
    )
    later = applied(tree, stamp(tree).changes)
    [app] = [project for project in read_projects(later) if project.platform == "ios"]
    key = {ID: "id", "MARKETING_VERSION": "version"}.get(setting, "name")
    assert tuple(getattr(brand, key).text for brand in app.brands()) == wanted


WISHES = {
    "id": Wish(android_id="com.elsewhere.tools", ios_id="com.elsewhere.tools", both_id="com.elsewhere.tools"),
    "version": Wish(version="3.1.0", build="44"),
    "technical": Wish(project_name="Bodkin"),
    "flavor id": Wish(android_id="com.elsewhere.alder", ios_id="com.elsewhere.alder", both_id="com.elsewhere.alder", flavor="alderbank"),
    "flavor name": Wish(name="Alder Two", flavor="alderbank"),
    "flavor version": Wish(version="3.1.0", build="44", flavor="alderbank"),
}
Brand = tuple[str, str, str, str, str, str, str]  # platform, flavor, build type, ID, name, version, build number


def called(tree: Tree) -> list[Brand]:
    """Return what every flavor is called in every configuration."""
    return sorted(
        (app.platform, app.flavor, build_type(app.configuration, app.flavor), *(v.text if v else "?" for v in (app.id, app.name, app.version, app.build)))
        for project in read_projects(tree)
        for app in project.brands()
    )


def wished(kind: str, app: Brand) -> Brand:
    """Return what a wish of a kind makes of an app."""
    platform, flavor, type_, id_, name, version, build = app
    mine = flavor == "alderbank"
    if kind == "id":
        return (platform, flavor, type_, id_.replace("org.lendspan", "com.elsewhere.tools"), name, version, build)
    if kind == "flavor id" and mine:
        return (platform, flavor, type_, id_.replace("org.lendspan.alderbank", "com.elsewhere.alder"), name, version, build)
    if kind == "flavor name" and mine:
        return (platform, flavor, type_, id_, "Alder Two", version, build)
    if kind == "version" or (kind == "flavor version" and mine):
        return (platform, flavor, type_, id_, name, "3.1.0", "44")
    return app


def refused(kind: str, project: Flavored) -> bool:
    """Tell whether a wish has to be refused: no app stands for all flavors, or a loop says what all of them append."""
    said = set(project.said)
    looped = any(f"style={style}" in said for style in ("list", "for", "each", "map", "nested map", "pairs", "records", "map of records"))
    if kind == "id":
        return "plain=no" in said and not any(item.startswith("script=") for item in said)
    return (kind == "flavor id" and (looped or "style=all" in said)) or (kind == "flavor version" and looped)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_rename_keeps_all_flavors_in_step(seed: str) -> None:
    """Every configuration of every flavor is called as a wish makes it, and so says the identity file; or it is refused."""
    project = flavored(seed)
    tree = with_identity(Tree.of(project.files))
    before = called(tree)
    for kind in random.Random(seed).sample(list(WISHES), 3):
        try:
            survey = take_survey(tree)
            later = applied(tree, followed(survey, plan_rename(survey, WISHES[kind])).changes)
        except RefusedError as error:
            assert refused(kind, project) and error.line, (kind, project.said, error)
            continue
        assert called(later) == sorted(wished(kind, app) for app in before), (kind, project.said)
        assert stamp(later).empty, (kind, project.said)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_flavor_in_another_case_is_the_same_flavor(seed: str) -> None:
    """What is done to ALDERBANK is what is done to alderbank; what is another flavor's own stays to the byte."""
    tree = with_identity(Tree.of(flavored(seed).files))
    theirs = {path: data for path, data in contents(tree).items() if "mossgate" in path}

    def changes(kind: str, flavor: str) -> object:
        survey = take_survey(tree)
        try:
            return followed(survey, plan_rename(survey, WISHES[kind]._replace(flavor=flavor))).changes
        except RefusedError as error:
            return error.line

    for kind in ("flavor id", "flavor name", "flavor version"):
        planned = changes(kind, "alderbank")
        assert changes(kind, "ALDERBANK") == planned, kind
        if not isinstance(planned, int):
            assert {path: data for path, data in contents(applied(tree, planned)).items() if "mossgate" in path} == theirs
    assert plan_retirement(tree, "ALDERBANK").changes == plan_retirement(tree, "alderbank").changes


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


def test_a_platform_that_lacks_the_flavor_is_named() -> None:
    """A flavor that one platform alone builds is renamed there; of the other it is said."""
    project = flavored("both-0")
    lacking = {path: data for path, data in project.files.items() if not path.startswith("ios/")}
    plain = pbxproj(
        ["Debug", "Release"],
        {"SDKROOT": "iphoneos"},
        {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Info.plist", "PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan"}})},
    )
    tree = Tree.of({**lacking, "ios/Lend.xcodeproj/project.pbxproj": plain.encode(), "ios/Info.plist": plist({"CFBundleDisplayName": "Lend"}).encode()})
    plan = plan_rename(take_survey(tree), Wish(name="Alder Two", flavor="alderbank"))
    assert [(note.at, note.text) for note in plan.notes] == [("ios", "the iOS build has no flavor alderbank: it stays")]
    assert {app[3] for app in told(applied(tree, plan.changes)) if app[0] == "ios"} == {"Lend"}


SERVED = """
[values.server]
type = "url"
places = [{ setting = "SERVER" }]

[values.key]
secret = true
places = [{ plist = "MapKey" }]

"""


def served(keys: dict[str, str]) -> tuple[Tree, str]:
    """Return a project of two brands whose configurations state a server and a secret key; its project file's path."""
    names = [f"{kind}-{flavor}" for flavor in BRANDS for kind in ("Debug", "Profile", "Release")]
    own = {}
    for name in names:
        kind, _, flavor = name.partition("-")
        dev = "dev." if kind == "Debug" else ""
        own[name] = {"PRODUCT_BUNDLE_IDENTIFIER": BRANDS[flavor][0], "SERVER": f"https://{dev}{flavor}.lendspan.org", "MAP_KEY": keys[flavor]}
    path = "Lend.xcodeproj/project.pbxproj"
    text = pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Info.plist"}, **own})})
    info = plist({"CFBundleDisplayName": "Lend", "MapKey": "$(MAP_KEY)"})
    tree = with_identity(Tree.of({path: text.encode(), "Info.plist": info.encode()}))
    said = (tree.read(NAME) or b"").decode()
    for flavor in BRANDS:
        table = f"[flavors.{flavor}.values]\nserver = 'https://{flavor}.lendspan.org'\nkey = '{keys[flavor]}'\n"
        said += f"\n{table}"
    return tree.overlay({NAME: (said + SERVED).encode()}, ()), path


@pytest.mark.parametrize(
    ("configuration", "old", "new", "said"),
    [
        (
            "Debug-mossgate",
            "https://dev.mossgate",
            "https://dev.alderbank",
            "value “server” is “https://dev.alderbank.lendspan.org”, not “https://dev.mossgate.lendspan.org”",
        ),
        ("Debug-mossgate", "https://dev.mossgate.lendspan.org", "http://localhost:8080", ""),
        (
            "Profile-mossgate",
            "https://mossgate",
            "https://alderbank",
            "value “server” is “https://alderbank.lendspan.org”, not “https://mossgate.lendspan.org”",
        ),
        ("Debug-alderbank", "secret-a", "secret-m", "value “key” is not what the flavor's other configurations say"),
    ],
)
def test_values_of_configurations_are_compared(configuration: str, old: str, new: str, said: str) -> None:
    """A configuration with another flavor's value is named and put right; a build type's own form is left alone."""
    tree, path = served({"alderbank": "secret-a", "mossgate": "secret-m"})
    right = tree.read(path) or b""
    assert stamp(tree).empty and not [item for item in look_over(tree)[0] if item.rule.code == "FLAVOR09"]
    block = right.decode().rindex(f"/* {configuration} */ = {{")
    wrong = right.decode()[:block] + right.decode()[block:].replace(old, new, 1)
    off = tree.overlay({path: wrong.encode()}, ())
    found = [item.message for item in look_over(off)[0] if item.rule.code == "FLAVOR09"]
    assert found == ([f"{configuration}: {said}"] if said else [])
    assert "secret" not in "".join(found)
    assert applied(off, stamp(off).changes).read(path) == (right if said else wrong.encode())
