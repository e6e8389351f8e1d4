"""Make the small packages that the demo hands to the stand-ins, from the demo project as stamping makes it.

Run: python tools/demo_packages.py (needs Debian's aapt, android-framework-res, default-jdk-headless, openssl)
"""

from __future__ import annotations

import datetime
import plistlib
import re
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

import packaged  # noqa: E402 - the makers of packages stand with the tests
from onomaxis.brands.stamp import stamp  # noqa: E402
from onomaxis.demo import KEYSTORE, PASSWORD, copy_demo  # noqa: E402
from onomaxis.rehearsal.portal import Portal, issue, register_id  # noqa: E402
from onomaxis.tree import Tree  # noqa: E402
from onomaxis.writing.change import applied  # noqa: E402

TARGET = ROOT / "src" / "onomaxis" / "demo" / "packages"
FLAVOR, APP_ID, APPLE_ID = "alderbank", "org.lendspan.app.alderbank", "org.lendspan.app.alderbank"
MAIN, OWN = "android/app/src/main", f"android/app/src/{FLAVOR}"
DAY = datetime.date(2026, 5, 1)
LEVELS = (24, 35)
SERVICES = {
    "google_app_id": "1:100000000001:android:0000000000000001",
    "gcm_defaultSenderId": "100000000001",
    "project_id": "lendspan-demo",
}


def text(tree: Tree, path: str) -> str:
    """Return a file's text."""
    return (tree.read(path) or b"").decode("utf-8")


def strings(tree: Tree, folder: str, names: tuple[str, ...]) -> dict[str, str]:
    """Return strings of a folder by name; the flavor's count before the app's."""
    found: dict[str, str] = {}
    for source in (MAIN, OWN):
        body = (
            text(tree, f"{source}/res/{folder}/strings.xml")
            if tree.exists(f"{source}/res/{folder}/strings.xml")
            else ""
        )
        found |= {
            name: value
            for name, value in re.findall(r'<string name="([^"]+)"[^>]*>([^<]*)</string>', body)
            if name in names
        }
    return found


def resources(tree: Tree, services: dict[str, str]) -> dict[str, str | bytes]:
    """Return what a build of the flavor would link, as far as anything here looks at it."""
    names = ("app_name", "server", "login_id", "login_scheme", "ads_id", "loan_title")
    found: dict[str, str | bytes] = {
        "values/strings.xml": packaged.strings(**strings(tree, "values", names), **services)
    }
    for folder in ("values-de", "values-fr"):
        found[f"{folder}/strings.xml"] = packaged.strings(**strings(tree, folder, ("app_name",)))
    for source in (MAIN, OWN):
        for path in tree.files:
            folder, _, name = path.removeprefix(f"{source}/res/").partition("/")
            if path.startswith(f"{source}/res/") and (
                folder.startswith("mipmap") or (folder.startswith("drawable") and "ic_" in name)
            ):
                found[f"{folder}/{name}"] = tree.read(path) or b""
    colors: dict[str, str] = {}
    for source in (MAIN, OWN):
        path = f"{source}/res/values/colors.xml"
        colors |= (
            dict(re.findall(r'<color name="([^"]+)">([^<]*)</color>', text(tree, path))) if tree.exists(path) else {}
        )
    for source in (MAIN, OWN):
        path = f"{source}/res/values/ic_launcher_background.xml"
        colors |= (
            dict(re.findall(r'<color name="([^"]+)">([^<]*)</color>', text(tree, path))) if tree.exists(path) else {}
        )
    found["values/colors.xml"] = (
        "<resources>"
        + "".join(f'<color name="{name}">{value}</color>' for name, value in colors.items())
        + "</resources>"
    )
    return found


def manifest(tree: Tree, build: str) -> str:
    """Return the manifest that a build of the flavor would merge."""
    body = text(tree, f"{MAIN}/AndroidManifest.xml")
    inside = body[body.index("<activity") : body.index("</application>")].replace("${applicationId}", APP_ID)
    inside = inside.replace('android:name=".', 'android:name="org.lendspan.app.').replace(
        'android:parentActivityName=".', 'android:parentActivityName="org.lendspan.app.'
    )
    own = (
        re.findall(r"<provider.*?/>", text(tree, f"{OWN}/AndroidManifest.xml"), re.S)
        if tree.exists(f"{OWN}/AndroidManifest.xml")
        else []
    )
    before = "".join(re.findall(r"<uses-permission[^>]*/>", body))
    return packaged.manifest(
        APP_ID,
        build,
        "2.4.0",
        LEVELS,
        'android:label="@string/app_name" android:icon="@mipmap/ic_launcher"',
        inside + "".join(own),
        before,
    )


def bundle(folder: Path, tree: Tree, name: str, build: str, services: dict[str, str]) -> None:
    """Make a signed bundle."""
    made = packaged.make_bundle(folder, manifest(tree, build), resources(tree, services), name=name)
    packaged.run("jarsigner", "-keystore", folder / "lendspan" / KEYSTORE, "-storepass", PASSWORD, made, "release")
    (TARGET / name).write_bytes(made.read_bytes())


def ipa(tree: Tree) -> None:
    """Make the IPA."""
    _, profile = issue(register_id(Portal(), APPLE_ID), APPLE_ID, DAY)
    root = "Payload/Lendspan.app/"
    info = {
        "CFBundleIdentifier": APPLE_ID,
        "CFBundleDisplayName": "Alderbank Tools",
        "CFBundleShortVersionString": "2.4.0",
        "CFBundleVersion": "41",
        "DTPlatformVersion": "26.0",
        "CFBundleURLTypes": [{"CFBundleURLSchemes": ["lendspan"]}],
        "NSCameraUsageDescription": None,
        "MinimumOSVersion": "16.0",
    }
    files = packaged.app_files(root, info)
    large = next(path for path in tree.files if "-alderbank.appiconset/" in path and path.endswith(".png"))
    for edge, scale in ((120, 2), (180, 3)):
        files[f"{root}AppIcon60x60@{scale}x.png"] = packaged.scaled(tree.read(large) or b"", edge)
    del files[f"{root}AppIcon76x76@2x~ipad.png"]
    for path in tree.files:  # what the build's phase copies for the flavor
        if path.startswith(f"ios/Lendspan/{FLAVOR}/") and path.endswith(".lproj/InfoPlist.strings"):
            files[root + path.removeprefix(f"ios/Lendspan/{FLAVOR}/")] = tree.read(path) or b""
    files[f"{root}embedded.mobileprovision"] = profile
    files[f"{root}GoogleService-Info.plist"] = plistlib.dumps(
        plistlib.loads(tree.read("services/alderbank.plist") or b"")
    )
    packaged.make_ipa(TARGET, files, "alderbank-41.ipa")


def main() -> int:
    """Make all of them, or with the word ``ipa`` that one alone: it needs none of the tools."""
    TARGET.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        root = copy_demo(str(folder / "lendspan"), counter=True, brands=True)
        tree = Tree.open(root)
        tree = applied(tree, stamp(tree).changes)
        if sys.argv[1:] == ["ipa"]:
            ipa(tree)
            return 0
        mixed = {**SERVICES, "google_app_id": "1:100000000001:android:0000000000000003"}
        bundle(folder, tree, "alderbank-40.aab", "40", SERVICES)
        bundle(folder, tree, "alderbank-41.aab", "41", SERVICES)
        bundle(folder, tree, "alderbank-mixed.aab", "41", mixed)
        ipa(tree)
    return 0


if __name__ == "__main__":
    sys.exit(main())
