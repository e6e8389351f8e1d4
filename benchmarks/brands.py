"""How survey, check and stamp grow with the number of flavors of a white-label project: ratios, taken side by side.

Run: python benchmarks/brands.py [FLAVORS ...] (default 15 30 60 120)
"""

from __future__ import annotations

import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

# An installed program finds its modules compiled.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

RUNS = 3
HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n'


def settings(key: str, name: str, values: dict[str, str]) -> str:
    """Return the text of one build configuration."""
    inner = "".join(f'\t\t\t\t{k} = "{v}";\n' for k, v in sorted(values.items()))
    return (
        f"\t\t{key} /* {name} */ = {{\n\t\t\tisa = XCBuildConfiguration;\n\t\t\tbuildSettings = {{\n{inner}"
        f'\t\t\t}};\n\t\t\tname = "{name}";\n\t\t}};\n'
    )


def xcode(flavors: list[str]) -> str:
    """Return a project file with one app and an extension, two configurations per flavor."""
    names = [f"{kind}{mark}" for mark in ("", *(f"-{f}" for f in flavors)) for kind in ("Debug", "Release")]
    parts = ["// !$*UTF8*$!\n{\n\tobjects = {\n"]
    targets = {"App": "", "Widget": ".widget"}
    lists = {"L0": []}
    for number, name in enumerate(names):
        key = f"A0{number:022d}"
        parts.append(
            settings(key, name, {"SDKROOT": "iphoneos", "MARKETING_VERSION": "1.2", "CURRENT_PROJECT_VERSION": "7"})
        )
        lists["L0"].append(key)
        for at, suffix in enumerate(targets.values(), 1):
            flavor = name.partition("-")[2]
            key = f"B{at}{number:022d}"
            values = {
                "PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{flavor or 'app'}{suffix}",
                "INFOPLIST_FILE": "App/Info.plist",
                "APP_NAME": (flavor or "Lendspan").title(),
                "SERVER": f"{flavor}.lendspan.org",
            }
            parts.append(settings(key, name, values))
            lists.setdefault(f"L{at}", []).append(key)
    for key, members in lists.items():
        inner = "".join(f"\t\t\t\t{item},\n" for item in members)
        parts.append(
            f"\t\t{key} = {{\n\t\t\tisa = XCConfigurationList;\n\t\t\tbuildConfigurations = (\n{inner}\t\t\t);\n\t\t}};\n"
        )
    for at, target in enumerate(targets, 1):
        kind = "app-extension" if target == "Widget" else "application"
        parts.append(
            f"\t\tT{at} /* {target} */ = {{\n\t\t\tisa = PBXNativeTarget;\n\t\t\tbuildConfigurationList = L{at};\n"
            f'\t\t\tname = {target};\n\t\t\tproductType = "com.apple.product-type.{kind}";\n\t\t}};\n'
        )
    parts.append("\t\tG0 = {\n\t\t\tisa = PBXGroup;\n\t\t\tchildren = ();\n\t\t};\n")
    parts.append(
        "\t\tP0 = {\n\t\t\tisa = PBXProject;\n\t\t\tbuildConfigurationList = L0;\n\t\t\tmainGroup = G0;\n\t\t\ttargets = (T1, T2);\n\t\t};\n"
    )
    return "".join(parts) + "\t};\n\trootObject = P0;\n}\n"


def make(root: Path, count: int) -> None:
    """Write a project for two platforms with *count* flavors, each with strings, colours and service files."""
    flavors = [f"town{number:03d}" for number in range(count)]

    def write(path: str, text: str) -> None:
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text, "utf-8")

    blocks = "".join(
        f'        create("{f}") {{\n            dimension = "town"\n            applicationId = "org.lendspan.{f}"\n        }}\n'
        for f in flavors
    )
    write("settings.gradle.kts", 'include(":app")\n')
    write(
        "app/build.gradle.kts",
        (
            'plugins { id("com.android.application") }\n\nandroid {\n    namespace = "org.lendspan.app"\n    defaultConfig {\n'
            '        applicationId = "org.lendspan.app"\n        versionCode = 7\n        versionName = "1.2"\n    }\n'
            f'    flavorDimensions += "town"\n    productFlavors {{\n{blocks}    }}\n}}\n'
        ),
    )
    write(
        "app/src/main/AndroidManifest.xml",
        (
            '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
            '    <application android:label="@string/app_name"/>\n</manifest>\n'
        ),
    )
    strings = '<resources>\n    <string name="app_name">{}</string>\n    <string name="server">{}</string>\n    <color name="brand">#{}</color>\n</resources>\n'
    write("app/src/main/res/values/strings.xml", strings.format("Lendspan", "lend", "112233"))
    write("ios/App.xcodeproj/project.pbxproj", xcode(flavors))
    write(
        "ios/App/Info.plist",
        HEAD + "\t<key>CFBundleDisplayName</key>\n\t<string>$(APP_NAME)</string>\n</dict>\n</plist>\n",
    )
    toml = [
        'format = 1\n\n[values.server]\nvalue = "lend"\nplaces = [{ resource = "string/server" }]\n\n'
        '[values.brand]\ntype = "color"\nvalue = "#112233"\nplaces = [{ resource = "color/brand" }]\n\n'
        '[values.host]\ntemplate = "{server}.lendspan.org"\nplaces = [{ setting = "SERVER" }]\n'
    ]
    for number, flavor in enumerate(flavors):
        color = f"{number * 1117 % 0xFFFFFF:06X}"
        write(f"app/src/{flavor}/res/values/strings.xml", strings.format(flavor.title(), flavor, color))
        client = {"client_info": {"android_client_info": {"package_name": f"org.lendspan.{flavor}"}}}
        write(
            f"app/src/{flavor}/google-services.json",
            json.dumps({"project_info": {"project_number": "1"}, "client": [client]}),
        )
        write(
            f"ios/App/{flavor}/GoogleService-Info.plist",
            HEAD + f"<key>BUNDLE_ID</key>\n<string>org.lendspan.{flavor}</string>\n</dict>\n</plist>\n",
        )
        toml.append(
            f'\n[flavors.{flavor}]\nid = "org.lendspan.{flavor}"\nname = "{flavor.title()}"\n'
            f'values = {{ server = "{flavor}", brand = "#{color}" }}\n'
        )
    write("onomaxis.toml", "".join(toml))


def seconds(root: Path, *words: str) -> float:
    """Return the median wall time of a command."""
    times = []
    for _ in range(RUNS):
        start = time.perf_counter()
        done = subprocess.run(
            [sys.executable, "-m", "onomaxis", words[0], str(root), *words[1:]], capture_output=True, check=False
        )
        times.append(time.perf_counter() - start)
        if done.returncode not in (0, 1):
            sys.exit(done.stderr.decode())
    return statistics.median(times)


def main() -> None:
    """Print the time of each command for each number of flavors, per flavor and against the smallest."""
    counts = [int(word) for word in sys.argv[1:]] or [15, 30, 60, 120]
    found: dict[int, dict[str, float]] = {}
    for count in counts:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder) / "x"
            make(root, count)
            found[count] = {
                "survey": seconds(root, "survey", "--json"),
                "check": seconds(root, "check", "--json"),
                "stamp": seconds(root, "stamp", "--json", "--yes"),
            }
            text = (root / "onomaxis.toml").read_text()
            (root / "onomaxis.toml").write_text(text.replace('name = "T', 'name = "New T'))
            found[count]["stamp all names"] = seconds(root, "stamp", "--json", "--dry-run")
            shutil.rmtree(root)
    print(f"{'flavors':>8}" + "".join(f"{name:>22}" for name in found[counts[0]]))
    for count, times in found.items():
        print(
            f"{count:>8}" + "".join(f"{value:>10.2f} s {1000 * value / count:>6.1f} ms" for value in times.values())
        )
    first, last = counts[0], counts[-1]
    for name in found[first]:
        grown = found[last][name] / found[first][name]
        print(f"{name}: {last / first:.0f} times the flavors, {grown:.1f} times the time")


if __name__ == "__main__":
    main()
