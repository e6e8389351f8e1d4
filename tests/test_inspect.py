"""Packages held against their project: right ones are met with silence, every mix-up is named with its entry."""

from __future__ import annotations

import hashlib
import io
import json
import plistlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pytest

import packaged
import shop
from conftest import inline
from packaged import needs_aapt, needs_signer, picture

pytestmark = pytest.mark.processes


@pytest.fixture(scope="session")
def shop_project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return shop.write(tmp_path_factory.mktemp("shop"), shop.project())


@dataclass
class Build:
    """What goes into an APK of Alderbank; a mix-up changes it."""

    text: str = field(default_factory=lambda: shop.manifest("alderbank"))
    resources: dict[str, str | bytes] = field(default_factory=lambda: dict(shop.resources("alderbank")))
    entries: dict[str, bytes] = field(default_factory=lambda: dict(shop.ENTRIES))

    def swap(self, old: str, new: str) -> None:
        assert old in self.text
        self.text = self.text.replace(old, new)

    def string(self, name: str, text: str, file: str = "values/brand.xml") -> None:
        body = str(self.resources[file])
        begin = body.index(f'name="{name}">') + len(f'name="{name}">')
        self.resources[file] = body[:begin] + text + body[body.index("<", begin) :]


Android = Callable[[Build], None]
OTHER = "org.lendspan.mossgate"


def entry(name: str, data: bytes) -> Android:
    return lambda build: build.entries.__setitem__(name, data)


def swap(old: str, new: str) -> Android:
    return lambda build: build.swap(old, new)


def string(name: str, text: str, file: str = "values/brand.xml") -> Android:
    return lambda build: build.string(name, text, file)


def resource(name: str, data: str | bytes) -> Android:
    return lambda build: build.resources.__setitem__(name, data)


def without(*names: str) -> Android:
    return lambda build: [build.resources.pop(name) for name in names] and None  # type: ignore[func-returns-value]


M, R = "AndroidManifest.xml", "resources.arsc"
ANDROID_MIXES: dict[str, tuple[Android, str, str]] = {
    "another ID": (swap('package="org.lendspan.alderbank"', 'package="org.lendspan.alderbanks"'), "PACKAGE01", M),
    "another name": (string("app_name", "Alderbank Tool"), "PACKAGE02", R),
    "another brand's name": (string("app_name", "Mossgate Shed"), "PACKAGE14", R),
    "another German name": (string("app_name", "Schuppen", "values-de/brand.xml"), "PACKAGE02", R),
    "no German name": (without("values-de/brand.xml"), "PACKAGE02", R),
    "version": (swap('versionName="2.4.0"', 'versionName="2.4.1"'), "PACKAGE02", M),
    "build": (swap('versionCode="7"', 'versionCode="6"'), "PACKAGE02", M),
    "lowest level": (swap('minSdkVersion="24"', 'minSdkVersion="21"'), "PACKAGE03", M),
    "level": (swap('targetSdkVersion="35"', 'targetSdkVersion="33"'), "PACKAGE03", M),
    "login ID": (string("login_id", "990000000009"), "PACKAGE04", R),
    "login ID of another": (string("login_id", shop.LOGINS["mossgate"]), "PACKAGE14", R),
    "app of the service": (string("google_app_id", "1:9:android:9", "values/services.xml"), "PACKAGE05", R),
    "sender": (string("gcm_defaultSenderId", "900000000000", "values/services.xml"), "PACKAGE05", R),
    "project of another": (string("project_id", "shelf-mossgate", "values/services.xml"), "PACKAGE14", R),
    "key of another": (string("google_api_key", "AIza" + "2" * 35, "values/services.xml"), "PACKAGE14", R),
    "no services": (without("values/services.xml"), "PACKAGE05", M),
    "host gone": (swap('<data android:scheme="https" android:host="alderbank.lendspan.example"/>', ""), "PACKAGE06", M),
    "host of another": (swap("alderbank.lendspan.example", "mossgate.lendspan.example"), "PACKAGE14", M),
    "foreign host": (swap("</intent-filter>\n    </activity>", '<data android:host="else.example"/></intent-filter>\n    </activity>'), "PACKAGE06", M),
    "scheme": (swap("lend-alderbank", "lend-alder"), "PACKAGE06", M),
    "scheme of another": (swap("lend-alderbank", "lend-mossgate"), "PACKAGE14", M),
    "authority": (swap("org.lendspan.alderbank.files", "org.lendspan.alderbank.file"), "PACKAGE07", M),
    "authority of another": (swap("org.lendspan.alderbank.files", f"{OTHER}.files"), "PACKAGE14", M),
    "permission gone": (swap(shop.BEFORE, ""), "PACKAGE08", M),
    "can be debugged": (swap("<application ", '<application android:debuggable="true" '), "PACKAGE10", M),
    "for tests": (swap("<application ", '<application android:testOnly="true" '), "PACKAGE10", M),
    "small icon": (resource("mipmap-xxxhdpi/ic_launcher.png", picture(144)), "PACKAGE12", "res/mipmap-xxxhdpi-v4/ic_launcher.png"),
    "icon no square": (resource("mipmap-mdpi/ic_launcher.png", packaged.wide(48, 47)), "PACKAGE12", "res/mipmap-mdpi-v4/ic_launcher.png"),
    "density gone": (without("mipmap-xxhdpi/ic_launcher.png"), "PACKAGE12", M),
    "silhouette gone": (
        resource("mipmap-anydpi-v26/ic_launcher.xml", shop.ADAPTIVE.replace('<monochrome android:drawable="@mipmap/ic_front"/>', "")),
        "PACKAGE12",
        M,
    ),
    "picture of another": (resource("mipmap-xxxhdpi/ic_launcher.png", picture(192, "RGB", 2)), "PACKAGE13", "res/mipmap-xxxhdpi-v4/ic_launcher.png"),
    "foreground of another": (resource("mipmap-xxxhdpi/ic_front.png", picture(432, "RGB", 5)), "PACKAGE13", "res/mipmap-xxxhdpi-v4/ic_front.png"),
    "ID in code": (entry("classes2.dex", packaged.dex("a", OTHER)), "PACKAGE14", "classes2.dex"),
    "ID in a library": (entry("lib/arm64-v8a/libapp.so", b"\x7fELF\0\x01" + OTHER.encode() + b"\0"), "PACKAGE14", "lib/arm64-v8a/libapp.so"),
    "host in a script": (entry("assets/index.android.bundle", b'var a="https://mossgate.lendspan.example/api"'), "PACKAGE14", "assets/index.android.bundle"),
    "scheme in a script": (entry("assets/index.android.bundle", b'open("lend-mossgate://loans")'), "PACKAGE14", "assets/index.android.bundle"),
    "the app's own login ID": (entry("assets/index.android.bundle", b'login("000000000000")'), "PACKAGE14", "assets/index.android.bundle"),
    "a value that was never given": (entry("assets/settings.json", b'{"currency": "EUR", "key": "TO_BE_GIVEN"}'), "PACKAGE21", "assets/settings.json"),
    "name in JSON": (entry("assets/brand.json", b'{"title": "Mossgate Shed"}'), "PACKAGE14", "assets/brand.json"),
    "ID in wide text": (entry("assets/names.bin", b"\0\1" + OTHER.encode("utf-16-le") + b"\0\0"), "PACKAGE14", "assets/names.bin"),
}


def built(folder: Path, build: Build, name: str = "app.apk") -> Path:
    return packaged.make_apk(folder, build.text, build.resources, entries=build.entries, name=name)


def told(project: Path, *words: object) -> list[dict]:
    done = inline("inspect", *words, "--against", project, "--json")
    found = done.json["findings"]
    assert done.code == (1 if any(item["severity"] == "error" for item in found) else 0), done.err
    for item in found:
        assert all(spot["entry"] and spot["package"] for spot in item["at"]), item
    return found


@needs_aapt
@pytest.mark.parametrize("name", ANDROID_MIXES)
def test_a_mix_up_in_an_apk_is_named_with_its_entry(tmp_path: Path, shop_project: Path, name: str) -> None:
    mix, code, where = ANDROID_MIXES[name]
    build = Build()
    mix(build)
    found = told(shop_project, built(tmp_path, build), *(["--flavor", "alderbank"] if name == "another ID" else []))
    assert any(item["code"] == code and where in {spot["entry"] for spot in item["at"]} for item in found), found


@needs_aapt
def test_a_host_that_a_library_opens_is_the_project_s(tmp_path: Path) -> None:
    """The manifest of a module that ships nothing itself goes into the app's; one of another app does not."""
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application><activity android:name="a.B"><intent-filter>'
    manifest += '<data android:scheme="https" android:host="else.example"/></intent-filter></activity></application></manifest>\n'
    build = Build()
    ANDROID_MIXES["foreign host"][0](build)
    for folder, said in (("android/links", []), ("android/app/src/debug", ["PACKAGE06"])):
        path = f"{folder}/src/main/AndroidManifest.xml" if folder.endswith("links") else f"{folder}/AndroidManifest.xml"
        project = shop.write(tmp_path / folder.rpartition("/")[2], {**shop.project(), path: manifest})
        assert [item["code"] for item in told(project, built(tmp_path, build))] == said


@needs_aapt
def test_an_authority_that_all_brands_share_is_named(tmp_path: Path) -> None:
    """Two apps that provide one authority cannot be installed side by side; one that follows the ID is right."""
    fixed = {name: data.replace("${applicationId}.files", "org.shelf.files") if isinstance(data, str) else data for name, data in shop.project().items()}
    project, build = shop.write(tmp_path / "fixed", fixed), Build()
    swap("org.lendspan.alderbank.files", "org.shelf.files")(build)
    assert [item["code"] for item in told(project, built(tmp_path, build))] == ["PACKAGE22"]


@needs_aapt
def test_a_platform_of_another_repository_is_judged_by_the_identity_file_alone(tmp_path: Path) -> None:
    """What shares the file and lacks the Android project: silent where all is right, sharp where it is another's."""
    away = {name: data for name, data in shop.project().items() if not name.startswith("android/") and not name.endswith("google-services.json")}
    assert any(name.endswith("project.pbxproj") for name in away)
    project = shop.write(tmp_path / "half", away)
    assert told(project, built(tmp_path, Build())) == []
    for name in ("version", "login ID of another", "name in JSON", "another brand's name", "host in a script", "another ID"):
        build = Build()
        mix, code, _ = ANDROID_MIXES[name]
        mix(build)
        assert code in {item["code"] for item in told(project, built(tmp_path, build), *(["--flavor", "alderbank"] if code == "PACKAGE01" else []))}, name
    assert inline("check", project).code in (0, 1) and inline("stamp", project, "--dry-run").code in (0, 3)


ROOT = "Payload/Lend.app/"


def info(**changes: object) -> Callable[[dict[str, bytes]], None]:
    def change(files: dict[str, bytes]) -> None:
        table = plistlib.loads(files[f"{ROOT}Info.plist"]) | {key: value for key, value in changes.items() if value is not None}
        files[f"{ROOT}Info.plist"] = plistlib.dumps({key: value for key, value in table.items() if key not in changes or changes[key] is not None})

    return change


def rights(**table: object) -> Callable[[dict[str, bytes]], None]:
    return lambda files: files.__setitem__(f"{ROOT}Runner", packaged.executable({key.replace("__", "."): value for key, value in table.items()}))


def put(name: str, data: bytes) -> Callable[[dict[str, bytes]], None]:
    return lambda files: files.__setitem__(f"{ROOT}{name}", data)


WIDGET = {"CFBundleIdentifier": "org.lendspan.alderbank.widget", "CFBundleShortVersionString": "2.4.0", "CFBundleVersion": "7"}
APPLE_MIXES = {
    "name": (info(CFBundleDisplayName="Alder"), "PACKAGE02", "Info.plist"),
    "build": (info(CFBundleVersion="8"), "PACKAGE02", "Info.plist"),
    "German name": (put("de.lproj/InfoPlist.strings", plistlib.dumps({"CFBundleDisplayName": "Schuppen"})), "PACKAGE02", "de.lproj/InfoPlist.strings"),
    "level": (info(MinimumOSVersion="14.0"), "PACKAGE03", "Info.plist"),
    "level of a patch": (info(MinimumOSVersion="15.0.1"), "PACKAGE03", "Info.plist"),
    "login ID": (info(LoginID="990000000009"), "PACKAGE04", "Info.plist"),
    "scheme": (info(CFBundleURLTypes=[{"CFBundleURLSchemes": ["lend-mossgate"]}]), "PACKAGE14", "Info.plist"),
    "usage text gone": (info(NSCameraUsageDescription=None), "PACKAGE08", "Info.plist"),
    "host": (rights(**{"com.apple.developer.associated-domains": ["applinks:mossgate.lendspan.example"]}), "PACKAGE14", "Runner"),
    "host gone": (rights(), "PACKAGE06", "Info.plist"),
    "debugging": (
        rights(**{"get-task-allow": True, "com.apple.developer.associated-domains": ["applinks:alderbank.lendspan.example"]}),
        "PACKAGE10",
        "Info.plist",
    ),
    "service": (put("GoogleService-Info.plist", plistlib.dumps(shop.service_list("mossgate"))), "PACKAGE05", "GoogleService-Info.plist"),
    "icon with alpha": (put("AppIcon60x60@2x.png", picture(120, "RGBA")), "PACKAGE12", "AppIcon60x60@2x.png"),
    "icon of a wrong size": (put("AppIcon60x60@2x.png", picture(100)), "PACKAGE12", "AppIcon60x60@2x.png"),
    "icon of another": (put("AppIcon60x60@3x.png", picture(180, "RGB", 2)), "PACKAGE13", "AppIcon60x60@3x.png"),
    "icon that the catalog lacks": (put("Assets.car", packaged.catalog(["Logo"])), "PACKAGE12", "Assets.car"),
    "extension of another": (
        put("PlugIns/Widget.appex/Info.plist", plistlib.dumps({**WIDGET, "CFBundleIdentifier": f"{OTHER}.widget"})),
        "PACKAGE15",
        "PlugIns/Widget.appex/Info.plist",
    ),
    "extension's build": (
        put("PlugIns/Widget.appex/Info.plist", plistlib.dumps({**WIDGET, "CFBundleVersion": "6"})),
        "PACKAGE15",
        "PlugIns/Widget.appex/Info.plist",
    ),
}


@pytest.mark.parametrize("name", APPLE_MIXES)
def test_a_mix_up_in_an_ipa_is_named_with_its_entry(tmp_path: Path, shop_project: Path, name: str) -> None:
    mix, code, where = APPLE_MIXES[name]
    files = shop.ipa_files("alderbank")
    mix(files)
    found = told(shop_project, packaged.make_ipa(tmp_path, files))
    assert any(item["code"] == code and f"{ROOT}{where}" in {spot["entry"] for spot in item["at"]} for item in found), found


def test_an_entry_that_is_damaged_is_told_with_its_package(tmp_path: Path, shop_project: Path) -> None:
    sound = packaged.archive(shop.ipa_files("alderbank") | {f"{ROOT}terms.txt": b"fair terms"}, 0)
    path = tmp_path / "damaged.ipa"
    path.write_bytes(sound.replace(b"fair terms", b"poor terms"))
    done = inline("inspect", path, "--against", shop_project)
    assert done.code == 2 and "damaged.ipa" in done.err and "terms.txt" in done.err, done.err


def test_a_profile_of_another_app(tmp_path: Path, shop_project: Path) -> None:
    files = shop.ipa_files("alderbank")
    rows = {"LEND234567.org.lendspan.alderbank": 0, "LEND234567.*": 0, f"LEND234567.{OTHER}": 1, "OTHER34567.org.lendspan.alderbank": 1}
    for app_id, wrong in rows.items():
        team = app_id.partition(".")[0]
        files[f"{ROOT}embedded.mobileprovision"] = packaged.profile(
            tmp_path, Name="Store", TeamIdentifier=[team], Entitlements={"application-identifier": app_id}
        )
        found = told(shop_project, packaged.make_ipa(tmp_path, files))
        assert len([item for item in found if item["code"] == "PACKAGE16"]) == wrong, found


@needs_aapt
@pytest.mark.parametrize("flavor", shop.BRANDS)
def test_right_packages_of_each_kind_are_met_with_silence(tmp_path: Path, shop_project: Path, flavor: str) -> None:
    apk = packaged.make_apk(tmp_path, shop.manifest(flavor), shop.resources(flavor), entries=shop.ENTRIES)
    (tmp_path / "splits").mkdir()
    (tmp_path / "splits" / "base.apk").write_bytes(apk.read_bytes())
    (tmp_path / "set.apks").write_bytes(packaged.archive({"toc.pb": b"\x0a\0", "splits/base-master.apk": apk.read_bytes()}, 0))
    code = {"dex/classes.dex": shop.ENTRIES["classes.dex"]}
    shop.write(tmp_path, shop.ipa_files(flavor, "Lend.app/"))  # type: ignore[arg-type]
    shop.write(
        tmp_path, {"Lend.xcarchive/Info.plist": plistlib.dumps({"Name": "Lend"}), **shop.ipa_files(flavor, "Lend.xcarchive/Products/Applications/Lend.app/")}
    )
    for path in (
        apk,
        tmp_path / "splits",
        tmp_path / "set.apks",
        packaged.make_bundle(tmp_path, shop.manifest(flavor), shop.resources(flavor), code),
        packaged.make_ipa(tmp_path, shop.ipa_files(flavor)),
        tmp_path / "Lend.app",
        tmp_path / "Lend.xcarchive",
    ):
        assert told(shop_project, path) == [], path
        assert told(shop_project, path, "--flavor", flavor) == []


@needs_aapt
@needs_signer
def test_certificates_are_held_against_fingerprints_services_and_links(tmp_path: Path) -> None:
    mine, other = packaged.keystore(tmp_path), packaged.keystore(tmp_path, "other", "Somebody")
    apk = built(tmp_path, Build())
    right, wrong = packaged.sign(apk, mine), packaged.sign(built(tmp_path, Build(), "wrong.apk"), other)
    [known] = inline("inspect", right, "--json").json["packages"][0]["certificates"]
    sha1 = known["sha1"].replace(":", "").lower()
    files = shop.project(known["sha256"])
    said = shop.service("alderbank")
    said["client"][0]["oauth_client"].append(
        {"client_id": "a", "client_type": 1, "android_info": {"package_name": "org.lendspan.alderbank", "certificate_hash": sha1}}
    )  # type: ignore[index]
    files["android/app/src/alderbank/google-services.json"] = json.dumps(said)
    target = {"namespace": "android_app", "package_name": "org.lendspan.alderbank", "sha256_cert_fingerprints": [known["sha256"]]}
    files["web/.well-known/assetlinks.json"] = json.dumps([{"relation": ["delegate_permission/common.handle_all_urls"], "target": target}])
    project = shop.write(tmp_path / "project", files)
    assert told(project, right) == []
    found = told(project, wrong)
    assert [item["code"] for item in found] == ["PACKAGE09"] * 3 and {"onomaxis.toml", "google-services.json", "assetlinks.json"} == {
        name for item in found for name in ("onomaxis.toml", "google-services.json", "assetlinks.json") if name in item["message"]
    }
    assert [item["code"] for item in told(project, apk)] == ["PACKAGE09"]
    debug = packaged.sign(built(tmp_path, Build(), "debug.apk"), packaged.keystore(tmp_path, "debug", "Android Debug"))
    assert "PACKAGE11" in {item["code"] for item in told(project, debug)}


@needs_aapt
def test_values_in_files_that_ship_are_compared(tmp_path: Path) -> None:
    files = shop.project()
    value = '[values.currency]\nvalue = "EUR"\nplaces = [{ pointer = "/currency", file = "android/app/src/main/assets/settings.json" }]\n\n[flavors.alderbank]'
    files["onomaxis.toml"] = str(files["onomaxis.toml"]).replace("[flavors.alderbank]", value, 1)
    files["android/app/src/main/assets/settings.json"] = '{"currency": "EUR"}\n'
    project = shop.write(tmp_path / "project", files)
    assert told(project, built(tmp_path, Build())) == []
    build = Build(entries={**shop.ENTRIES, "assets/settings.json": b'{"currency": "CHF"}'})
    [found] = told(project, built(tmp_path, build))
    assert found["code"] == "PACKAGE04" and "CHF" in found["message"] and "EUR" in found["message"]


@needs_aapt
def test_what_lies_below_an_id_that_is_above_the_packages_own_is_shared(tmp_path: Path) -> None:
    """An environment's flavor has the shipped app's ID with a word behind it: tasks below the first are no residue."""
    files = {
        name: data.replace("org.lendspan.mossgate", "org.lendspan.alderbank.dev") if isinstance(data, str) else data for name, data in shop.project().items()
    }
    project = shop.write(tmp_path / "project", files)
    build = Build(text=shop.manifest("mossgate").replace("org.lendspan.mossgate", "org.lendspan.alderbank.dev"), resources=dict(shop.resources("mossgate")))
    build.entries = {**shop.ENTRIES, "assets/a.txt": b"org.lendspan.alderbank.refresh"}
    assert told(project, built(tmp_path, build)) == []
    build.entries["assets/a.txt"] = b"org.lendspan.alderbank"
    assert [item["code"] for item in told(project, built(tmp_path, build))] == ["PACKAGE14"]


@needs_aapt
def test_a_flavor_of_one_dimension_may_be_named_of_a_combination(tmp_path: Path) -> None:
    files = shop.project()
    script = str(files["android/app/build.gradle.kts"]).replace('flavorDimensions += "brand"', 'flavorDimensions += listOf("brand", "tier")')
    files["android/app/build.gradle.kts"] = script.replace(
        "productFlavors {\n",
        'productFlavors {\n        create("plus") {\n            dimension = "tier"\n            applicationIdSuffix = ".plus"\n        }\n        create("free") { dimension = "tier" }\n',
    )
    project = shop.write(
        tmp_path / "project", {name: data for name, data in files.items() if not name.startswith("ios/") and not name.endswith("google-services.json")}
    )
    text = shop.manifest("alderbank").replace("org.lendspan.alderbank", "org.lendspan.alderbank.plus")
    apk = packaged.make_apk(tmp_path, text, shop.resources("alderbank"), entries=shop.ENTRIES)
    for flavor in ("alderbank", "alderbankPlus", "plus"):
        assert told(project, apk, "--flavor", flavor) == [], flavor
    assert "PACKAGE01" in {item["code"] for item in told(project, apk, "--flavor", "mossgate")}
    # The identity file speaks of brands alone: what it says of one holds for each combination that it is in.
    wrong = dict(shop.resources("alderbank"))
    wrong["values/brand.xml"] = str(wrong["values/brand.xml"]).replace(shop.LOGINS["alderbank"], shop.LOGINS["mossgate"])
    apk = packaged.make_apk(tmp_path, text, wrong, entries={**shop.ENTRIES, "assets/links.json": b'{"at": "mossgate.lendspan.example"}'})
    for words in ((), ("--flavor", "alderbankPlus")):
        assert sorted((item["code"], item["message"].partition(" is the ")[2]) for item in told(project, apk, *words)) == [
            ("PACKAGE04", ""),
            ("PACKAGE14", "host of mossgate"),
            ("PACKAGE14", "value login-id of mossgate"),
        ]


def test_a_path_is_told_as_it_was_given(tmp_path: Path, shop_project: Path) -> None:
    shop.write(tmp_path, shop.ipa_files("alderbank", "Lend.app/"))  # type: ignore[arg-type]
    given = f"{tmp_path}/Lend.app/"
    found = inline("inspect", given, "--against", shop_project, "--flavor", "mossgate", "--json").json
    assert found["packages"][0]["path"] == given and {spot["package"] for item in found["findings"] for spot in item["at"]} == {given}
    source = shop.write(tmp_path / "source", {"Info.plist": plistlib.dumps({"CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)"})})
    done = inline("inspect", source)
    assert done.code == 2 and "no build filled it in" in done.err


def test_a_number_that_the_ledger_has(tmp_path: Path) -> None:
    """Of another package, or of one that nobody knows: the store takes no second one. The package that was published has it rightly."""
    ipa = packaged.make_ipa(tmp_path, shop.ipa_files("alderbank"))
    row = "2026-03-02,ios,alderbank,org.lendspan.alderbank,2.4.0,7,,"
    for told_by, known in (
        (row, ["PACKAGE20"]),
        (f"{row}sha256:{'0' * 64}", ["PACKAGE20"]),
        (f"{row}sha256:{hashlib.sha256(ipa.read_bytes()).hexdigest()}", []),
        (row.replace("2.4.0", "2.3.0"), []),  # each version counts anew
        (row.replace(",7,", ",8,"), []),
        (row.replace(".alderbank,", ".mossgate,"), []),
    ):
        ledger = f"date,platform,flavor,id,version,build,fingerprint,digest\n{told_by}\n"
        project = shop.write(tmp_path / "project", {**shop.project(), "onomaxis.ledger.csv": ledger})
        assert [item["code"] for item in told(project, ipa)] == known, told_by


# -- several packages


@needs_aapt
def test_packages_of_one_call_must_agree(tmp_path: Path, shop_project: Path) -> None:
    apk, twin = built(tmp_path, Build()), built(tmp_path, Build(), "twin.apk")
    ipa = packaged.make_ipa(tmp_path, shop.ipa_files("alderbank"))
    assert told(shop_project, apk, ipa) == []
    assert [item["code"] for item in told(shop_project, apk, twin)] == ["PACKAGE18"]
    files = shop.ipa_files("alderbank")
    info(CFBundleVersion="8")(files)
    found = told(shop_project, apk, packaged.make_ipa(tmp_path, files, "late.ipa"))
    assert {item["code"] for item in found} == {"PACKAGE02", "PACKAGE15", "PACKAGE19"}


@needs_aapt
def test_splits_must_agree(tmp_path: Path, shop_project: Path) -> None:
    folder = tmp_path / "splits"
    folder.mkdir()
    (folder / "base.apk").write_bytes(built(tmp_path, Build()).read_bytes())
    split = tmp_path / "de.apk"
    build = Build()
    build.swap('versionCode="7"', 'versionCode="8"')
    packaged.linked(build.text, build.resources, ["--split", f"{split}:de"])
    (folder / "split_config.de.apk").write_bytes(split.read_bytes())
    found = told(shop_project, folder)
    assert [(item["code"], item["at"][0]["entry"]) for item in found] == [("PACKAGE17", "split_config.de.apk/AndroidManifest.xml")]


# -- borders of what belongs to a brand


BORDERS = {
    "org.lendspan.mossgate": True,
    "org.lendspan.mossgate.files": True,
    "see org.lendspan.mossgate, please": True,
    "org.lendspan.mossgates": False,
    "org.lendspan.mossgate-old": False,
    "com.org.lendspan.mossgate": False,
    "group.org.lendspan.mossgate": True,
    "LEND234567.org.lendspan.mossgate": True,
    "LEND234567.org.lendspan.alderbank": False,
    "group.org.lendspan": False,
    "org.lendspan.app.mossgate": False,
    "org.lendspan.alderbank.mossgate": False,
    "https://mossgate.lendspan.example/x": True,
    "www.mossgate.lendspan.example": True,
    "api.mossgate.lendspan.example": False,
    "Mossgate Shed": True,
    "Mossgate Sheds": False,
    "lend-mossgate": False,
    "lend-mossgate://": True,
    "Mossgate": False,
}


@needs_aapt
def test_what_stands_alone_counts_and_what_is_part_of_something_longer_does_not(tmp_path: Path, shop_project: Path) -> None:
    data = packaged.linked(shop.manifest("alderbank"), shop.resources("alderbank"))
    for text, counts in BORDERS.items():
        path = tmp_path / "app.apk"
        path.write_bytes(packaged.with_entries(data, {**shop.ENTRIES, "assets/a.txt": text.encode()}))
        found = [item for item in told(shop_project, path) if item["code"] == "PACKAGE14"]
        assert bool(found) == counts, (text, found)


# -- a template: the brand is what stamping makes


@needs_aapt
def test_a_package_of_a_template_is_held_against_what_stamping_makes(tmp_path: Path) -> None:
    """The build knows no flavors: the project says Lendspan, the package is Mossgate's."""
    art = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="10" height="10" fill="{}"/><circle cx="5" cy="5" r="3" fill="#fff"/></svg>'
    flavors = "".join(
        f'\n[flavors.{name}]\nname = "{shown}"\nid = "org.lendspan.{name}"\nicon = {{ art = "art/{name}.svg" }}\n' for name, shown in shop.BRANDS.items()
    )
    files: dict[str, str | bytes] = {
        "onomaxis.toml": f'format = 1\n\n[app]\nversion = "1.0"\nbuild = 1\n{flavors}',
        "settings.gradle.kts": 'include(":app")\n',
        "app/build.gradle.kts": 'plugins { id("com.android.application") }\nandroid {\n    namespace = "org.lendspan.app"\n    defaultConfig {\n        applicationId = "org.lendspan"\n        minSdk = 24\n        targetSdk = 35\n        versionName = "1.0"\n        versionCode = 1\n    }\n}\n',
        "app/src/main/AndroidManifest.xml": f'<manifest {packaged.ANDROID}>\n  <application android:label="@string/app_name" android:icon="@mipmap/ic_launcher"/>\n</manifest>\n',
        "app/src/main/res/values/strings.xml": packaged.strings(app_name="Lendspan"),
        **{f"app/src/main/res/mipmap-{name}/ic_launcher.png": picture(round(48 * share)) for name, share in shop.BUCKETS.items()},
        **{f"art/{name}.svg": art.format(color) for name, color in zip(shop.BRANDS, ("#204060", "#205030", "#602030"), strict=True)},
    }
    project = shop.write(tmp_path / "project", files)
    stamped = shop.write(tmp_path / "stamped", files)
    assert inline("stamp", stamped, "--flavor", "mossgate").code == 0
    res = stamped / "app/src/main/res"
    resources = {path.relative_to(res).as_posix(): path.read_bytes() for path in res.rglob("*") if path.is_file()}
    text = packaged.manifest("org.lendspan.mossgate", "1", "1.0", application='android:label="@string/app_name" android:icon="@mipmap/ic_launcher"')
    assert told(project, packaged.make_apk(tmp_path, text, resources)) == []
    unstamped = {
        path.relative_to(project / "app/src/main/res").as_posix(): path.read_bytes() for path in (project / "app/src/main/res").rglob("*") if path.is_file()
    }
    found = told(project, packaged.make_apk(tmp_path, text, unstamped))
    assert {item["code"] for item in found} == {"PACKAGE02", "PACKAGE12", "PACKAGE13"}


# -- the command line


def test_words_and_exit_codes(tmp_path: Path, shop_project: Path) -> None:
    ipa = packaged.make_ipa(tmp_path, shop.ipa_files("mossgate"))
    done = inline("inspect", ipa)
    assert done.code == 0 and "org.lendspan.mossgate" in done.out and "Mossgate Shed" in done.out
    assert "Nothing found" in inline("inspect", ipa, "--against", shop_project).out
    done = inline("inspect", ipa, "--against", shop_project, "--flavor", "alderbank")
    assert done.code == 1 and "PACKAGE01" in done.out and "PACKAGE14" in done.out
    assert inline("inspect", ipa, "--flavor", "alderbank").code == 2
    done = inline("inspect", ipa, "--against", shop_project, "--flavor", "nobody")
    assert done.code == 2 and "alderbank" in done.err
    sarif = json.loads(inline("inspect", ipa, "--against", shop_project, "--flavor", "alderbank", "--as", "sarif").out)
    assert sarif["runs"][0]["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"].startswith(str(ipa))
    assert inline("check", "--explain", "PACKAGE14").code == 0


def test_what_is_no_package_is_refused_in_words(tmp_path: Path) -> None:
    for name, data, said in (
        ("none.apk", None, "no such package"),
        ("empty.apk", b"", "not a package"),
        ("text.apk", b"hello", "not a package"),
        ("plain.zip", packaged.archive({"a.txt": b"a"}), "not a package"),
        ("cut.ipa", packaged.archive(shop.ipa_files("alderbank"))[:-40], "end is missing"),
        ("two.ipa", packaged.archive({**shop.ipa_files("alderbank"), **shop.ipa_files("mossgate", "Payload/Other.app/")}), "2 apps"),
    ):
        path = tmp_path / name
        if data is not None:
            path.write_bytes(data)
        done = inline("inspect", path)
        assert done.code == 2 and said in done.err and name in done.err, (name, done.err)
        assert inline("inspect", path, "--json").json["error"]["exit"] == 2
    (tmp_path / "folder").mkdir()
    assert inline("inspect", tmp_path / "folder").code == 2


def outputs(found: list[dict]) -> Iterator[str]:
    yield from (item["message"] for item in found)


def test_secrets_are_not_shown(tmp_path: Path) -> None:
    files = shop.project()
    files["onomaxis.toml"] = str(files["onomaxis.toml"]).replace("[values.login-id]", "[values.login-id]\nsecret = true")
    project = shop.write(tmp_path / "project", files)
    changed = shop.ipa_files("alderbank")
    info(LoginID=shop.LOGINS["mossgate"])(changed)
    found = told(project, packaged.make_ipa(tmp_path, changed))
    assert {item["code"] for item in found} == {"PACKAGE04", "PACKAGE14"}
    assert not any(login in text for text in outputs(found) for login in shop.LOGINS.values())


def test_what_a_terminal_would_obey_is_shown(tmp_path: Path) -> None:
    files = shop.ipa_files("alderbank")
    table = plistlib.loads(files[f"{ROOT}Info.plist"]) | {"CFBundleDisplayName": "Tools\x1b]0;title\x07\x1b[31m\u202eslooT", "CFBundleVersion": "7\n8"}
    files[f"{ROOT}Info.plist"] = plistlib.dumps(table, fmt=plistlib.FMT_BINARY)
    package = packaged.make_ipa(tmp_path, files)
    for words in (("inspect", package), ("rehearse", package, "--state", tmp_path / "state", "--on", "2026-11-26")):
        done = inline(*words)
        assert not {"\x1b", "\x07", "\u202e"} & set(done.out + done.err), (words, done.out)
    names = inline("inspect", package, "--json").json["packages"][0]
    assert names["name"].startswith("Tools\x1b]0;")


def test_nothing_is_written(tmp_path: Path, shop_project: Path) -> None:
    from conftest import snapshot

    ipa = packaged.make_ipa(tmp_path, shop.ipa_files("alderbank"))
    before = snapshot(shop_project), snapshot(tmp_path)
    inline("inspect", ipa, "--against", shop_project)
    assert (snapshot(shop_project), snapshot(tmp_path)) == before
    assert io.BytesIO(ipa.read_bytes()).read(2) == b"PK"
