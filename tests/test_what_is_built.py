"""Brands, environments and tiers in the styles of both platforms: what is built, what ships, what is selected, what a rename does.

The projects are made here from what they shall mean, by nothing of the program's own.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

import pytest

import packaged
import right
from conftest import files, judge, memory, onomaxis
from onomaxis.brands.matrix import flavor_matrix
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import load_identity, subjects_of
from onomaxis.checks.inspection import look_over
from onomaxis.errors import OnomaxisError
from onomaxis.flavor_names import made_of, selects, singles
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.surveys.variants import dimensions_of, variants_of
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import FileChange, applied
from xcode import pbxproj, standing_on

Parts = tuple[str, ...]
BRANDS = {"plain": ("alderbank", "mossgate", "pennywick"), "two words": ("alderbank", "millRow")}
STAGES = {"two": ("staging", "production"), "three": ("qa", "beta", "live")}  # the last one has the brand's own ID
TIERS = {"none": (), "tiers": ("free", "paid")}


def cap(text: str) -> str:
    return text[:1].upper() + text[1:]


def camel(*parts: str) -> str:
    return parts[0] + "".join(map(cap, parts[1:]))


# What a configuration is called, by type and flavors.
NAMED: dict[str, Callable[[str, Parts], str]] = {
    "type-flavors": lambda kind, parts: "-".join((kind, *parts)),
    "type-camel": lambda kind, parts: f"{kind}-{camel(*parts)}",
    "camelType": lambda kind, parts: f"{camel(*parts)}{kind}",
    "flavors-type": lambda kind, parts: "-".join((*parts, kind)),
    "Stage-brand": lambda kind, parts: "-".join((cap(parts[-1]), *parts[:-1])),
    "Brand Stage": lambda kind, parts: " ".join(map(cap, parts)),
    "StageType-brand": lambda kind, parts: "-".join((cap(parts[-1]) + kind, *parts[:-1])),
    "Type Brand Stage": lambda kind, parts: " ".join((kind, *map(cap, parts))),
    "stage_brand_type": lambda kind, parts: "_".join((parts[-1], *parts[:-1], kind.lower())),
}
TARGETS = ("a target each brand", "a target each stage")


class Case(NamedTuple):
    style: str
    brands: str
    stages: str
    tiers: str
    android: str  # how Gradle says it; empty for an Xcode project alone
    files: str = ""  # where configurations stand on files of their own

    @property
    def variants(self) -> list[Parts]:
        sides = (BRANDS[self.brands], *([TIERS[self.tiers]] if TIERS[self.tiers] else []), STAGES[self.stages])
        return list(itertools.product(*sides))

    def told(self, parts: Parts) -> tuple[str, str]:
        """The ID and the name of a variant."""
        brand, *tier, stage = parts
        end = [] if stage == STAGES[self.stages][-1] else [stage]
        return ".".join(("org.lendspan", brand.lower(), *tier, *end)), " ".join(map(cap, (brand, *tier, *end)))


def cases() -> Iterator[Case]:
    for style, brands, stages, tiers, android, own in itertools.product((*NAMED, *TARGETS), BRANDS, STAGES, TIERS, ("kts", "groovy", ""), ("", "files")):
        if not ((tiers == "tiers" or own) and style in TARGETS) and not (style == "a target each brand" and not android):
            yield Case(style, brands, stages, tiers, android, own)


EVERY = list(cases())


def gradle(case: Case) -> dict[str, str]:
    kts = case.android == "kts"
    dimensions = ("brand", *(["tier"] if TIERS[case.tiers] else []), "environment")
    blocks = []
    for at, dimension in enumerate(dimensions):
        for name in dict.fromkeys(parts[at] for parts in case.variants):
            lines = [f'dimension = "{dimension}"' if kts else f"dimension '{dimension}'"]
            if dimension == "brand":
                lines.append(f'applicationId = "org.lendspan.{name.lower()}"' if kts else f"applicationId 'org.lendspan.{name.lower()}'")
            elif name != STAGES[case.stages][-1]:
                lines.append(f'applicationIdSuffix = ".{name}"' if kts else f"applicationIdSuffix '.{name}'")
            head = f'create("{name}")' if kts else name
            blocks.append(f"        {head} {{\n" + "".join(f"            {line}\n" for line in lines) + "        }\n")
    listed = ", ".join(f'"{name}"' for name in dimensions)
    said = f"flavorDimensions += listOf({listed})" if kts else f"flavorDimensions {listed}"
    default = (
        'applicationId = "org.lendspan.app"\n        versionCode = 7\n        versionName = "1.2"'
        if kts
        else "applicationId 'org.lendspan.app'\n        versionCode 7\n        versionName '1.2'"
    )
    plugin = 'plugins { id("com.android.application") }' if kts else "apply plugin: 'com.android.application'"
    text = f"{plugin}\nandroid {{\n    namespace 'org.lendspan.app'\n    defaultConfig {{\n        {default}\n    }}\n    {said}\n    productFlavors {{\n{''.join(blocks)}    }}\n}}\n"
    end = ".kts" if kts else ""
    return {
        f"settings.gradle{end}": 'include(":app")\n' if kts else "include ':app'\n",
        f"app/build.gradle{end}": text.replace("namespace 'org.lendspan.app'", 'namespace = "org.lendspan.app"') if kts else text,
        "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Lendspan"/></manifest>\n',
    }


def scheme(target: int, name: str, archived: str) -> str:
    return (
        f'<Scheme><BuildAction><BuildActionEntries><BuildActionEntry buildForArchiving = "YES"><BuildableReference BlueprintIdentifier = "T{target:022d}0" BlueprintName = "{name}" '
        f'ReferencedContainer = "container:Lend.xcodeproj"/></BuildActionEntry></BuildActionEntries></BuildAction><ArchiveAction buildConfiguration = "{archived}"/></Scheme>\n'
    )


def xcode(case: Case) -> dict[str, str]:
    targets: dict[str, dict[str, dict[str, str]]] = {}
    archived: list[tuple[str, str]] = []
    for parts in case.variants:
        id_, name = case.told(parts)
        settings = {
            "PRODUCT_BUNDLE_IDENTIFIER": id_,
            "INFOPLIST_KEY_CFBundleDisplayName": name,
            "MARKETING_VERSION": "1.2",
            "CURRENT_PROJECT_VERSION": "7",
            "GENERATE_INFOPLIST_FILE": "YES",
        }
        last = parts[-1] == STAGES[case.stages][-1]
        target, named = "Lend", NAMED.get(case.style)
        if case.style == "a target each brand":
            target, named = cap(parts[0]), lambda kind, parts: kind if last else cap(parts[-1])  # noqa: B023
        elif case.style == "a target each stage":
            target, named = "Lend" if last else f"Lend {cap(parts[-1])}", lambda kind, parts: f"{kind}-{parts[0]}"
        assert named is not None
        for kind in ("Debug", "Release"):
            targets.setdefault(target, {})[named(kind, parts)] = settings
        archived.append((target, named("Release", parts)))
    configurations = list(dict.fromkeys(name for mine in targets.values() for name in mine))
    order = sorted(targets, key=len)
    found: dict[str, str] = {}
    if case.files:
        paths = {name: f"Config/{name.replace(' ', '')}.xcconfig" for name in configurations}
        found = {f"ios/{paths[name]}": "".join(f"{key} = {text}\n" for key, text in targets["Lend"][name].items()) for name in configurations}
        text = standing_on(pbxproj(configurations, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {})}), paths, 1)
    else:
        text = pbxproj(configurations, {"SDKROOT": "iphoneos"}, {name: ("app", targets[name]) for name in order})
    found["ios/Lend.xcodeproj/project.pbxproj"] = text
    for number, (target, configuration) in enumerate(archived):
        found[f"ios/Lend.xcodeproj/xcshareddata/xcschemes/{number}.xcscheme"] = scheme(order.index(target), target, configuration)
    return found


def project(case: Case) -> Tree:
    return memory({**(gradle(case) if case.android else {}), **xcode(case)})


@pytest.mark.parametrize("case", EVERY, ids=lambda case: "-".join(filter(None, case)).replace(" ", "_"))
def test_what_is_built_and_selected(case: Case) -> None:
    tree = project(case)
    projects = read_projects(tree)
    apps = [app for item in projects for app in item.apps]
    built = variants_of(projects, tree)
    known = flavors_of(projects)
    folded = [tuple(part.casefold() for part in parts) for parts in case.variants]
    wanted = {(frozenset(fold), case.told(parts)[0]) for parts, fold in zip(case.variants, folded, strict=True)}
    for platform in ("android", "ios") if case.android else ("ios",):
        mine = [(app, variant) for app, variant in zip(apps, built, strict=True) if app.platform == platform and app.ships]
        told = [(frozenset(variant.key.split("+")), app.id.text) for app, variant in mine if app.id]
        if case.android or case.style not in TARGETS:  # what a plain Release is nobody can tell of one platform
            assert len(told) == len(wanted) and set(told) == wanted, platform
        for asked in (
            *dict.fromkeys(part for parts in case.variants for part in parts),
            camel(*case.variants[0]),
            camel(*reversed(case.variants[1])),
            "nobody",
        ):
            parts = {name.casefold() for name in made_of(asked, singles(part for parts in case.variants for part in parts))}
            picked = {app.id.text for app, _ in mine if app.id and selects(asked, app.variant, known)}
            meant = {case.told(parts_of)[0] for parts_of, fold in zip(case.variants, folded, strict=True) if parts and parts <= set(fold)}
            plain = case.style in TARGETS and platform == "ios" and STAGES[case.stages][-1] in parts
            assert picked == meant or plain, (platform, asked)
    if case.android:
        keys = [{variant.key for app, variant in zip(apps, built, strict=True) if app.platform == platform} for platform in ("android", "ios")]
        assert keys[0] == keys[1]  # a script joins both platforms by it
        assert {tuple(variant.flavors) for variant in built} in ({("brand", "environment")}, {("brand", "tier", "environment")}) or {
            frozenset(v.flavors) for v in built
        } <= {frozenset(("brand", "environment")), frozenset(("brand", "tier", "environment"))}


@pytest.mark.parametrize(("style", "own"), [*((style, "") for style in (*NAMED, *TARGETS)), *((style, "files") for style in NAMED)])
def test_a_brand_is_renamed_in_all_its_variants(style: str, own: str) -> None:
    """ID, name and number of every environment follow, every other brand is as before; and back again."""
    case = Case(style, "plain", "two", "none", "kts", own)
    before = take_survey(project(case))
    wish = Wish(android_id="org.lendspan.oak", ios_id="org.lendspan.oak", both_id="org.lendspan.oak", name="Oak", version="2.0", flavor="Alderbank")
    plan = plan_rename(before, wish)
    after = take_survey(applied(before.tree, plan.changes))
    told = {(app.id.text, app.name.text, app.version.text) for app in after.apps if app.platform == "ios" and app.id and app.name and app.version}
    others = {(*case.told(parts), "1.2") for parts in case.variants if parts[0] != "alderbank"}
    stage = "Alderbank Staging" if style == TARGETS[0] else "Oak Staging"  # a target's plain configurations keep their names
    assert told == others | {("org.lendspan.oak", "Oak", "2.0"), ("org.lendspan.oak.staging", stage, "2.0")}
    assert {app.id.text for app in after.apps if app.platform == "android" and app.id} == {row[0] for row in told}
    back = Wish(
        android_id="org.lendspan.alderbank",
        ios_id="org.lendspan.alderbank",
        both_id="org.lendspan.alderbank",
        name="Alderbank",
        version="1.2",
        flavor="alderbank",
        platforms=("ios",),
    )
    again = applied(after.tree, plan_rename(after, back).changes)
    assert all(again.read(path) == before.tree.read(path) for path in before.tree.files if path.startswith("ios/"))


@pytest.mark.parametrize("style", [*NAMED, *TARGETS])
def test_what_cannot_be_told_apart_is_refused(style: str) -> None:
    """An environment that iOS knows inside other flavors' configurations alone, a variant that no build has by itself."""
    survey = take_survey(project(Case(style, "plain", "two", "none", "kts")))
    for flavor in ("staging", "alderbankStaging", "stagingAlderbank", "nobody"):
        try:
            plan = plan_rename(survey, Wish(build="9", flavor=flavor))
        except OnomaxisError as error:
            assert error.exit_code in (2, 3) and error.remedy
            continue
        after = take_survey(applied(survey.tree, plan.changes))
        numbers = {(app.platform, app.id.text, app.build.text) for app in after.apps if app.id and app.build}
        assert numbers == {(platform, id_, "9" if ".staging" in id_ else "7") for platform, id_, _ in numbers} and flavor == "staging"


FILE = """format = 1
[app]
version = "1.3"
[flavors.alderbank]
id = "org.lendspan.oak"
name = "Oak"
[flavors.mossgate]
name = "Mossgate"
[flavors.pennywick]
id = "org.lendspan.pennywick"
"""


@pytest.mark.parametrize("style", [*NAMED, *TARGETS])
def test_a_brand_is_stamped_in_all_its_variants(style: str) -> None:
    """What the file says of a brand holds for its main variant; environments go along; others are as before; no finding is left."""
    case = Case(style, "plain", "two", "none", "kts")
    tree = project(case)
    tree = applied(tree, [FileChange(None, "onomaxis.toml", None, FILE.encode())])
    wrong = [item.message for item in look_over(tree, ["ids"])[0] if item.rule.code == "ID07"]
    assert any(text.startswith("Android alderbank: id is") for text in wrong) and any(
        text.startswith("iOS") and "is “org.lendspan.alderbank”, not" in text for text in wrong
    )
    later = applied(tree, stamp(tree).changes)
    apps = [app for item in read_projects(later) for app in item.apps if app.platform == "ios" and app.id and app.name and app.version]
    told = {(app.id.text, app.name.text, app.version.text) for app in apps if app.id and app.name and app.version}
    others = {(*case.told(parts), "1.3") for parts in case.variants if parts[0] != "alderbank"}
    assert told == others | {("org.lendspan.oak", "Oak", "1.3"), ("org.lendspan.oak.staging", "Oak Staging", "1.3")}
    assert not [item for item in look_over(later, ["ids", "versions"])[0] if item.rule.severity == "error"]
    assert not [item for item in look_over(later, ["flavors"])[0] if item.rule.code in ("FLAVOR01", "FLAVOR02", "FLAVOR08", "FLAVOR09")]
    file, projects = load_identity(later), read_projects(later)
    assert file is not None
    rows = flavor_matrix(subjects_of(file, projects), file, set(), dimensions_of(projects, later))
    assert {row.flavor for row in rows} == {"", "alderbank", "mossgate", "pennywick", "staging", "production"}
    assert not [row for row in rows if row.flavor and row.troubled(True)]  # no hole, and no environment that the file should list
    assert {(row.dimension, cell.id) for row in rows if row.flavor == "alderbank" for cell in row.cells.values()} == {("brand", "org.lendspan.oak")}


def test_targets_are_brands_where_the_identity_file_says_so(tmp_path: Path) -> None:
    """Of one platform alone nobody could tell: several apps, or one; with their dimension told it is one, stamped and listed as such."""
    contents = xcode(Case(TARGETS[0], "plain", "two", "none", "kts"))
    assert onomaxis("flavor", "list", files(tmp_path / "a", contents)).code == 3
    told = "".join(f'[flavors.{name}]\ndimension = "brand"\n' for name in BRANDS["plain"])
    root = files(tmp_path / "b", {**contents, "onomaxis.toml": f'format = 1\n{told}name = "Penny"\nid = "org.lendspan.penny"\n'})
    assert onomaxis("stamp", root, "--json", "--allow-dirty").code == 0
    apps = onomaxis("survey", root, "--flavor", "pennywick", "--json").json["apps"]
    assert {(app["id"], app["name"]) for app in apps} == {("org.lendspan.penny", "Penny"), ("org.lendspan.penny.staging", "Penny Staging")}
    rows = onomaxis("flavor", "list", root, "--json").json["flavors"]
    assert {row["flavor"] for row in rows if row["dimension"] == "brand"} == {*BRANDS["plain"]}


NINE = ("alderbank", "mossgate", "pennywick", "oakhollow", "millRow", "ferncliff", "birchend", "lowmarsh", "highfield")


def packages(case: Case, folder: Path) -> dict[Parts, tuple[Path, Path]]:
    """Build every variant for both platforms, as the build tools would."""
    found = {}
    for parts in case.variants:
        id_, name = case.told(parts)
        text = packaged.manifest(id_, "7", "1.2", application='android:label="Lendspan" android:icon="@mipmap/ic_launcher"')
        pictures = {path: data for path, data in packaged.RESOURCES.items() if path.startswith("mipmap")}
        shown = {"CFBundleIdentifier": id_, "CFBundleDisplayName": name, "CFBundleName": "Lend", "CFBundleShortVersionString": "1.2", "CFBundleVersion": "7"}
        info = {
            **dict.fromkeys(packaged.INFO),
            **{key: packaged.INFO[key] for key in ("CFBundleExecutable", "CFBundleIcons")},
            "CFBundleSupportedPlatforms": ["iPhoneOS"],
            **shown,
        }
        found[parts] = (
            packaged.make_apk(folder, text, pictures, name=f"{camel(*parts)}.apk"),
            packaged.make_ipa(folder, packaged.app_files(info=info), f"{camel(*parts)}.ipa"),
        )
    return found


@pytest.mark.parametrize("style", list(NAMED))
def test_an_agency_of_nine_brands(tmp_path: Path, style: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Both environments of nine brands: every command selects the same, right packages of all are taken in silence, wrong ones are not."""
    judge("aapt2")
    monkeypatch.setitem(BRANDS, "nine", NINE)
    case = Case(style, "nine", "two", "none", "kts")
    root = files(tmp_path / "x", {**gradle(case), **xcode(case)})
    (tmp_path / "out").mkdir()
    built = packages(case, tmp_path / "out")
    every = [path for pair in built.values() for path in pair]
    seen = onomaxis("inspect", *every, "--against", root, "--json")
    assert seen.code == 0 and not seen.json["findings"] and len(seen.json["packages"]) == 36
    assert [item["key"] for item in seen.json["packages"]] == ["+".join(parts).lower() for parts in case.variants for _ in range(2)]
    apk, ipa = built["mossgate", "staging"]
    for path in (apk, ipa):
        for flavor, code in (("mossgate", 0), ("staging", 0), ("stagingMossgate", 0), ("alderbank", 1), ("mossgateProduction", 1), ("nobody", 2)):
            assert onomaxis("inspect", path, "--against", root, "--flavor", flavor).code == code, (path, flavor)
    signed = [packaged.sign(built["mossgate", stage][0], packaged.keystore(tmp_path)) for stage in STAGES["two"]]
    told = onomaxis("rehearse", *signed, *(path for _, path in built.values()), "--against", root, "--state", tmp_path / "stores", "--json")
    assert (
        told.code == 0 and {answer["accepted"] for answer in told.json["answers"]} == {True} and len({answer["key"] for answer in told.json["answers"]}) == 18
    )
    assert onomaxis("ledger", "add", root, "--date", "2026-11-01").code == 0

    rows: dict[str, dict[str, str]] = {}  # a script joins both platforms by their keys
    for app in onomaxis("survey", root, "--json").json["apps"]:
        rows.setdefault(app["key"], {})[app["platform"]] = app["id"]
    assert len(rows) == 18 and all(row["android"] == row["ios"] for row in rows.values())
    for words, number in ((["mossgate"], 2), (["Staging"], 9), (["mossgate", "staging"], 1), (["staging", "mossgate"], 1), (["mossgateStaging"], 1)):
        asked = [word for flavor in words for word in ("--flavor", flavor)]
        apps = onomaxis("survey", root, *asked, "--json").json["apps"]
        assert len(apps) == 2 * number
        published = onomaxis("ledger", "list", root, *asked, "--json").json["published"]
        assert sorted((row["platform"], row["id"], row["key"]) for row in published) == sorted((app["platform"], app["id"], app["key"]) for app in apps)
        errors = [item for item in onomaxis("check", root, *asked, "--publish", "--json").json["findings"] if item["severity"] == "error"]
        assert {item["code"] for item in errors} == {"VERSION06"} and len(errors) == 2 * number  # these numbers are in the ledger now
    for command in ("survey", "check", "proof"):
        assert onomaxis(command, root, "--flavor", "nobody").code == 2
    assert onomaxis("renumber", root, "--flavor", "mossgate", "--build", "next", "--json", "--allow-dirty").code == 0
    after = {app["key"]: app["build"] for app in onomaxis("survey", root, "--json").json["apps"]}
    assert {key for key, build in after.items() if build == "8"} == {"mossgate+staging", "mossgate+production"}


@pytest.mark.parametrize("style", ["type-camel", "Stage-brand"])
def test_names_that_only_variants_have_follow_their_brand(style: str) -> None:
    """On Android too: where each variant has a name in a source set of its own, those are what ships; a name of its own stays."""
    case = Case(style, "plain", "two", "none", "kts")
    contents = {**gradle(case), **xcode(case)}
    manifest = "app/src/main/AndroidManifest.xml"
    contents[manifest] = contents[manifest].replace('"Lendspan"', '"@string/app_name"')
    contents["app/src/main/res/values/strings.xml"] = right.resources(app_name="Lendspan")
    for parts in case.variants:
        name = "Field Test" if parts == ("mossgate", "staging") else case.told(parts)[1]
        contents[f"app/src/{camel(*parts)}/res/values/strings.xml"] = right.resources(app_name=name)
    survey = take_survey(memory(contents))
    for brand, told in (("alderbank", {"Oak", "Oak Staging"}), ("mossgate", {"Oak", "Field Test"})):
        plan = plan_rename(survey, Wish(name="Oak", flavor=brand, platforms=("android",)))
        later = applied(survey.tree, plan.changes)
        shown = {app.flavor: app.name.text for item in read_projects(later) for app in item.apps if app.platform == "android" and app.name}
        assert {shown[camel(brand, stage)] for stage in STAGES["two"]} == told
        assert {name for flavor, name in shown.items() if not flavor.startswith(brand)} == {
            app.name.text for app in survey.apps if app.name and app.platform == "android" and not app.flavor.startswith(brand)
        }
        assert f"app/src/{brand}/res/values/strings.xml" not in later.files and any("Field Test" in str(note) for note in plan.notes) == (brand == "mossgate")
    told_of = "".join(f'[flavors.{brand}]\nname = "{cap(brand)}"\n' for brand in BRANDS["plain"])
    tree = memory({**contents, "onomaxis.toml": "format = 1\n" + told_of.replace('"Alderbank"', '"Oak"')})
    assert [item.message for item in look_over(tree, ["names"], "mossgate")[0] if item.rule.code == "NAME05"] == []
    later = applied(tree, stamp(tree).changes)
    names = [app.name.text for item in read_projects(later) for app in item.apps if app.name and "alderbank" in app.variant.casefold()]
    assert sorted(names) == ["Oak", "Oak", "Oak Staging", "Oak Staging"] and set(later.files) == set(tree.files)


def test_the_identity_file_tells_what_the_builds_do_not(tmp_path: Path) -> None:
    """One brand in two environments: nothing but the file tells them apart; a combination's own table has the last word."""
    names = [f"{kind}-alderbank{stage}" for kind in ("Debug", "Release") for stage in ("Blue", "Green")]
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan" + (".blue" if "Blue" in name else "")} for name in names}
    text = pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES"}, **own})})
    told = "".join(f'[flavors.{name}]\ndimension = "{dimension}"\n' for name, dimension in (("alderbank", "customer"), ("blue", "ring"), ("green", "ring")))
    values = '[values.api]\nplaces = []\nvalue = "a"\n[flavors.blue.values]\napi = "b"\n[flavors.alderbankBlue.values]\napi = "c"\n'
    plain = memory({"L.xcodeproj/project.pbxproj": text})
    assert {variant.key for variant in variants_of(read_projects(plain), plain)} == {"alderbankblue", "alderbankgreen"}
    tree = memory({"L.xcodeproj/project.pbxproj": text, "onomaxis.toml": f"format = 1\n{told}{values}"})
    projects = read_projects(tree)
    built = variants_of(projects, tree)
    assert {variant.key for variant in built} == {"alderbank+blue", "alderbank+green"} and {tuple(sorted(v.flavors)) for v in built} == {("customer", "ring")}
    assert flavors_of(projects) == ("alderbank", "blue", "green")
    file = load_identity(tree)
    assert file is not None
    given = {name: file.variant(name, flavors_of(projects), "ios").values["api"].text for name in ("alderbankBlue", "alderbankGreen", "blue", "alderbank")}
    assert given == {"alderbankBlue": "c", "alderbankGreen": "a", "blue": "b", "alderbank": "a"}
    after = applied(tree, plan_rename(take_survey(tree), Wish(ios_id="org.oak", flavor="alderbank")).changes)
    assert {app.id.text for item in read_projects(after) for app in item.apps if app.id} == {"org.oak", "org.oak.blue"}
    assert not [item for item in look_over(tree, ["flavors"])[0] if item.rule.code in ("FLAVOR01", "FLAVOR02")]
    root = files(tmp_path, {"L.xcodeproj/project.pbxproj": text, "onomaxis.toml": f"format = 1\n{told}{values}"})
    assert "ring\n" in onomaxis("flavor", "list", root).out  # each is one of the one brand there is


def test_flavors_that_a_build_declares_are_one_each(tmp_path: Path) -> None:
    """Names that could be made of others (``proFree``, ``litePaid``) are what Gradle says they are, and iOS follows."""
    names = [camel(*parts) for parts in itertools.product(("pro", "lite"), ("free", "paid"))]
    blocks = "".join(
        f'        create("{name}") {{\n            dimension = "edition"\n            applicationIdSuffix = ".{name.lower()}"\n        }}\n' for name in names
    )
    contents = gradle(Case("type-camel", "plain", "two", "none", "kts"))
    build = "app/build.gradle.kts"
    head, _, rest = contents[build].partition("    productFlavors {\n")
    contents[build] = head.replace('"brand", "environment"', '"edition"') + "    productFlavors {\n" + blocks + "    }\n}\n"
    told = {f"{kind}-{name}": {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.app.{name.lower()}"} for kind in ("Debug", "Release") for name in names}
    every = {"*": {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES"}}
    for more in ({}, {"ios/L.xcodeproj/project.pbxproj": pbxproj(list(told), {"SDKROOT": "iphoneos"}, {"Lend": ("app", {**every, **told})})}):
        tree = memory({**contents, **more})
        projects = read_projects(tree)
        assert rest and flavors_of(projects) == tuple(names)
        assert {variant.key for variant in variants_of(projects, tree)} == {name.lower() for name in names}
        assert not selects("pro", "proFree", flavors_of(projects)) and selects("PROFREE", "proFree", flavors_of(projects))
        told = "".join(
            f'[flavors.{name}]\ndimension = "{at}"\n' for name, at in (("pro", "edition"), ("lite", "edition"), ("free", "price"), ("paid", "price"))
        )
        tree = memory({**contents, **more, "onomaxis.toml": f"format = 1\n{told}"})  # but where the identity file says that they are made of others
        projects = read_projects(tree)
        assert flavors_of(projects) == ("pro", "lite", "free", "paid") and {v.key for v in variants_of(projects, tree)} == {
            f"{a}+{b}" for a in ("pro", "lite") for b in ("free", "paid")
        }
        assert not [item for item in look_over(tree, ["flavors"])[0] if item.rule.code in ("FLAVOR01", "FLAVOR02")]


@pytest.mark.parametrize("style", list(NAMED))
def test_a_brand_is_retired_in_all_its_variants(style: str) -> None:
    """Configurations, schemes and the block go; what the others are called and ship stays."""
    case = Case(style, "plain", "two", "none", "kts")
    tree = project(case)
    later = applied(tree, plan_retirement(tree, "alderbank").changes)
    before, after = ({(app.platform, app.variant.casefold(), app.id.text) for item in read_projects(at) for app in item.apps if app.id} for at in (tree, later))
    assert after == {row for row in before if "alderbank" not in row[1]}
    assert not [path for path in later.files if "lderbank" in (later.read(path) or b"").decode()]


def test_names_that_could_be_parted_in_very_many_ways() -> None:
    """What the tree calls its flavors makes no command hang, however long and alike the names are."""
    names = ("a", "aa", "aaa", "aaaa")
    assert made_of("a" + "A" * 150 + "Z", names) == frozenset() and made_of("a" + "A" * 150, names) <= {*names}
    assert made_of("aA" * 5000, names) == frozenset() and made_of("b" * 5000, ("b" * 5000,)) == {"b" * 5000}
    assert singles(f"{'aB' * 90}{n}" for n in range(40))
