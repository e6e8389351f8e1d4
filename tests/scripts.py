"""Build and configuration scripts in the styles that people use (tests/scripts/*.toml), each as a small project."""

from __future__ import annotations

import random
import re
import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

STRINGS = "app/src/main/res/values/strings.xml"
MANIFEST = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="{}" android:icon="@mipmap/ic_launcher"><activity android:name=".Main" android:exported="true"><intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter></activity></application></manifest>\n'
BUILD_TYPES = "buildTypes { release { minifyEnabled true } debug { applicationIdSuffix '.debug'\n versionNameSuffix '-debug' } }\n"
HEAD = "plugins { id 'com.android.application' }\nandroid {\n    namespace 'org.lendspan.app'\n    compileSdk 34\n    defaultConfig { applicationId 'org.lendspan.app'"
KOTLIN_HEAD = 'plugins { id("com.android.application") }\n'
KOTLIN_DEFAULT = 'android {\n    namespace = "org.lendspan.app"\n    compileSdk = 34\n    defaultConfig {\n        applicationId = "org.lendspan.app"\n'

Rows = Mapping[str, Mapping[str, Any]]


def rows(name: str) -> Rows:
    """Return a table of scripts. *untold*: what only a build knows, or what is not followed, is said so and null."""
    return tomllib.loads(Path(__file__).with_name("scripts").joinpath(f"{name}.toml").read_text("utf-8"))


def app(body: str, row: Mapping[str, Any], end: str = "") -> dict[str, str]:
    """Return a project of one app: its script, what names it; a name that the script makes (*generated*) has no string."""
    label = row.get("label", "@string/app_name")
    settings = 'include(":app")\n' if end else "include ':app'\n"
    found = {f"settings.gradle{end}": settings, f"app/build.gradle{end}": body, "app/src/main/AndroidManifest.xml": MANIFEST.format(label)}
    if not row.get("generated"):
        found[STRINGS] = '<resources><string name="app_name">Lendspan</string></resources>\n'
    return {**found, **row.get("files", {})}


def groovy_value(row: Mapping[str, Any]) -> dict[str, str]:
    other = "versionCode 41" if row["said"].startswith("versionName") else "versionName '1'"
    return app(f"{row.get('before', '')}{HEAD}\n        {other}\n        {row['said']}\n    }}\n}}\n", row)


def groovy_flavors(row: Mapping[str, Any]) -> dict[str, str]:
    return app(f"{row.get('before', '')}{HEAD}; versionCode 41; versionName '2.4' }}\n    flavorDimensions 'brand'\n{row['said']}\n}}\n", row)


def groovy_names(row: Mapping[str, Any]) -> dict[str, str]:
    label = "${appName}" if "resValue" not in row["default"] else "@string/app_name"
    own = f"{row.get('before', '')}{HEAD}; versionCode 41; versionName '2.4'\n        {row['default']}\n    }}\n"
    return app(
        f"{own}    flavorDimensions 'brand'\n    productFlavors {{\n{row['said']}\n    }}\n{row.get('more', '')}\n}}\n", {"label": label, "generated": True}
    )


def kotlin_small(row: Mapping[str, Any]) -> dict[str, str]:
    own = f"{KOTLIN_DEFAULT}        versionCode = {row['build']}\n        versionName = {row['version']}\n    }}\n"
    return app(f"{KOTLIN_HEAD}{row.get('before', '')}\n{own}{row.get('said', '')}\n}}\n", {"label": "Lend", "generated": True}, ".kts")


# Whole projects, and small ones: of a table, what makes one of each row.
GROOVY = {name: app(row["script"].replace("BUILD_TYPES", BUILD_TYPES), row) for name, row in rows("groovy").items()}
SMALL = {name: make(row) for make in (groovy_value, groovy_flavors, groovy_names) for name, row in rows(make.__name__).items()}
KOTLIN = {name: app(row["script"], row, ".kts") for name, row in rows("kotlin").items()} | {
    name: kotlin_small(row) for name, row in rows("kotlin_small").items()
}


def dressed(text: str, seed: str) -> str:
    """Return a script as somebody else lays it out: quotes, tabs, line ends, comments that look like code; as it is without a seed."""
    if not seed:
        return text
    chance = random.Random(seed)
    quotes = chance.random() < 0.5
    found = []
    for line in text.split("\n"):
        if quotes and '"' not in line:
            line = re.sub(r"'([^']*)'", lambda found: found[0] if set(found[1]) & set("$\\/") else f'"{found[1]}"', line)
        said = line.replace("    ", "\t") if chance.random() < 0.3 else line
        plain = said.strip() and not said.rstrip().endswith(("+", "*", "(", "\\", ",")) and "//" not in said
        if plain and chance.random() < 0.2:
            said += chance.choice(["  // applicationId 'org.decoy'", " /* versionCode 99 { */", " // } it's"])
        found.append(said)
        if line.rstrip().endswith(("{", "}")) and chance.random() < 0.1:
            found.append(chance.choice(["", "   ", "// productFlavors { decoy { } }", "/* { ' \" */"]))
    return "\n".join(found).replace("\n", "\r\n" if chance.random() < 0.3 else "\n")


def dressed_markup(text: str, seed: str) -> str:
    """Return XML as somebody else lays it out: quotes, tabs, attributes on lines of their own, comments with decoys, line ends."""
    if not seed:
        return text
    chance = random.Random(seed)
    if chance.random() < 0.5:
        text = re.sub(r"""=(?:"([^"'<>]*)"|'([^"'<>]*)')""", lambda found: f"='{found[1]}'" if found[1] is not None else f'="{found[2]}"', text)
    found = []
    for line in text.split("\n"):
        said = line.replace("    ", "\t") if chance.random() < 0.3 else line
        if said.lstrip().startswith("<widget ") and chance.random() < 0.5:
            said = re.sub(r" (?=[\w:-]+=)", "\n        ", said)
        found.append(said)
        if line.endswith("/>") and chance.random() < 0.4:
            found.append(
                chance.choice(["", "<!-- <name>Decoy</name> -->", '<!-- <widget id="org.decoy" version="9"> -->', "<description>id='org.decoy'</description>"])
            )
    return "\n".join(found).replace("\n", "\r\n" if chance.random() < 0.3 else "\n")
