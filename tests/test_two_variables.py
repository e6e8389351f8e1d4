"""A configuration that is a script and asks the environment twice: for the brand, and for what the build is for."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest

from conftest import files, judge, onomaxis, snapshot
from onomaxis.identity.schema import NAME

PACKAGE = '{\n  "name": "lendspan",\n  "dependencies": { "expo": "54.0.0" }\n}\n'
TABLE = """const brands = {
  alderbank: { name: 'Alderbank', id: 'org.lendspan.alderbank', supportEmail: 'help@alderbank.example' },
  mossgate: { name: 'Mossgate', id: 'org.lendspan.mossgate', supportEmail: 'help@mossgate.example' },
}"""
BODY = """
module.exports = () => ({
  name: IS_DEV ? `${brand.name} (Dev)` : brand.name,
  slug: 'lendspan',
  version: '2.3.0',
  ios: { bundleIdentifier: IS_DEV ? `${brand.id}.dev` : brand.id, buildNumber: '12' },
  android: { package: IS_DEV ? `${brand.id}.dev` : brand.id, versionCode: 12 },
});
"""
DEV = "const IS_DEV = process.env.APP_ENV === 'development';\n"
# How the brand is asked for, and how its entry is taken; a script's name.
ASKED = {
    "a default": ("const BRAND = process.env.APP_BRAND ?? 'alderbank';\n", "const brand = brands[BRAND];\n", "js"),
    "or": ("const BRAND = process.env.APP_BRAND || 'alderbank';\n", "const brand = brands[BRAND];\n", "js"),
    "in typed code": ("const BRAND = process.env.APP_BRAND ?? 'alderbank';\n", "const brand = brands[BRAND as keyof typeof brands];\n", "ts"),
    "checked": ("const BRAND = (process.env.APP_BRAND ?? 'alderbank') as string;\n", "const brand = brands[BRAND satisfies string];\n", "ts"),
}
PROFILES = {"build": {name: {"env": {"APP_BRAND": name, "APP_ENV": "production"}, "channel": name} for name in ("alderbank", "mossgate")}}


def project(folder: Path, way: str) -> tuple[Path, str]:
    """Return the project and the name of its script."""
    asked, taken, ending = ASKED[way]
    table = f"{TABLE} as const" if ending == "ts" else TABLE
    name = f"app.config.{ending}"
    return files(folder, {"package.json": PACKAGE, "build.json": json.dumps(PROFILES, indent=2), name: f"{asked}{DEV}{table};\n{taken}{BODY}"}), name


def apps(root: Path) -> dict[str, tuple[str, str]]:
    found = onomaxis("survey", root, "--json").json["apps"]
    told = {platform: {app["flavor"]: (app["id"], app["name"]) for app in found if app["platform"] == platform} for platform in ("android", "ios")}
    assert told["android"] == told["ios"]
    return told["ios"]


def brand(name: str, shown: str = "", own: str = "") -> tuple[str, str]:
    return own or f"org.lendspan.{name}", shown or name.title()


def dev(one: tuple[str, str]) -> tuple[str, str]:
    return f"{one[0]}.dev", f"{one[1]} (Dev)"


@pytest.mark.parametrize("way", ASKED)
def test_combinations_are_called_as_builds_call_them(tmp_path: Path, way: str) -> None:
    """Each variable's variants are read, and both together; adopting names what can be chosen and changes nothing."""
    root, _ = project(tmp_path, way)
    alder, moss = brand("alderbank"), brand("mossgate")
    assert apps(root) == {"": alder, "mossgate": moss, "development": dev(alder), "developmentMossgate": dev(moss)}
    done = onomaxis("adopt", root)
    assert done.code == 0, done.err
    assert "[flavors.mossgate]" in (root / NAME).read_text() and "developmentMossgate" not in (root / NAME).read_text()
    assert onomaxis("stamp", root, "--json").json["files"] == []


def test_the_last_brand_beside_the_apps_own_goes(tmp_path: Path) -> None:
    """An entry that the environment asks for is a brand's, though nothing but the app's own stands beside it."""
    root, script = project(tmp_path, "a default")
    assert onomaxis("flavor", "retire", "mossgate", root).code == 0
    assert "mossgate" not in (root / script).read_text() and "mossgate" not in (root / "build.json").read_text()
    assert set(apps(root)) == {"", "development"}


@pytest.mark.processes
def test_the_runtime_says_the_same(tmp_path: Path) -> None:
    """What is surveyed after a change is what the script gives to the framework's tools."""
    root, script = project(tmp_path, "a default")
    assert onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--shown", "Pennywick").code == 0
    assert onomaxis("rename", root, "--flavor", "mossgate", "--name", "Moss").code == 0
    code = f"const c = require('./{script}')(); console.log(JSON.stringify([c.ios.bundleIdentifier, c.name]))"
    for flavor, told in apps(root).items():
        env = {"APP_ENV": "development"} if flavor.startswith("development") else {}
        rest = flavor.removeprefix("development").lower()
        env |= {"APP_BRAND": rest} if rest else {}
        said = subprocess.run([judge("node"), "-e", code], cwd=root, env=env, capture_output=True, text=True, check=True)
        assert tuple(json.loads(said.stdout)) == told


def test_a_variant_that_cannot_be_told(tmp_path: Path) -> None:
    """Where the ID is computed, the refusal says where and why, and nothing is written."""
    root, script = project(tmp_path, "a default")
    path = root / script
    path.write_text(path.read_text().replace("brands[BRAND]", "pick(BRAND)"))
    before = snapshot(root)
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick")
    assert done.code == 3 and f"{script}:" in done.err and "could not be determined" in done.err and "None" not in done.err
    assert snapshot(root) == before


# A file that holds each brand's entries, the value's place in it.
SHARED = {
    "brands.json": ('{{ "brands": {{ "alderbank": {{ "apiUrl": "{0}" }}, "mossgate": {{ "apiUrl": "{1}" }} }} }}\n', 'pointer = "/brands/{flavor}/apiUrl"'),
    "src/brands.ts": (
        "export const brands = {{\n  alderbank: {{ apiUrl: '{0}' }},\n  mossgate: {{ apiUrl: '{1}' }},\n}};\n",
        'constant = "brands.{flavor}.apiUrl"',
    ),
}
FLAVORED = """plugins { id "com.android.application" }
android {
    namespace "org.lendspan"
    defaultConfig { applicationId "org.lendspan" }
    flavorDimensions "brand"
    productFlavors {
        alderbank { applicationId "org.lendspan.alderbank" }
        mossgate { applicationId "org.lendspan.mossgate" }
    }
}
"""


@pytest.mark.parametrize("path", SHARED)
def test_entries_of_flavors_in_one_file(tmp_path: Path, path: str) -> None:
    """Where each flavor has an entry in a file of all, the place names the flavor; each is read and written apart."""
    text, place = SHARED[path]
    urls = ["https://alderbank.example", "https://mossgate.example"]
    contents = {
        "settings.gradle": "include ':app'\n",
        "app/build.gradle": FLAVORED,
        "app/src/main/AndroidManifest.xml": "<manifest/>\n",
        path: text.format(*urls),
    }
    root = files(tmp_path, contents)
    done = onomaxis("adopt", root, "--values")
    assert done.code == 0, done.err
    identity = root / NAME
    assert f'[values.api-url]\nplaces = [{{ {place}, file = "{path}" }}]' in identity.read_text()
    assert onomaxis("stamp", root, "--json").json["files"] == []
    identity.write_text(identity.read_text().replace(urls[1], "https://moss.example"))
    assert onomaxis("stamp", root).code == 0
    assert (root / path).read_text() == text.format(urls[0], "https://moss.example")
    (root / path).write_text(text.format("https://wrong.example", "https://moss.example"))
    [found] = [item for item in onomaxis("check", root, "--json").json["findings"] if item["code"].startswith("VALUE")]
    assert "alderbank" in found["message"] and found["at"][0]["file"] == path
    identity.write_text(identity.read_text() + '\n[flavors.pennywick.values]\napi-url = "https://pennywick.example"\n')
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick")
    assert done.code == 0, done.err
    done = onomaxis("stamp", root)
    assert done.code == 2 and "pennywick" in done.err and path in done.err
    identity.write_text(identity.read_text().replace(f'file = "{path}" }}', f'file = "{path}", create = true }}'))
    done = onomaxis("stamp", root)
    if path.endswith(".json"):  # a member is made where it is missing, a constant is not
        assert done.code == 0, done.err
        assert json.loads((root / path).read_text())["brands"]["pennywick"] == {"apiUrl": "https://pennywick.example"}
        assert onomaxis("stamp", root, "--json").json["files"] == []
    else:
        assert done.code == 2
