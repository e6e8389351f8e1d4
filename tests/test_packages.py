"""What a package says of itself: every fact equals what the platforms' own tools print, in every form."""

from __future__ import annotations

import io
import plistlib
import re
import shutil
import struct
import subprocess
import zipfile
import zlib
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import packaged
import tables
from conftest import inline
from onomaxis.formats.binary.apple_png import read_apple_png
from onomaxis.formats.binary.catalog import catalog_names
from onomaxis.formats.binary.picture import measure
from onomaxis.formats.binary.resource_table import ResourceTable
from onomaxis.formats.binary.values import Typed
from onomaxis.packages.opening import open_package
from onomaxis.packages.texts import texts
from packaged import ANDROID, needs_aapt, needs_signer, picture, run

pytestmark = pytest.mark.processes
KEYS = ["path", "kind", "platform", "id", "name", "names", "version", "build", "min", "target", "debuggable", "icons", "permissions", "authorities", "hosts", "schemes", "metadata", "services", "parts", "entitlements", "profile", "catalog", "certificates"]  # fmt: skip

LINKED = """
<activity android:name=".Main" android:exported="true">
  <intent-filter><action android:name="android.intent.action.VIEW"/><category android:name="android.intent.category.BROWSABLE"/>
    <data android:scheme="https" android:host="@string/host"/><data android:scheme="lend"/></intent-filter>
  <intent-filter><action android:name="android.intent.action.VIEW"/><data android:scheme="inside" android:host="inside.example"/></intent-filter>
</activity>
<provider android:name=".Files" android:authorities="org.lendspan.alderbank.files;org.lendspan.alderbank.more" android:exported="false"/>
<meta-data android:name="login" android:value="@string/login"/>
<meta-data android:name="number" android:value="12"/>
<meta-data android:name="ground" android:resource="@color/ground"/>
<meta-data android:name="on" android:value="true"/>
"""
QUERIES = '<uses-permission android:name="android.permission.CAMERA"/><queries><intent><action android:name="android.intent.action.VIEW"/><category android:name="android.intent.category.BROWSABLE"/><data android:scheme="geo" android:host="asked.example"/></intent></queries>'
RICH = {
    "values/strings.xml": packaged.strings(
        label="@string/app_name", app_name="Alderbank Tools", host="lend.example", login="fb123", google_app_id="1:2:android:3", project_id="lend"
    ).replace("</resources>", '<color name="ground">#ff102030</color></resources>'),
    "values-de/strings.xml": packaged.strings(app_name="Werkzeuge 😀"),
    "values-en-rUS/strings.xml": packaged.strings(app_name="Tools US"),
    "values-b+sr+Latn/strings.xml": packaged.strings(app_name="Alati"),
    "values-fil/strings.xml": packaged.strings(app_name="Kagamitan"),
    "values-night/strings.xml": packaged.strings(app_name="Never seen"),
    "mipmap-mdpi/ic_launcher.png": picture(48),
    "mipmap-xxhdpi/ic_launcher.png": picture(144, "RGBA"),
    "mipmap-xxhdpi/ic_round.png": picture(144, "RGBA", 2),
    "mipmap-anydpi-v26/ic_launcher.xml": f'<adaptive-icon {ANDROID}><background android:drawable="@color/ground"/><foreground><inset android:inset="10%" android:drawable="@drawable/front"/></foreground><monochrome android:drawable="@drawable/mono"/></adaptive-icon>',
    "drawable-nodpi/front.png": picture(432, "RGBA"),
    "drawable/mono.xml": f'<vector {ANDROID} android:width="108dp" android:height="108dp" android:viewportWidth="108" android:viewportHeight="108"><path android:fillColor="#fff" android:pathData="M0,0h108v108z"/></vector>',
}
LABEL = 'android:label="@string/label" android:icon="@mipmap/ic_launcher" android:roundIcon="@mipmap/ic_round" android:debuggable="true"'
MANIFEST = packaged.manifest(application=LABEL, inside=LINKED, before=QUERIES)


def facts(*paths: Path) -> dict:
    done = inline("inspect", *paths, "--json")
    assert done.code == 0, done.err
    document = done.json
    assert list(document) == ["format", "packages", "findings"] and document["findings"] == []
    assert all(list(item) == KEYS for item in document["packages"])
    return document["packages"][0]


def check_rich(found: dict, lead: str = "") -> None:
    assert (found["id"], found["name"], found["version"], found["build"]) == ("org.lendspan.alderbank", "Alderbank Tools", "2.4.0", "7")
    assert found["names"] == {"de": "Werkzeuge 😀", "en-US": "Tools US", "fil": "Kagamitan", "sr-Latn": "Alati"}
    assert (found["min"], found["target"], found["debuggable"]) == ("24", "35", True)
    assert found["permissions"] == ["android.permission.CAMERA"]
    assert found["authorities"] == ["org.lendspan.alderbank.files", "org.lendspan.alderbank.more"]
    assert (found["hosts"], found["schemes"]) == (["lend.example"], ["lend"])
    assert {"login": "fb123", "number": "12", "ground": "#ff102030", "on": "true"}.items() <= found["metadata"].items()
    assert found["services"] == {"google_app_id": "1:2:android:3", "project_id": "lend"}
    rows = {(item["role"], item["density"]): item for item in found["icons"]}
    assert (rows["icon", 160]["width"], rows["icon", 160]["alpha"]) == (48, False)
    assert (rows["icon", 480]["width"], rows["icon", 480]["alpha"]) == (144, True)
    assert rows["icon", "any"]["path"] == f"{lead}res/mipmap-anydpi-v26/ic_launcher.xml"
    assert rows["round", 480]["path"].endswith("ic_round.png")
    assert (rows["foreground", "none"]["width"], rows["background", 160]["path"], rows["monochrome", 160]["width"]) == (432, None, None)


@needs_aapt
@pytest.mark.parametrize("options", [(), ("--no-version-vectors",), ("--enable-sparse-encoding", "--min-sdk-version", "24")], ids=str)
def test_an_apk_says_what_the_platforms_tool_says(tmp_path: Path, options: tuple[str, ...]) -> None:
    apk = packaged.make_apk(tmp_path, MANIFEST, RICH, options)
    found = facts(apk)
    assert found["kind"] == "apk" and found["platform"] == "android"
    check_rich(found)
    told = run("aapt2", "dump", "badging", apk)
    labels = dict(re.findall(r"^application-label-([\w-]+):'(.*)'$", told, re.M))
    assert {language: text for language, text in labels.items() if text != found["name"]} == found["names"]
    icons = dict(re.findall(r"^application-icon-(\d+):'(.*)'$", told, re.M))
    assert set(icons.values()) <= {item["path"] for item in found["icons"]}


@needs_aapt
def test_a_bundle_says_the_same(tmp_path: Path) -> None:
    found = facts(packaged.make_bundle(tmp_path, MANIFEST, RICH))
    assert found["kind"] == "aab"
    check_rich(found, "base/")


@needs_aapt
def test_split_apks_are_one_package_whether_in_an_archive_or_a_folder(tmp_path: Path) -> None:
    plain = {name: data for name, data in RICH.items() if not name.startswith(("values-de", "values-fil"))}
    base = packaged.make_apk(tmp_path, MANIFEST, plain, name="base-master.apk")
    strings = {name: data for name, data in RICH.items() if name.startswith("values")}
    german = tmp_path / "config.apk"
    made = packaged.linked(MANIFEST, {**RICH, **strings}, ["--split", f"{german}:de,fil"])
    assert made
    folder = tmp_path / "splits"
    folder.mkdir()
    shutil.copy(base, folder / "base.apk")
    shutil.copy(german, folder / "split_config.de.apk")
    found = facts(folder)
    assert found["kind"] == "apks"
    check_rich(found)
    whole = tmp_path / "app.apks"
    whole.write_bytes(
        packaged.archive(
            {
                "toc.pb": b"\x0a\0",
                "splits/base-master.apk": base.read_bytes(),
                "splits/base-de.apk": german.read_bytes(),
                "splits/base-master_2.apk": base.read_bytes(),
                "splits/base-x86_64.apk": split_of("x86_64"),
            },
            0,
        )
    )
    found = facts(whole)
    assert found["kind"] == "apks"
    check_rich(found)
    assert [lead for lead, _ in open_package(str(whole)).content.layers] == [f"splits/base-{name}.apk/" for name in ("master", "de", "x86_64")]


def split_of(name: str) -> bytes:
    """Return a split that holds nothing but a manifest and a library."""
    said = [("package", 0, tables.STRING, 3), ("split", 0, tables.STRING, 4), ("versionCode", 0x0101021B, tables.DECIMAL, 7)]
    text = tables.document(("manifest", said, []), strings=["org.lendspan.alderbank", f"config.{name}"])
    return packaged.archive({"AndroidManifest.xml": text, f"lib/{name}/liba.so": b"\x7fELF"})


@needs_aapt
def test_manifests_of_feature_modules_are_merged(tmp_path: Path) -> None:
    """What a module asks for, provides and is opened by is the app's; in a bundle and in split APKs."""
    inside = '<provider android:name="a.P" android:authorities="org.lendspan.more"/><meta-data android:name="m" android:value="1"/>'
    inside += '<activity android:name="a.L" android:exported="true"><intent-filter><action android:name="android.intent.action.VIEW"/>'
    inside += (
        '<category android:name="android.intent.category.BROWSABLE"/><data android:scheme="https" android:host="more.example"/></intent-filter></activity>'
    )
    text = packaged.manifest(application=' android:hasCode="false"', inside=inside, before='<uses-permission android:name="android.permission.NFC"/>')
    text = text.replace("<manifest ", '<manifest split="more" android:isFeatureSplit="true" ', 1)
    renamed = {"AndroidManifest.xml": "manifest/AndroidManifest.xml"}
    module = packaged.with_entries(packaged.linked(text, options=["--proto-format"]), {}, renamed, "more/")
    bundle = packaged.make_bundle(tmp_path)
    with zipfile.ZipFile(bundle, "a") as whole, zipfile.ZipFile(io.BytesIO(module)) as more:
        for name in more.namelist():
            whole.writestr(name, more.read(name))
    folder = tmp_path / "splits"
    folder.mkdir()
    (folder / "base.apk").write_bytes(packaged.make_apk(tmp_path).read_bytes())
    (folder / "more.apk").write_bytes(packaged.linked(text))
    for package in (bundle, folder):
        found = facts(package)
        assert (found["permissions"], found["authorities"][-1:], found["metadata"]) == (["android.permission.NFC"], ["org.lendspan.more"], {"m": "1"})
        assert found["hosts"] == ["more.example"]


# -- signers


@needs_aapt
@needs_signer
def test_signers_are_those_that_the_platforms_tool_finds(tmp_path: Path) -> None:
    apk, old, new = (
        packaged.make_apk(tmp_path, packaged.manifest(levels=(23, 28))),
        packaged.keystore(tmp_path),
        packaged.keystore(tmp_path, "next", "Lendspan Next"),
    )
    lineage = tmp_path / "lineage"
    words = ("--ks", old, "--ks-pass", f"pass:{packaged.PASSWORD}")
    run("apksigner", "rotate", "--out", lineage, "--old-signer", *words, "--new-signer", "--ks", new, "--ks-pass", f"pass:{packaged.PASSWORD}")
    rotated = ("--lineage", lineage, "--next-signer", "--ks", new, "--ks-pass", f"pass:{packaged.PASSWORD}")
    for options, owner, schemes in (
        ((), "Release", ["v1", "v2", "v3"]),
        (("--v3-signing-enabled", "false"), "Release", ["v1", "v2"]),
        (("--v2-signing-enabled", "false", "--v3-signing-enabled", "false"), "Release", ["v1"]),
        (rotated, "Next", ["v3"]),
    ):
        signed = packaged.sign(apk, old, *options)
        [found] = facts(signed)["certificates"]
        told = run("apksigner", "verify", "--print-certs", signed)
        assert re.search(r"SHA-256 digest: (\w+)", told)[1] == found["sha256"].replace(":", "").lower()
        assert re.search(r"SHA-1 digest: (\w+)", told)[1] == found["sha1"].replace(":", "").lower()
        assert (found["subject"], found["scheme"], found["debug"]) == (f"CN=Lendspan {owner},O=Lendspan", schemes, False)
        data = bytearray(signed.read_bytes())
        data[10] ^= 1  # the time of the first entry
        signed.write_bytes(data)
        said = [(item["code"], item["at"][0]["entry"]) for item in inline("inspect", signed, "--json").json["findings"]]
        assert said == ([] if schemes == ["v1"] else [("PACKAGE23", "AndroidManifest.xml")])  # entries have checksums there
        judged = subprocess.run(["apksigner", "verify", signed], capture_output=True, check=False)
        assert bool(judged.returncode) == bool(said)


@needs_aapt
@needs_signer
def test_the_debug_key_is_told_apart_and_a_bundle_has_signature_files(tmp_path: Path) -> None:
    store = packaged.keystore(tmp_path, "debug", "Android Debug")
    assert facts(packaged.sign(packaged.make_apk(tmp_path), store))["certificates"][0]["debug"] is True
    bundle = packaged.make_bundle(tmp_path)
    run("jarsigner", "-keystore", store, "-storepass", packaged.PASSWORD, bundle, "debug")
    [found] = facts(bundle)["certificates"]
    assert found["scheme"] == ["v1"] and "Android Debug" in found["subject"]


# -- Apple


def test_an_ipa_says_what_its_lists_say(tmp_path: Path) -> None:
    root = "Payload/Runner.app/"
    rights = {
        "application-identifier": "LEND234567.org.lendspan.alderbank",
        "com.apple.developer.associated-domains": ["applinks:a.example", "webcredentials:b.example?mode=developer"],
        "get-task-allow": True,
    }
    files = packaged.app_files(root, {"CFBundleIcons~ipad": {"CFBundlePrimaryIcon": {"CFBundleIconFiles": ["AppIcon76x76"]}}}, rights)
    files[f"{root}Runner"] = packaged.executable(rights, signed(tmp_path))
    files |= {
        f"{root}de.lproj/InfoPlist.strings": '"CFBundleDisplayName" = "Werkzeuge";'.encode("utf-16"),
        f"{root}pt-BR.lproj/InfoPlist.strings": plistlib.dumps({"CFBundleName": "Ferramentas"}, fmt=plistlib.FMT_BINARY),
        f"{root}InfoPlist.loctable": plistlib.dumps({"fr": {"CFBundleDisplayName": "Outils"}, "LocProvenance": {"fr": "x"}}),
        f"{root}Base.lproj/InfoPlist.strings": b'CFBundleDisplayName = "Base";',
        f"{root}GoogleService-Info.plist": plistlib.dumps({"BUNDLE_ID": "org.lendspan.alderbank", "IS_ADS_ENABLED": False}),
        f"{root}Assets.car": b"BOMStore",
        f"{root}embedded.mobileprovision": packaged.profile(tmp_path, Name="Store", TeamIdentifier=["LEND234567"], Entitlements={"application-identifier": "LEND234567.org.lendspan.alderbank"}),
        f"{root}PlugIns/Widget.appex/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.lendspan.alderbank.widget", "CFBundleName": "Widget", "CFBundleShortVersionString": "2.4.0", "CFBundleVersion": "7"}),
        f"{root}Watch/Watch.app/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.lendspan.alderbank.watch"}),
        f"{root}Watch/Watch.app/PlugIns/Dial.appex/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.lendspan.alderbank.watch.dial"}),
        f"{root}AppClips/Clip.app/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.lendspan.alderbank.Clip"}),
    }  # fmt: skip
    found = facts(packaged.make_ipa(tmp_path, files))
    assert (found["kind"], found["platform"], found["id"], found["name"]) == ("ipa", "ios", "org.lendspan.alderbank", "Alderbank Tools")
    assert found["names"] == {"de": "Werkzeuge", "fr": "Outils", "pt-BR": "Ferramentas"}
    assert (found["version"], found["build"], found["min"], found["target"]) == ("2.4.0", "7", "15.0", "18.2")
    assert found["debuggable"] is True and found["catalog"] is True
    assert {(item["path"].rpartition("/")[2], item["width"], item["role"]) for item in found["icons"]} == {
        ("AppIcon60x60@2x.png", 120, "apple"),
        ("AppIcon60x60@3x.png", 180, "apple"),
        ("AppIcon76x76@2x~ipad.png", 152, "apple"),
    }
    assert (found["hosts"], found["schemes"]) == (["a.example", "b.example"], ["alderbank"])
    assert found["services"] == {"BUNDLE_ID": "org.lendspan.alderbank", "IS_ADS_ENABLED": "false"}
    assert [(item["kind"], item["id"]) for item in found["parts"]] == [
        ("clip", "org.lendspan.alderbank.Clip"),
        ("extension", "org.lendspan.alderbank.widget"),
        ("watch", "org.lendspan.alderbank.watch"),
        ("extension", "org.lendspan.alderbank.watch.dial"),
    ]
    assert found["parts"][1] == {
        "kind": "extension",
        "id": "org.lendspan.alderbank.widget",
        "name": "Widget",
        "version": "2.4.0",
        "build": "7",
        "path": f"{root}PlugIns/Widget.appex",
    }
    assert found["entitlements"] == rights
    assert found["profile"] == {"app_id": "LEND234567.org.lendspan.alderbank", "team": "LEND234567", "name": "Store", "expires": None}
    assert [(item["scheme"], item["debug"]) for item in found["certificates"]] == [(["code"], False)]


def signed(folder: Path) -> bytes:
    key, cert = packaged.signer(folder)
    (folder / "code").write_bytes(b"the code directory")
    run("openssl", "cms", "-sign", "-binary", "-outform", "DER", "-in", folder / "code", "-signer", cert, "-inkey", key, "-out", folder / "code.cms")
    return (folder / "code.cms").read_bytes()


@pytest.mark.parametrize("form", [plistlib.FMT_XML, plistlib.FMT_BINARY], ids=["xml", "binary"])
def test_an_app_an_archive_of_xcode_and_a_mac_app(tmp_path: Path, form: plistlib.PlistFormat) -> None:
    def lay(files: dict[str, bytes]) -> None:
        for name, data in files.items():
            (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
            (tmp_path / name).write_bytes(data)

    lay(packaged.app_files("Runner.app/", form=form))
    lay(packaged.app_files("Store.xcarchive/Products/Applications/Runner.app/", form=form))
    lay(
        {
            "Store.xcarchive/Info.plist": plistlib.dumps({"Name": "Runner"}),
            "Mac.app/Contents/Info.plist": plistlib.dumps({**packaged.INFO, "CFBundleSupportedPlatforms": ["MacOSX"]}),
            "Mac.app/Contents/MacOS/Runner": packaged.executable({"com.apple.security.app-sandbox": True}),
        }
    )
    for name, kind, platform in (("Runner.app", "app", "ios"), ("Store.xcarchive", "xcarchive", "ios"), ("Mac.app", "app", "macos")):
        found = facts(tmp_path / name)
        assert (found["kind"], found["platform"], found["id"], found["build"]) == (kind, platform, "org.lendspan.alderbank", "7")
    assert facts(tmp_path / "Mac.app")["entitlements"] == {"com.apple.security.app-sandbox": True}


@pytest.mark.parametrize("alpha", [False, True])
def test_apples_own_pngs_are_read(alpha: bool) -> None:
    pixels = np.zeros((6, 5, 4), np.uint8)
    pixels[..., 0], pixels[..., 1], pixels[..., 2], pixels[..., 3] = 200, np.arange(5) * 40, 7, 255
    if alpha:
        pixels[2:4, :, 3] = 128
    data = apple_png(pixels)
    seen = measure(data)
    assert seen == (5, 6, True)
    assert np.abs(read_apple_png(data).astype(int) - pixels).max() <= 1


def apple_png(pixels: np.ndarray) -> bytes:
    """Write the variant: blue first, multiplied by alpha, each line with another filter, no wrapper round the stream."""
    high, wide, _ = pixels.shape
    mixed = (
        np.concatenate([np.rint(pixels[..., 2::-1] * (pixels[..., 3:] / 255)).astype(np.uint8), pixels[..., 3:]], axis=2).reshape(high, wide * 4).astype(int)
    )
    lines, above = b"", np.zeros(wide * 4, int)
    for number in range(high):
        line, kind = mixed[number], number % 5
        left = np.concatenate([np.zeros(4, int), line[:-4]])
        corner = np.concatenate([np.zeros(4, int), above[:-4]])
        guess = left + above - corner
        near = np.where(
            (abs(guess - left) <= abs(guess - above)) & (abs(guess - left) <= abs(guess - corner)),
            left,
            np.where(abs(guess - above) <= abs(guess - corner), above, corner),
        )
        taken = {0: 0, 1: left, 2: above, 3: (left + above) // 2, 4: near}[kind]
        lines += bytes([kind]) + ((line - taken) % 256).astype(np.uint8).tobytes()
        above = line
    engine = zlib.compressobj(9, zlib.DEFLATED, -15)
    stream = engine.compress(lines) + engine.flush()

    def part(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    return (
        b"\x89PNG\r\n\x1a\n"
        + part(b"CgBI", b"\x50\0\x20\x02")
        + part(b"IHDR", struct.pack(">IIBBBBB", wide, high, 8, 6, 0, 0, 0))
        + part(b"IDAT", stream)
        + part(b"IEND", b"")
    )


@given(st.binary(max_size=60), st.integers(0, 2000), st.integers(0, 255))
def test_a_damaged_catalog_gives_none_or_some(data: bytes, at: int, byte: int) -> None:
    whole = bytearray(packaged.catalog(["AppIcon", "Ground", "Mark", "Logo"]))
    whole[at % len(whole)] = byte
    for damaged in (data, b"BOMStore" + data, bytes(whole), bytes(whole[:at])):
        assert isinstance(catalog_names(damaged), tuple)


# -- forms, written by hand


WORDS = st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\0"), max_size=300)


@given(st.data())
def test_tables_of_every_form_give_back_what_was_written(data: st.DataObject) -> None:
    locales = data.draw(st.lists(st.sampled_from(["", "de", "en-US", "sr-Latn", "fil", "pt-BR"]), min_size=1, max_size=4, unique=True))
    count = data.draw(st.integers(1, 12))
    texts_ = data.draw(st.lists(WORDS, min_size=1, max_size=5))
    types, wanted = [], {}
    for locale in locales:
        present = data.draw(st.sets(st.integers(0, count - 1)))
        entries = {}
        for number in present:
            value = data.draw(
                st.one_of(st.tuples(st.just(tables.STRING), st.integers(0, len(texts_) - 1)), st.tuples(st.just(tables.DECIMAL), st.integers(0, 2**32 - 1)))
            )
            entries[number] = tables.entry(number, *value, compact=data.draw(st.booleans()))
            text = texts_[value[1]] if value[0] == tables.STRING else ""
            wanted[number, locale] = Typed(*value, text)
        types.append(tables.type_chunk(1, entries, count, tables.config(locale), data.draw(st.sampled_from(["plain", "short", "sparse"]))))
    made = tables.table(texts_, ["string"], [f"key{number}" for number in range(count)], types, data.draw(st.booleans()))
    found = ResourceTable(made)
    held = {(number, config.locale): value for number in range(count) for config, value in found.values(0x7F010000 | number)}
    assert held == wanted
    present = {number for number, _ in wanted}
    assert found.named("string", frozenset({f"key{number}" for number in range(count)})) == {f"key{number}": 0x7F010000 | number for number in present}


FORMS = [
    *(("PNG", mode) for mode in ("RGB", "RGBA", "P", "L", "LA")), ("WEBP", "RGB"), ("WEBP", "RGBA"), ("JPEG", "RGB"), ("JPEG", "L"), ("GIF", "P"),
    ("GIF", "L"),
]  # fmt: skip


@given(
    st.lists(st.text(st.characters(codec="ascii", categories=["L", "N", "P"]), max_size=200), max_size=6),
    st.text(st.characters(codec="ascii", categories=["L"]), max_size=3),
)
def test_a_messages_texts_have_the_borders_that_their_lengths_tell(around: list[str], tail: str) -> None:
    """Whatever stands before and behind, a text is found whole: letters of a length or a mark are none of it."""
    said = f"org.lendspan.mossgate{tail}"
    body = b"".join(b"\x0a" + varint(len(text)) + text.encode() for text in [*around, said, *around])
    nested = b"\x12" + varint(len(body)) + body
    assert said in list(texts("base/resources.pb", nested, [b"org.lendspan.mossgate"]))


def varint(value: int) -> bytes:
    return bytes([value]) if value < 0x80 else bytes([value & 0x7F | 0x80, value >> 7])


def test_large_files_are_looked_at_round_what_is_sought() -> None:
    said = "org.lendspan.mossgate"
    noise = bytes(range(256)) * (40 << 12)
    for name, data in (
        ("lib/a.so", noise + b"\0" + said.encode() + b"\0" + noise),
        ("a.js", b"x" * (5 << 20) + b'"' + said.encode() + b'"' + b"y" * (5 << 20)),
    ):
        found = list(texts(name, data, [said.encode()]))
        assert any(said in text for text in found) and sum(map(len, found)) < 4000


@pytest.mark.parametrize("width", [12, 16])
def test_compiled_scripts_give_their_strings(width: int) -> None:
    said = ["global", "org.lendspan.mossgate", "Mössgate", "", "x" * 300, "☃ sheds"]
    assert list(texts("index.bundle", hermes(*said, width=width), [])) == said


def hermes(*strings: str, width: int = 16) -> bytes:
    """Return the outline of a compiled script: a header, the table of its strings, the strings without borders."""
    storage, table, overflow = b"", b"", b""
    for text in strings:
        wide = any(ord(letter) > 0xFF for letter in text)
        body = text.encode("utf-16-le" if wide else "latin-1")
        if len(text) < 0xFF:
            table += struct.pack("<I", len(text) << 24 | len(storage) << 1 | wide)
        else:
            table += struct.pack("<I", 0xFF << 24 | len(overflow) // 8 << 1 | wide)
            overflow += struct.pack("<II", len(storage), len(text))
        storage += body
    header = struct.pack("<QI20s", 0x1F1903C103BC1FC6, 96, b"") + struct.pack("<8I", 0, 0, 2, 1, 1, len(strings), len(overflow) // 8, len(storage))
    return header.ljust(128, b"\0") + b"\xee" * (2 * width + 8) + table + overflow + storage
