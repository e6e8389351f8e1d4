"""Brands beside environments, dressed: values, icons, service files and names of every variant, whatever a build calls it.

What each variant shall have is put together here from the model alone, and read from the files by nothing of the program's own.
"""

from __future__ import annotations

import io
import json
import plistlib
import re
import tomllib
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image

import right
from conftest import files, memory, onomaxis
from onomaxis.brands.adopt import adopted
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.proposing import offers, tables
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.seen_services import service_tables
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import subjects
from onomaxis.checks.inspection import look_over
from onomaxis.errors import RefusedError
from onomaxis.icons.encode import encoded
from onomaxis.icons.sheets.shown import all_shown
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from packaged import picture
from test_what_is_built import NAMED, TARGETS, Case, Parts, camel, cap, gradle, scheme
from xcode import pbxproj, standing_on

BRANDS = ("alderbank", "mossgate", "pennywick")
# Which icon sets the configurations name, by what they are called after.
SETS = {
    "one": lambda b, e: "AppIcon",
    "brand": lambda b, e: f"AppIcon-{b}",
    "variant": lambda b, e: f"AppIcon-{camel(b, e)}",
    "stage": lambda b, e: f"AppIcon-{e}",
}
COMPONENTS = {"alpha": "1.000", "red": "0x0A", "green": "0x0B", "blue": "0x0C"}
TINT = json.dumps({"colors": [{"color": {"color-space": "srgb", "components": COMPONENTS}, "idiom": "universal"}], "info": {"author": "xcode", "version": 1}})
ART = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 108 108"><path fill="#fff" d="M40,40h28v28h-28z"/></svg>'
EMPTY = json.dumps({"images": [{"idiom": "iphone", "size": "60x60", "scale": "2x"}], "info": {"author": "xcode", "version": 1}})
BAND = b'<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n%s</dict>\n</plist>\n'
FILE = """format = 1
[flavors.alderbank]
name = "Alderbank"
icon = { foreground = "art/a.svg", background = "#102030" }
services = { google-ios = "services/alderbank.plist" }
values = { brand = "#aa0000", api = "https://alderbank.example" }
[flavors.mossgate]
[flavors.pennywick]
[flavors.staging]
values = { api = "https://beta.example" }
[flavors.production]
values = { api = "https://live.example", brand = "#0000bb" }
[flavors.mossgateStaging]
icon = { foreground = "art/a.svg", background = "#405060" }
services = { google-ios = "services/moss-staging.plist" }
values = { api = "https://moss.beta.example" }
[values.brand]
type = "color"
value = "#112233"
places = [{ resource = "color/brand" }, { plist = "LendColor" }]
[values.api]
value = "https://lendspan.example"
places = [{ resource = "string/api" }, { plist = "LendAPI" }]
[values.site]
value = "https://www.example"
places = [{ env = "SITE", file = "web/{flavor}.env" }]
[values.tint]
type = "color"
value = "#010101"
places = [{ color-set = "Tint", file = "ios/Brands/{flavor}/Colors.xcassets/Tint.colorset/Contents.json" }]
[flavors.mossgate.values]
tint = "#020304"
brand = "#00aa00"
"""
# What the file says of each variant, nearest last: the app, the environment (Gradle names it second), the brand, the two together.
GIVEN: dict[str, dict[str, str]] = {
    "alderbank": {"brand": "#aa0000", "api": "https://alderbank.example", "icon": "#102030"},
    "mossgate": {"brand": "#00aa00"},
    "staging": {"api": "https://beta.example"},
    "production": {"api": "https://live.example", "brand": "#0000bb"},
    "mossgateStaging": {"api": "https://moss.beta.example", "icon": "#405060"},
}


def wanted(brand: str, stage: str) -> dict[str, str]:
    app = {"brand": "#112233", "api": "https://lendspan.example", "icon": ""}
    return app | GIVEN.get(stage, {}) | GIVEN.get(brand, {}) | GIVEN.get(camel(brand, stage), {})


def service(id_: str, mark: str) -> bytes:
    return plistlib.dumps({"BUNDLE_ID": id_, "GOOGLE_APP_ID": f"1:1:ios:{mark}"})


def built_as(style: str, brand: str, stage: str) -> tuple[str, Callable[[str], str]]:
    """Return the target of a variant, and what its configurations are called."""
    last = stage == "production"
    if style == TARGETS[0]:
        return cap(brand), lambda kind: kind if last else cap(stage)
    if style == TARGETS[1]:
        return "Lend" if last else f"Lend {cap(stage)}", lambda kind: f"{kind}-{brand}"
    return "Lend", lambda kind: NAMED[style](kind, (brand, stage))


def project(style: str, sets: str) -> tuple[Case, dict[str, str | bytes], dict[Parts, str]]:
    """Return a project, and the configuration file that each variant's archive stands on."""
    case = Case(style, "plain", "two", "none", "kts")
    found: dict[str, str | bytes] = {**gradle(case)}
    manifest = "app/src/main/AndroidManifest.xml"
    found[manifest] = str(found[manifest]).replace('"Lendspan"', '"@string/app_name" android:icon="@mipmap/ic_launcher"')
    found["app/src/main/res/values/strings.xml"] = right.resources(app_name="Lendspan", api="https://old.example").replace(
        "</resources>", '    <color name="brand">#000001</color>\n</resources>'
    )
    found["app/src/main/res/mipmap-xxxhdpi/ic_launcher.png"] = picture(192)
    found |= {f"app/src/{b}/res/values/strings.xml": right.resources(app_name=cap(b)) for b in BRANDS}
    targets: dict[str, dict[str, str]] = {}
    archived: list[tuple[str, str]] = []
    for brand, stage in case.variants:
        id_, name = case.told((brand, stage))
        found[f"ios/Services/{brand}-{stage}/GoogleService-Info.plist"] = service(id_, "old")
        icon = SETS[sets](brand, stage)
        found[f"ios/Lend/Assets.xcassets/{icon}.appiconset/Contents.json"] = EMPTY
        target, named = built_as(style, brand, stage)
        for kind in ("Debug", "Release"):
            path = targets.setdefault(target, {})[named(kind)] = f"Config/{target}{named(kind)}.xcconfig".replace(" ", "")
            lines = {"PRODUCT_BUNDLE_IDENTIFIER": id_, "APP_NAME": name, "API": "old", "ASSETCATALOG_COMPILER_APPICON_NAME": icon, "BRAND": "#000001"}
            found[f"ios/{path}"] = "".join(f"{key} = {text}\n" for key, text in lines.items())
        archived.append((target, named("Release")))
    keys = {"CFBundleIdentifier": "PRODUCT_BUNDLE_IDENTIFIER", "CFBundleDisplayName": "APP_NAME", "LendAPI": "API", "LendColor": "BRAND"}
    found["ios/Lend/Info.plist"] = BAND % "".join(f"\t<key>{key}</key>\n\t<string>$({name})</string>\n" for key, name in keys.items()).encode()
    every = {"INFOPLIST_FILE": "Lend/Info.plist", "MARKETING_VERSION": "1.2", "CURRENT_PROJECT_VERSION": "7"}
    order = sorted(targets, key=len)
    text = pbxproj(
        list(dict.fromkeys(name for own in targets.values() for name in own)), {"SDKROOT": "iphoneos"}, {name: ("app", {"*": every}) for name in order}
    )
    for number, target in enumerate(order, 1):
        text = standing_on(text, targets[target], number)
    found["ios/Lend.xcodeproj/project.pbxproj"] = text
    for number, (target, name) in enumerate(archived):
        found[f"ios/Lend.xcodeproj/xcshareddata/xcschemes/{number}.xcscheme"] = scheme(order.index(target), target, name)
    found |= {f"ios/Brands/{name}/Colors.xcassets/Tint.colorset/Contents.json": TINT for name in BRANDS}
    found |= {f"web/{name}.env": "SITE=https://old.example\n" for name in (*BRANDS, "staging", "production", "mossgateStaging")}
    found |= {"onomaxis.toml": FILE, "art/a.svg": ART, "services/alderbank.plist": service("org.lendspan.alderbank", "new")}
    found["services/moss-staging.plist"] = service("org.lendspan.mossgate.staging", "new")
    return case, found, {parts: f"ios/{targets[target][name]}" for parts, (target, name) in zip(case.variants, archived, strict=True)}


def settings_of(tree: Tree, path: str) -> dict[str, str]:
    text = (tree.read(path) or b"").decode().replace("/$()/", "//")
    return dict(line.split(" = ", 1) for line in text.splitlines() if " = " in line)


def resource(tree: Tree, parts: Parts, name: str) -> str:
    """Return what a variant is built with, as the merger of resources takes it: its own source set, its flavors', main."""
    for source_set in (camel(*parts), *parts, "main"):
        for path in tree.below(f"app/src/{source_set}/res/values"):
            match = re.search(rf'name="{name}"[^>]*>([^<]*)<', (tree.read(path) or b"").decode())
            if match:
                return match[1]
    return ""


def ground(data: bytes) -> str:
    return "#{:02x}{:02x}{:02x}".format(*Image.open(io.BytesIO(data)).convert("RGB").getpixel((3, 3)))


EVERY = [(style, sets) for style in (*NAMED, *TARGETS) for sets in SETS]


@pytest.mark.pictures
@pytest.mark.parametrize(("style", "sets"), EVERY)
def test_every_variant_wears_what_is_its_own(tmp_path: Path, style: str, sets: str) -> None:
    case, contents, files_of = project(style, sets)
    tree = Tree.open(files(tmp_path, contents))
    planned = stamp(tree)
    after = applied(tree, planned.changes)
    if style in TARGETS and sets == "one":
        assert any("give it a set of its own" in note.text for note in planned.notes)
    for parts, path in files_of.items():
        want, own = wanted(*parts), settings_of(after, path)
        assert (own["API"], own["BRAND"]) == (want["api"], want["brand"]), parts
        assert (resource(after, parts, "api"), resource(after, parts, "brand")) == (want["api"], want["brand"]), parts
        assert own["APP_NAME"] == case.told(parts)[1] and own["PRODUCT_BUNDLE_IDENTIFIER"] == case.told(parts)[0]
        folder = f"ios/Lend/Assets.xcassets/{own['ASSETCATALOG_COMPILER_APPICON_NAME']}.appiconset/"
        drawn = [ground(after.read(item) or b"") for item in after.below(folder[:-1]) if item.endswith(".png")]
        if style not in TARGETS or (style == TARGETS[1] and sets == "variant"):  # targets that share a set are named
            assert drawn == [want["icon"]] * bool(want["icon"]), parts
        assert resource(after, parts, "ic_launcher_background").lower() == want["icon"], parts
        plist = plistlib.loads(after.read(f"ios/Services/{'-'.join(parts)}/GoogleService-Info.plist") or b"")
        new = parts in (("alderbank", "production"), ("mossgate", "staging"))
        assert plist["GOOGLE_APP_ID"].endswith("new" if new else "old") and plist["BUNDLE_ID"] == case.told(parts)[0]
    for brand in BRANDS:  # files that brands alone have are asked of no environment
        tint = json.loads(after.read(f"ios/Brands/{brand}/Colors.xcassets/Tint.colorset/Contents.json") or b"")["colors"][0]["color"]["components"]
        assert [tint[name] for name in ("red", "green", "blue")] == (["0x02", "0x03", "0x04"] if brand == "mossgate" else ["0x01"] * 3)
    assert stamp(after).empty  # no flavor takes what another one wants
    for shown in all_shown(after, read_projects(after)) if style not in TARGETS else ():  # so does every picture that a launcher would show
        corner = shown.square(64)
        key = tuple(name for side in (BRANDS, ("staging", "production")) for name in side if name in f"{shown.flavor} production".casefold())[:2]
        seen = "" if corner is None else ground(encoded(corner))
        assert seen == wanted(*key)["icon"] or not wanted(*key)["icon"], shown[:3]
    assert not [
        item.message for item in look_over(after, ["values", "ids", "services"])[0] if item.rule.severity == "error" and "has no service" not in item.message
    ]
    before = {path: tree.read(path) for path in tree.files}
    alone = applied(tree, stamp(tree, "mossgateStaging").changes)
    touched = [path for path in alone.files if alone.read(path) != before.get(path) and not path.endswith("Contents.json")]
    assert touched and all({"mossgate", "staging"} <= set(re.findall("mossgate|staging", path.casefold())) or path.endswith("pbxproj") for path in touched), (
        touched
    )


TOGETHER = [(style, sets) for sets in SETS for style in ("type-camel", "Stage-brand")]


@pytest.mark.pictures
@pytest.mark.parametrize(("style", "sets"), TOGETHER)
def test_icons_of_several_flavors_are_those_of_what_they_make_together(tmp_path: Path, style: str, sets: str) -> None:
    """Two flavors of one dimension are two; with one of another they are their variants, drawn there and nowhere else."""
    _, contents, files_of = project(style, sets)
    root = files(tmp_path, {path: text for path, text in contents.items() if path != "onomaxis.toml"})
    asked = ("--flavor", "alderbank", "--flavor", "staging", "--flavor", "mossgate")
    done = onomaxis("icons", root, *asked, "--foreground", root / "art/a.svg", "--background", "#334455", "--json", "--allow-dirty")
    assert done.code == 0, done.err
    assert {image["flavor"].casefold().replace("-", "") for image in done.json["images"]} in (
        {"alderbankstaging", "mossgatestaging"},
        {"stagingalderbank", "stagingmossgate", "alderbankstaging", "mossgatestaging"},
    )
    whole = onomaxis("icons", root, "--every-flavor", "--foreground", root / "art/a.svg", "--background", "#334455", "--json", "--allow-dirty", "--dry-run")
    assert whole.code == 0, whole.err
    assert {image["flavor"] for image in whole.json["images"] if image["platform"] == "android"} == {*BRANDS}  # environments are none
    tree = Tree.open(root)
    for parts, path in files_of.items():
        mine = parts[1] == "staging" and parts[0] != "pennywick"
        folder = f"ios/Lend/Assets.xcassets/{settings_of(tree, path)['ASSETCATALOG_COMPILER_APPICON_NAME']}.appiconset"
        assert [ground(tree.read(item) or b"") for item in tree.below(folder) if item.endswith(".png")] == ["#334455"] * mine, parts
        assert (resource(tree, parts, "ic_launcher_background") == "#334455") == mine, parts


OWN = [
    ('name = "Alder Beta"', {"android": ("org.lendspan.alderbank.staging", "Alder Beta"), "ios": ("org.lendspan.alderbank.staging", "Alder Beta")}),
    ('ios = { id-suffix = ".x" }', {"android": ("org.lendspan.alderbank.staging", "Alderbank"), "ios": ("org.lendspan.alderbank.staging.x", "Alderbank Staging")}),
    ('ios = { id = "org.beta" }', {"android": ("org.lendspan.alderbank.staging", "Alderbank"), "ios": ("org.beta", "Alderbank Staging")}),
    ('id = "org.beta"', {}),
    ('id-suffix = ".x"', {}),
]  # fmt: skip


@pytest.mark.parametrize("style", ["type-camel", "Stage-brand", "stage_brand_type"])
@pytest.mark.parametrize(("said", "becomes"), OWN)
def test_what_a_combination_alone_is_called(style: str, said: str, becomes: dict[str, tuple[str, str]]) -> None:
    """Its own table has the last word; what Gradle cannot say of a combination is refused, with the reason."""
    _, contents, _ = project(style, "one")
    tables = '[flavors.alderbank]\nid = "org.lendspan.alderbank"\n[flavors.mossgate]\n[flavors.pennywick]\n[flavors.staging]\nid-suffix = ".staging"\n[flavors.production]\n'
    tree = memory({**contents, "onomaxis.toml": f"format = 1\n{tables}[flavors.alderbankStaging]\n{said}\n"})
    if not becomes:
        with pytest.raises(RefusedError, match="made of alderbank and staging, and a build script has no block"):
            stamp(tree)
        return
    told = [
        {
            (app.platform, *sorted(part.casefold() for part in flavors_of([item]).parts(app.variant))): (app.id.text, app.name.text)
            for item in read_projects(at)
            for app in item.apps
            if app.id and app.name
        }
        for at in (tree, applied(tree, stamp(tree).changes))
    ]
    assert told[1] == told[0] | {(platform, "alderbank", "staging"): named for platform, named in becomes.items()}


@pytest.mark.parametrize("style", list(NAMED))
def test_what_is_adopted_is_said_once_and_changes_nothing(style: str) -> None:
    """Brands, environments and their values each in one place; every file as it was after stamping what was adopted."""
    _, contents, _ = project(style, "brand")
    contents = {path: text for path, text in contents.items() if path != "onomaxis.toml" and not path.startswith("web/")}
    for path, text in contents.items():  # what each configuration says of its server, its brand and its group
        if path.startswith("ios/Config/"):
            stage = "staging." if "staging" in path.casefold() else ""
            brand = next(name for name in BRANDS if name in path.casefold())
            made = str(text).replace("API = old", f"API = https:/$()/{stage}old.example").replace("#000001", f"#00000{BRANDS.index(brand)}")
            group = re.search("PRODUCT_BUNDLE_IDENTIFIER = (.*)", made)
            assert group is not None
            contents[path] = f"{made}CODE_SIGN_ENTITLEMENTS = Lend/Lend.entitlements\nGROUP = group.{group[1]}\n"
    contents["ios/Lend/Lend.entitlements"] = BAND % b"<key>com.apple.security.application-groups</key><array><string>$(GROUP)</string></array>"
    contents["ios/Lend/Info.plist"] = bytes(contents["ios/Lend/Info.plist"]).replace(b"LendColor", b"BrandColor")  # type: ignore[arg-type]
    contents |= {f"app/src/{name}/google-services.json": right.service_json(f"org.lendspan.{name}") for name in BRANDS[:2]}
    contents["app/src/staging/res/values/strings.xml"] = right.resources(api="https://staging.old.example")
    tree = memory(contents)
    found = subjects(read_projects(tree))
    text = adopted(found, {})
    text += tables(offers(tree, found, text)) + service_tables(tree, found)
    said = tomllib.loads(text)
    own = said["flavors"]
    assert {name: own[name].get("name") for name in BRANDS} == {name: cap(name) for name in BRANDS}
    assert own["staging"]["values"] == {"api": "https://staging.old.example"} and said["app"]["values"]["api"] == "https://old.example"
    assert {tuple(place) for place in map(dict.items, said["values"]["api"]["places"])} == {(("resource", "string/api"),), (("plist", "LendAPI"),)}
    colour = next(name for name in said["values"] if "color" in name)
    assert [own[name]["values"][colour] for name in BRANDS] == ["#000000", "#000001", "#000002"]
    assert own["alderbank"]["services"] == {"google-android": "app/src/alderbank/google-services.json"}
    assert own["mossgateStaging"] == {"services": {"google-ios": "ios/Services/mossgate-staging/GoogleService-Info.plist"}}
    assert said["values"]["app-group"]["template"] == "group.{id}"
    with_file = memory({**contents, "onomaxis.toml": text})
    assert stamp(with_file).empty
    errors = [item.message for item in look_over(with_file, ["values", "ids", "names", "flavors"])[0] if item.rule.severity == "error"]
    assert errors == []


def test_every_way_to_say_a_variant(tmp_path: Path) -> None:
    """A variant's name in any form and order, and its flavors side by side, are the same thing; an unknown one is refused."""
    _, contents, _ = project("Stage-brand", "one")
    told = str(contents["onomaxis.toml"]).replace("icon = ", "# icon = ").replace("services = ", "# services = ")
    root = files(tmp_path / "x", {**contents, "onomaxis.toml": told})
    ways = [("mossgateStaging",), ("stagingMossgate",), ("Staging-mossgate",), ("mossgate", "staging"), ("STAGING", "mossgate")]
    seen: dict[str, set[str]] = {}
    for way in ways:
        asked = [word for name in way for word in ("--flavor", name)]
        stamped = onomaxis("stamp", root, *asked, "--dry-run", "--json", "--allow-dirty")
        assert stamped.code == 0, stamped.err
        shown = onomaxis("flavor", "show", "".join(name[:1].upper() + name[1:] for name in way), root, "--json")
        numbered = onomaxis("renumber", root, *asked, "--build", "9", "--platform", "ios", "--dry-run", "--json", "--allow-dirty")
        survey = onomaxis("survey", root, *asked, "--json")
        assert shown.code == numbered.code == survey.code == 0, (shown.err, numbered.err, survey.err)
        seen.setdefault("stamp", set()).add(json.dumps(stamped.json["files"]))
        seen.setdefault("show", set()).add(json.dumps(shown.json["values"]))
        seen.setdefault("renumber", set()).add(json.dumps(numbered.json["files"]))
        seen.setdefault("survey", set()).add(json.dumps(survey.json["apps"]))
    assert {name: len(found) for name, found in seen.items()} == dict.fromkeys(seen, 1)
    assert {app["key"] for app in onomaxis("survey", root, "--flavor", "Staging-mossgate", "--json").json["apps"]} == {"mossgate+staging"}
    told = onomaxis("stamp", root, "--flavor", "pennywickStaging", "--dry-run", "--allow-dirty")
    assert "“api” is that of staging, which others share" in told.err + told.out and "“site”" not in told.err
    for command in (("stamp",), ("flavor", "show", "nobodyStaging"), ("renumber", "--build", "9"), ("survey",), ("icons", "--art", root / "art/a.svg")):
        more = () if "show" in command else ("--flavor", "nobodyStaging")
        lead = command[:3] if "show" in command else command[:1]
        assert onomaxis(*lead, root, *command[len(lead) :], *more).code == 2, command
    assert onomaxis("stamp", root, "--flavor", "mossgate", "--flavor", "alderbank").code == 2


@pytest.mark.parametrize("style", list(NAMED))
def test_a_brand_goes_with_what_its_variants_share(style: str) -> None:
    """The icon set that they name together, configuration files, schemes; of the others nothing."""
    _, contents, _ = project(style, "brand")
    tree = memory({path: text for path, text in contents.items() if path != "onomaxis.toml" and not path.startswith(("web/", "services/"))})
    after = applied(tree, plan_retirement(tree, "mossgate").changes)
    assert not [
        path for path in after.files if "mossgate" in path.casefold() and "/Services/" not in path and "/Brands/" not in path
    ]  # whose place no build tells
    others = [path for path in tree.files if not re.search("mossgate|pbxproj|build.gradle", path.casefold())]
    assert all(after.read(path) == tree.read(path) for path in others if "xcscheme" not in path)


def test_brands_that_are_targets_come_and_go_in_xcode() -> None:
    """Nothing is half made or half taken out: the refusal names the targets."""
    tree = memory(project(TARGETS[0], "brand")[1])
    with pytest.raises(RefusedError, match="iOS builds what varies as targets: Mossgate"):
        plan_flavor(tree, FlavorWish("oakhollow", id="org.lendspan.oakhollow"))
    with pytest.raises(RefusedError, match="iOS builds mossgate as target Mossgate"):
        plan_retirement(tree, "mossgate")


@pytest.mark.pictures
@pytest.mark.parametrize(("style", "sets"), [("type-camel", "brand"), ("type-camel", "variant"), ("Stage-brand", "variant"), (TARGETS[1], "variant")])
def test_art_is_adopted_where_today_s_icons_are_drawn_from_it(tmp_path: Path, style: str, sets: str) -> None:
    """What was drawn from a file in the project is named by it again; a picture changed by hand is not, and is said."""
    _, contents, _ = project(style, sets)
    drawn = str(contents["onomaxis.toml"]).replace("art/a.svg", "art/alderbank.svg", 1).replace("art/a.svg", "art/mossgate-staging.svg")
    other = ART.replace("M40,40", "M44,44")
    tree = Tree.open(files(tmp_path, {**contents, "onomaxis.toml": drawn, "art/alderbank.svg": ART, "art/mossgate-staging.svg": other}))
    for change in stamp(tree).changes:
        (tmp_path / (change.target or "")).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / (change.target or "")).write_bytes(change.after or b"")
    (tmp_path / "onomaxis.toml").unlink()

    def adopt() -> tuple[dict[str, object], str]:
        plan = onomaxis("adopt", tmp_path, "--values", "--yes", "--allow-dirty")
        assert plan.code == 0, plan.err
        said = tomllib.loads((tmp_path / "onomaxis.toml").read_text())
        assert onomaxis("stamp", tmp_path, "--dry-run", "--json", "--allow-dirty").json["files"] == []
        (tmp_path / "onomaxis.toml").unlink()
        own = {".".join((name, part)): told for name, table in said["flavors"].items() for part, told in table.items()}
        return {name: told.get("icon", told) for name, told in own.items() if name.endswith(".icon") or "icon" in told}, " ".join(plan.err.split())

    alder = {"foreground": "art/alderbank.svg", "background": "#102030"}
    moss = {"foreground": "art/mossgate-staging.svg", "background": "#405060"}
    assert adopt()[0] == {"alderbank.icon": alder, "mossgateStaging.icon": moss}
    old = next((tmp_path / "app/src/alderbank/res").rglob("ic_launcher.png"))
    Image.open(old).convert("RGBA").rotate(2).save(old)  # somebody drew it anew
    told, out = adopt()
    assert told == {"alderbank.ios": alder, "mossgateStaging.icon": moss}
    assert "art/alderbank.svg it looks like the icon of alderbank, but drawing from it would change 1 of its files" in out


def staged(stages: tuple[str, ...]) -> dict[str, str | bytes]:
    """An app of three environments on Android; on iOS one target, with a configuration each beside the plain ones."""
    found: dict[str, str | bytes] = dict(gradle(Case("type-flavors", "plain", "two", "none", "kts")))
    blocks = "\n".join(f'create("{n}") {{ dimension = "env"; applicationIdSuffix = "{"" if n == "live" else "." + n}" }}' for n in (*stages, "live"))
    found["app/build.gradle.kts"] = (
        'plugins { id("com.android.application") }\nandroid {\n  namespace = "org.lendspan.app"\n  defaultConfig { applicationId = "org.lendspan.app"; '
        f'versionCode = 7; versionName = "1.2" }}\n  flavorDimensions += "env"\n  productFlavors {{\n{blocks}\n}} }}\n'
    )
    found = {path: text for path, text in found.items() if "/src/" not in path or "main" in path}
    found["app/src/main/res/values/strings.xml"] = right.resources(app_name="Lendspan", api="https://old.example")
    own = {"Debug": "", "Release": "", stages[0].title(): f".{stages[0]}"}
    every = {"INFOPLIST_FILE": "Lend/Info.plist", "MARKETING_VERSION": "1.2", "CURRENT_PROJECT_VERSION": "7"}
    text = pbxproj(list(own), {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": every})})
    found["ios/Lend.xcodeproj/project.pbxproj"] = standing_on(text, {name: f"Config/{name}.xcconfig" for name in own}, 1)
    for name, end in own.items():
        found[f"ios/Config/{name}.xcconfig"] = f"PRODUCT_BUNDLE_IDENTIFIER = org.lendspan.app{end}\nAPP_NAME = Lendspan\nAPI = https:/$()/old.example\n"
    keys = {"CFBundleIdentifier": "PRODUCT_BUNDLE_IDENTIFIER", "CFBundleDisplayName": "APP_NAME", "LendAPI": "API"}
    found["ios/Lend/Info.plist"] = BAND % "".join(f"<key>{key}</key><string>$({name})</string>" for key, name in keys.items()).encode()
    return found


@pytest.mark.parametrize("stages", [("staging",), ("staging", "dev")])
def test_plain_configurations_are_what_is_left_of_the_environments(tmp_path: Path, stages: tuple[str, ...]) -> None:
    """The one that is published, of several: its values, its key, its row in the ledger; nothing is made or taken out for it."""
    contents = staged(stages)
    adopted_root = files(tmp_path / "a", contents)
    assert onomaxis("adopt", adopted_root, "--values", "--yes", "--allow-dirty").code == 0
    said = tomllib.loads((adopted_root / "onomaxis.toml").read_text())
    assert said["app"]["id"] == "org.lendspan.app" and said["app"]["values"] == {"api": "https://old.example"} and said["flavors"]["live"] == {}
    assert onomaxis("stamp", adopted_root, "--dry-run", "--json", "--allow-dirty").json["files"] == []
    told = '[flavors.staging]\nid-suffix = ".staging"\nvalues = { api = "https://beta.example" }\n[flavors.live]\nvalues = { api = "https://live.example" }\n'
    value = '[values.api]\nvalue = "https://app.example"\nplaces = [{ resource = "string/api" }, { plist = "LendAPI" }]\n'
    head = 'format = 1\n[app]\nid = "org.lendspan.app"\nname = "Lendspan"\n'
    ledger = "date,platform,flavor,id,version,build,fingerprint\n2026-11-02,ios,,org.lendspan.app,1.2,9,\n"  # from before anybody told what it is
    root = files(tmp_path / "b", {**contents, "onomaxis.toml": head + told + value, "onomaxis.ledger.csv": ledger})
    found = {(item["code"], item["flavor"]) for item in onomaxis("check", root, "--publish", "--json").json["findings"]}
    assert {("VALUE01", "live"), ("VALUE01", "staging"), ("VERSION06", "live")} <= found, found
    done = onomaxis("stamp", root, "--yes", "--allow-dirty", "--json")
    assert done.code == 0 and "live api (iOS): https://old.example → https://live.example" in done.json["summary"], done.json["summary"]
    now = Tree.open(root)
    servers = {name: settings_of(now, f"ios/Config/{name}.xcconfig")["API"] for name in ("Debug", "Release", "Staging")}
    assert servers == {"Debug": "https://live.example", "Release": "https://live.example", "Staging": "https://beta.example"}
    assert {resource(now, (name,), "api") for name in ("live",)} == {"https://live.example"}
    rows = onomaxis("survey", root, "--json", "--flavor", "live").json["apps"]
    assert [(row["platform"], row["key"], row["configuration"].casefold()) for row in rows] == [("android", "live", "release"), ("ios", "live", "release")]
    gone = onomaxis("flavor", "retire", "live", root, "--dry-run", "--allow-dirty")
    assert gone.code == 3 and "builds live as the plain configurations of Lend" in gone.err
    left = onomaxis("flavor", "retire", "staging", root, "--dry-run", "--json", "--allow-dirty")
    assert left.code == 0 and "ios/Config/Staging.xcconfig" in left.json["removed"], left.err
