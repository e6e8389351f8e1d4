"""Flavors of two dimensions, of which one is Android's alone: environments beside brands, in either order."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from compositions import plist
from conftest import files, onomaxis, snapshot
from icon_arts import logo, saved
from onomaxis.brands.subjects import Subject
from onomaxis.identity.schema import NAME
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from xcode import pbxproj

LOGO = saved(logo(size=64), "PNG")
BRANDS = ("alderbank", "mossgate")
MANIFEST = (
    '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="@string/app_name">\n'
    '    <meta-data android:name="com.google.android.geo.API_KEY" android:value="${mapsKey}"/>\n</application></manifest>\n'
)
KEYS = {name: f"AIzaSy{name.ljust(33, '0')[:33]}" for name in BRANDS}


def service(*ids: str) -> str:
    clients = [{"client_info": {"mobilesdk_app_id": f"1:1:android:{at}", "android_client_info": {"package_name": id_}}} for at, id_ in enumerate(ids)]
    return json.dumps({"project_info": {"project_number": "1"}, "client": clients}, indent=2)


def brand(name: str) -> str:
    return (
        f'        {name} {{\n            dimension "brand"\n            applicationId "org.lendspan.{name}"\n            resValue "string", "app_name", "{name.title()}"\n'
        f'            manifestPlaceholders = [mapsKey: "{KEYS[name]}", loginScheme: "{name}"]\n            buildConfigField "String", "API_URL", "\\"https://{name}.lendspan.org\\""\n        }}\n'
    )


def project(order: tuple[str, str], apple: bool = True) -> dict[str, str]:
    """An app with environments and brands; on iOS every configuration belongs to a brand."""
    environments = '        dev {\n            dimension "env"\n            applicationIdSuffix ".dev"\n        }\n        prod {\n            dimension "env"\n        }\n'
    declared = ", ".join(f'"{name}"' for name in order)
    script = (
        'plugins { id "com.android.application" }\nandroid {\n    namespace "org.lendspan"\n    defaultConfig {\n        applicationId "org.lendspan"\n        versionCode 3\n'
        f'        versionName "1.0"\n    }}\n    flavorDimensions {declared}\n    productFlavors {{\n{environments}{"".join(map(brand, BRANDS))}    }}\n}}\n'
    )
    found = {"android/settings.gradle": "include ':app'\n", "android/app/build.gradle": script, "android/app/src/main/AndroidManifest.xml": MANIFEST}
    for name in BRANDS:
        found[f"android/app/src/{name}/google-services.json"] = service(f"org.lendspan.{name}", f"org.lendspan.{name}.dev")
    if apple:
        names = [f"{kind}-{name}" for name in BRANDS for kind in ("Debug", "Release", "Profile")]
        own = {
            name: {
                "PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2]}",
                "API_URL": f"https://{name.partition('-')[2]}.lendspan.org",
                "BRAND": name.partition("-")[2].title(),
            }
            for name in names
        }
        found["ios/Lend.xcodeproj/project.pbxproj"] = pbxproj(
            names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Info.plist"}, **own})}
        )
        found["ios/Info.plist"] = plist({"CFBundleDisplayName": "$(BRAND)", "ApiUrl": "$(API_URL)"})
    return found


ORDERS = pytest.mark.parametrize("order", [("env", "brand"), ("brand", "env")], ids="-".join)


def codes(root: Path) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for item in onomaxis("check", root, "--json").json["findings"]:
        found.setdefault(item["code"], []).append(item["message"])
    return found


# What is asked of environments that one platform alone has; the places that change, or what is said.
ONE_SIDED = [
    (["rename", "--flavor", "dev", "--build", "9"], "iOS does not", 3),
    (["rename", "--flavor", "dev", "--build", "9", "--platform", "android"], "build.gradle", 0),
    (["rename", "--flavor", "devAlderbank", "--name", "D"], "is not a flavor, but what dev and alderbank make", 2),
    (["renumber", "--flavor", "dev", "--build", "9"], "--platform android", 3),
    (["renumber", "--flavor", "dev", "--build", "9", "--platform", "android"], "build.gradle", 0),
    (["icons", "--flavor", "dev", "--background", "#123456"], "iOS does not", 3),
    (["proof", "--flavor", "dev", "--out", "x.png"], "iOS does not", 3),
    (["rename", "--platform", "android", "--ios-id", "org.x"], "leaves iOS out", 2),
]


@pytest.mark.parametrize(("words", "said", "code"), ONE_SIDED)
def test_what_one_platform_lacks_is_done_on_none(tmp_path: Path, words: list[str], said: str, code: int) -> None:
    """A flavor that one platform builds and the other does not is refused, unless that platform alone is meant."""
    root = files(tmp_path / "p", project(("env", "brand")))
    before = snapshot(root)
    done = onomaxis(*words[:1], root, *words[1:], cwd=tmp_path)
    assert done.code == code and said in done.err + done.out, done
    changed = {path for path, data in snapshot(root).items() if before.get(path) != data and not path.startswith(".")}
    assert changed == ({"android/app/build.gradle"} if not code else set()) and not (tmp_path / "x.png").exists()


@ORDERS
def test_rows_of_all_platforms_are_joined_by_what_they_are_made_of(tmp_path: Path, order: tuple[str, str]) -> None:
    root = files(tmp_path, project(order))
    rows = onomaxis("survey", root, "--json").json["apps"]
    joined: dict[str, set[tuple[str, str]]] = {}
    for row in rows:
        joined.setdefault(row["flavors"]["brand"], set()).add((row["platform"], row["flavors"].get("env", "")))
    assert joined == {name: {("android", "dev"), ("android", "prod"), ("ios", "")} for name in BRANDS}
    for asked in ("devMossgate", "mossgateDev"):
        (row,) = onomaxis("survey", root, "--flavor", asked, "--json").json["apps"]
        assert row["flavors"] == {"env": "dev", "brand": "mossgate"}


@pytest.mark.parametrize(
    ("words", "number"),
    [
        (["--flavor", "mossgate", "--build", "next"], "21"), (["--flavor", "mossgate", "--build", "+1"], "21"), (["--flavor", "alderbank", "--build", "next"], "31"),
        (["--flavor", "alderbank", "--build", "+2"], "32"), (["--flavor", "dev", "--build", "next"], "31"), (["--build", "next"], "31"),
    ],
)  # fmt: skip
def test_a_flavor_counts_from_its_own_numbers(tmp_path: Path, words: list[str], number: str) -> None:
    contents = project(("brand", "env"), apple=False)
    script = contents["android/app/build.gradle"]
    for name, own in (("alderbank", 30), ("mossgate", 20)):
        script = script.replace(f'applicationId "org.lendspan.{name}"\n', f'applicationId "org.lendspan.{name}"\n            versionCode {own}\n')
    root = files(tmp_path, contents | {"android/app/build.gradle": script})
    done = onomaxis("renumber", root, *words, "--json")
    assert done.code == 0 and f"versionCode {number}" in (root / "android/app/build.gradle").read_text(), done.err
    assert onomaxis("renumber", root, "--flavor", "nobody", *words[-2:]).err.startswith("onomaxis: there is no flavor “nobody” here")


# What is published of brands and environments; the rows, or what is said.
PUBLISHED = [
    (["--flavor", "alderbank"], {("android", "devAlderbank"), ("android", "prodAlderbank"), ("ios", "alderbank")}, ""),
    (["--flavor", "alderbank", "--platform", "ios"], {("ios", "alderbank")}, ""), (["--flavor", "dev"], set(), "iOS does not"),
    (["--flavor", "dev", "--platform", "android"], {("android", "devAlderbank"), ("android", "devMossgate")}, ""),
    (["--flavor", "prodMossgate"], set(), "iOS does not"), (["--flavor", "prodMossgate", "--platform", "android"], {("android", "prodMossgate")}, ""),
    (["--flavor", "nobody"], set(), "there is no shipped app “nobody”"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "wanted", "said"), PUBLISHED)
def test_the_ledger_keeps_every_variant_of_a_flavor(tmp_path: Path, words: list[str], wanted: set[tuple[str, str]], said: str) -> None:
    """A brand's row is kept for every variant and platform that ships it, or for none."""
    contents = project(("env", "brand"))
    path = "ios/Lend.xcodeproj/project.pbxproj"
    contents[path] = contents[path].replace("PRODUCT_NAME = Lend;", "PRODUCT_NAME = Lend; MARKETING_VERSION = 1.0; CURRENT_PROJECT_VERSION = 3;")
    contents["ios/Info.plist"] = plist(
        {"CFBundleDisplayName": "$(BRAND)", "CFBundleShortVersionString": "$(MARKETING_VERSION)", "CFBundleVersion": "$(CURRENT_PROJECT_VERSION)"}
    )
    root = files(tmp_path / "p", contents)
    done = onomaxis("ledger", "add", root, *words)
    assert (done.code == 0) == (not said) and said in done.err, done
    rows = onomaxis("ledger", "list", root, "--json").json["published"]
    assert {(row["platform"], row["flavor"]) for row in rows} == wanted and len(rows) == len(wanted)
    if not said:
        assert onomaxis("ledger", "list", root, *words[:2], "--json").json["published"] == rows


def targets() -> dict[str, str | bytes]:
    """Android flavors, and on iOS a target for each."""
    flavors = "".join(f"        {name} {{ dimension 'env'{more} }}\n" for name, more in (("dev", "; applicationIdSuffix '.dev'"), ("prod", "")))
    found: dict[str, str | bytes] = {
        "settings.gradle": "include ':app'\n",
        "app/build.gradle": "apply plugin: 'com.android.application'\nandroid {\n    namespace 'org.oak'\n    defaultConfig { applicationId 'org.oak' }\n"
        f"    flavorDimensions 'env'\n    productFlavors {{\n{flavors}    }}\n}}\n",
        "app/src/main/AndroidManifest.xml": MANIFEST.replace(" android:label", ' android:icon="@mipmap/ic_launcher" android:label'),
    }
    for name, label in (("main", "Oak"), ("dev", "Oak Dev")):
        found[f"app/src/{name}/res/values/strings.xml"] = f'<resources><string name="app_name">{label}</string></resources>\n'
        found[f"app/src/{name}/res/mipmap-mdpi/ic_launcher.png"] = LOGO
    own = {
        target: {
            "PRODUCT_BUNDLE_IDENTIFIER": id_, "PRODUCT_NAME": target, "GENERATE_INFOPLIST_FILE": "YES", "INFOPLIST_KEY_CFBundleDisplayName": target,
            "ASSETCATALOG_COMPILER_APPICON_NAME": icon,
        }
        for target, id_, icon in (("Oak", "org.oak", "AppIcon"), ("Oak Dev", "org.oak.dev", "Dev"), ("Oak Beta", "org.oak.beta", "AppIcon"))
    }  # fmt: skip
    found["Oak.xcodeproj/project.pbxproj"] = pbxproj(
        ["Release"], {"SDKROOT": "iphoneos"}, {n: ("app", {"*": s}) for n, s in own.items()}, dict.fromkeys(own, "Oak")
    )
    for name in ("AppIcon", "Dev"):
        found[f"Oak/A.xcassets/{name}.appiconset/i.png"] = LOGO
        found[f"Oak/A.xcassets/{name}.appiconset/Contents.json"] = json.dumps(
            {"images": [{"filename": "i.png", "idiom": "universal", "platform": "ios", "size": "1024x1024"}]}
        )
    return found


# What is asked of that project; what changes (of each file the beginning), or what is said.
TARGETS = [
    (["icons", "--art", "art.png"], {"app/src/main/res/", "Oak/A.xcassets/AppIcon.appiconset/"}, "target Oak Dev has an icon of its own"),
    (["icons", "--art", "art.png", "--app", "Oak Dev"], {"Oak/A.xcassets/Dev.appiconset/"}, ""),
    (["rename", "--app", "Oak Dev", "--name", "D"], set(), "is flavor dev of app on Android"),
    (["rename", "--app", "org.oak.dev", "--id", "org.elm"], set(), "--platform ios"),
    (["rename", "--app", "Oak Dev", "--name", "D", "--platform", "ios"], {"Oak.xcodeproj/"}, ""),
    (["rename", "--app", "app", "--flavor", "dev", "--name", "D", "--platform", "android"], {"app/src/dev/res/values/"}, ""),
    (["rename", "--app", "org.oak", "--id", "org.elm"], {"app/build.gradle", "Oak.xcodeproj/"}, ""),
]  # fmt: skip


@pytest.mark.parametrize(("words", "wanted", "said"), TARGETS)
def test_a_target_for_each_environment(tmp_path: Path, words: list[str], wanted: set[str], said: str) -> None:
    """Environments that are targets keep what is theirs; a name that means one flavor is never taken for the whole app."""
    root = files(tmp_path / "p", {**targets(), "art.png": saved(logo(size=200), "PNG")})
    before = snapshot(root)
    done = onomaxis(*words[:1], root, *words[1:], cwd=root)
    assert done.code == (0 if wanted else 3) and said in done.err + done.out, done
    changed = {path for path, data in snapshot(root).items() if before.get(path) != data and not path.startswith(".")}
    assert {next((head for head in wanted if path.startswith(head)), path) for path in changed} == wanted


@ORDERS
def test_what_one_dimension_alone_leaves_open(tmp_path: Path, order: tuple[str, str]) -> None:
    """Service files, keys and flavors that the other dimension has are found; what is adopted is checked in silence."""
    root = files(tmp_path, project(order))
    assert not {code for code in codes(root) if code.startswith(("SERVICE", "FLAVOR", "PLATFORM", "ID"))}
    assert onomaxis("adopt", root).code == 0
    assert not {code for code in codes(root) if code.startswith(("SERVICE", "FLAVOR", "PLATFORM", "ID"))}


def test_a_key_that_nobody_fills(tmp_path: Path) -> None:
    """Where one brand does not fill what the manifest asks for, and no dimension but its own could, it is named."""
    contents = project(("env", "brand"))
    contents["android/app/build.gradle"] = contents["android/app/build.gradle"].replace("mapsKey: ", "otherKey: ")
    assert any("mapsKey" in said for said in codes(files(tmp_path, contents))["SERVICE06"])


def test_a_flavor_that_a_platform_lacks(tmp_path: Path) -> None:
    """A brand is missed on the platform that has brands; an environment is not, where there are no environments."""
    root = files(tmp_path, project(("env", "brand")))
    assert onomaxis("adopt", root).code == 0
    text = (root / "ios/Lend.xcodeproj/project.pbxproj").read_text()
    (root / "ios/Lend.xcodeproj/project.pbxproj").write_text(text.replace("-mossgate", "-pennywick"))
    assert codes(root)["FLAVOR01"] == ["iOS has no flavor mossgate"]


@ORDERS
def test_flavors_that_share_an_id(tmp_path: Path, order: tuple[str, str]) -> None:
    """Combinations with one ID mark the flavors that make them, wherever these stand in the name."""
    contents = project(order, apple=False)
    contents["android/app/build.gradle"] = contents["android/app/build.gradle"].replace('"org.lendspan.mossgate"', '"org.lendspan.alderbank"')
    rows = onomaxis("flavor", "list", files(tmp_path, contents), "--json").json
    clashing = {row["flavor"] for row in rows["flavors"] if row["android"]["clash"]}
    assert clashing == {"dev", "prod", "alderbank", "mossgate"}


def test_what_flavors_share_is_said_once(tmp_path: Path) -> None:
    """One place that decides for several flavors is one finding: of the flavors together, or of what they have in common."""
    contents = project(("env", "brand"), apple=False)
    script = contents["android/app/build.gradle"].replace('"Mossgate"', '"Mossgate Neighbourhood Shed"')
    contents["android/app/build.gradle"] = script.removesuffix("}\n") + "    buildTypes {\n        release { signingConfig signingConfigs.debug }\n    }\n}\n"
    root = files(tmp_path, contents)
    found = codes(root)
    assert found["SIGN02"] == ["Android dev, prod, alderbank and 1 more (app): its release build is signed with signingConfigs.debug"]
    assert [said.partition(":")[0] for said in found["NAME08"]] == ["devMossgate, prodMossgate"]
    for flavor, seen in (("mossgate", True), ("alderbank", False)):
        shown = {item["code"] for item in onomaxis("check", root, "--flavor", flavor, "--json").json["findings"]}
        assert ("NAME08" in shown) is seen and "SIGN02" in shown


@pytest.mark.parametrize(
    ("plain", "said"), [("org.lendspan", []), ("org.lendspan.debug", []), ("org.other", ["Debug: ID is “org.other”, not “org.lendspan.debug”"])]
)
def test_the_app_itself_may_be_called_the_same_in_every_build(tmp_path: Path, plain: str, said: list[str]) -> None:
    """What flavors append in one build type is not a rule for the app itself, and what is adopted is stamped already."""
    names = ["Debug", "Release", *(f"{name} {kind}" for name in ("Alderbank", "Mossgate") for kind in ("Debug", "Release"))]
    own = {
        name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition(' ')[0].lower()}{'.debug' if 'Debug' in name else ''}"}
        for name in names
        if " " in name
    }
    own |= {"Debug": {"PRODUCT_BUNDLE_IDENTIFIER": plain}, "Release": {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan"}}
    contents = {
        "Lend.xcodeproj/project.pbxproj": pbxproj(names, {}, {"Lend": ("app", {"*": {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES"}, **own})})
    }
    root = files(tmp_path, contents)
    assert codes(root).get("FLAVOR08", []) == said
    assert onomaxis("adopt", root).code == 0
    assert bool(onomaxis("stamp", root, "--json").json["files"]) is bool(said)


def test_icons_are_compared_within_a_dimension(tmp_path: Path) -> None:
    """A brand without an icon is named where another brand has one, an environment is not; what has no icon at all is said."""
    contents = project(("env", "brand"))
    contents["android/app/src/main/AndroidManifest.xml"] = MANIFEST.replace("<application ", '<application android:icon="@mipmap/ic_launcher" ')
    root = files(tmp_path, contents)
    (root / "art.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="3" fill="#205080"/></svg>')
    done = onomaxis("icons", root, "--art", root / "art.svg", "--flavor", "alderbank")
    assert done.code == 0 and "the iOS app names no icon set" in " ".join(done.err.split()) + " ".join(done.out.split()), done.err
    assert codes(root)["FLAVOR07"] == ["Android mossgate has no icon of its own, alderbank has"]
    done = onomaxis("icons", root, "--art", root / "art.svg", "--flavor", "mossgate", "--platform", "android")
    assert done.code == 0 and "names no icon set" not in done.err
    found = codes(root)
    assert "FLAVOR07" not in found and "ICON14" not in found, "each brand has its own: the main icon is not needed"
    # What is drawn: a brand, an environment, what both make together, in either order.
    for asked, wanted in {
        "alderbank": {"devAlderbank", "prodAlderbank"},
        "dev": {"devAlderbank", "devMossgate"},
        "devAlderbank": {"devAlderbank"},
        "alderbankDev": {"devAlderbank"},
    }.items():
        drawn = onomaxis("proof", root, "--sheet", "home", "--out", root / "home.png", "--flavor", asked, "--platform", "android", "--json").json["files"]
        assert {flavor for file in drawn for flavor in file["flavors"]} == wanted, asked
    assert onomaxis("proof", root, "--flavor", "nobody", "--out", root / "home.png").code == 2
    (root / "android/app/src/alderbank/res").rename(root / "art")
    assert codes(root)["ICON14"] == ["@mipmap/ic_launcher is not in android/app/src/main/res"]


@ORDERS
def test_an_identity_file_that_speaks_of_brands_alone(tmp_path: Path, order: tuple[str, str]) -> None:
    """Environments that it does not list are not missed; a brand that it does not list is."""
    root = files(tmp_path, project(order))
    assert onomaxis("adopt", root).code == 0
    text = (root / NAME).read_text()
    text = "\n\n".join(part for part in text.split("\n\n") if not part.startswith(("[flavors.dev]", "[flavors.prod]")))
    (root / NAME).write_text(text)
    assert not {code for code in codes(root) if code.startswith("FLAVOR")}
    assert onomaxis("stamp", root, "--json").json["files"] == []
    (root / NAME).write_text("\n\n".join(part for part in text.split("\n\n") if not part.startswith("[flavors.mossgate]")))
    assert {said.partition(":")[0] for said in codes(root)["FLAVOR02"]} == {"Android mossgate", "iOS mossgate"}


@pytest.mark.parametrize("ids", [("org.lendspan.dev", "org.lendspan"), ("org.dev", "org.prod"), ("", "")])
def test_the_combination_that_is_published_stands_for_a_brand(tmp_path: Path, ids: tuple[str, str]) -> None:
    """Whether the other's ID goes on from its own, each has its own, or none has any."""
    names = [f"Release-{env}{name.title()}" for name in BRANDS for env in ("dev", "prod")]
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": id_} for name, id_ in zip(names, ids, strict=False) if id_}
    script = {"*": {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Info.plist"}, **own}
    apple = {"ios/Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", script)}), "ios/Info.plist": plist({})}
    root = files(tmp_path, {**project(("env", "brand"), apple=False), **apple})
    [ios] = [found for found in read_projects(Tree.open(root)) if found.platform == "ios"]
    subject = Subject(ios, "ios", ios.apps[0].module)
    assert subject.main_of("alderbank") == "prodAlderbank"
