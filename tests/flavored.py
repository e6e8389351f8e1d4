"""Flavored projects put together at random: how flavors are declared, named, mapped; what each is called is known.

As in :mod:`compositions`, nothing here knows how the program reads: the seed decides, the texts are written out.
"""

from __future__ import annotations

import json
import random
from dataclasses import dataclass, field

from compositions import NS, STARTS, chosen, encoded, plist
from conftest import THOROUGH
from xcode import pbxproj, standing_on

BRANDS = {"alderbank": ("org.lendspan.alderbank", "Alderbank"), "mossgate": ("org.lendspan.mossgate", "Mossgate")}
App = tuple[str, str, str, str]  # platform, flavor, ID, name


@dataclass
class Flavored:
    """A project, what ships from it, how it was put together."""

    dice: random.Random
    files: dict[str, bytes] = field(default_factory=dict)
    apps: list[App] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    configurations: list[str] = field(default_factory=list)

    def pick(self, label: str, *ways: str) -> str:
        found = self.dice.choice(ways)
        self.said.append(f"{label}={found}")
        return found

    def put(self, path: str, text: str, how: str = "utf-8") -> None:
        self.files[path] = encoded(text, how)


# -- Android: each style gives the lines of ``productFlavors``; {0} and {1} are the flavors

KOTLIN = {
    "create": ['create("{0}") {{', '    dimension = "brand"', '    applicationIdSuffix = ".{0}"', "}}", 'create("{1}") {{', '    dimension = "brand"', '    applicationIdSuffix = ".{1}"', "}}"],
    "register": ['register("{0}") {{', '    dimension = "brand"', '    applicationIdSuffix = ".{0}"', "}}", 'register("{1}") {{', '    dimension = "brand"', '    applicationIdSuffix = ".{1}"', "}}"],
    "delegate": ["val {0} by creating {{", '    dimension = "brand"', '    applicationIdSuffix = ".{0}"', "}}", "val {1} by creating {{", '    dimension = "brand"', '    applicationIdSuffix = ".{1}"', "}}"],
    "apply": ['create("{0}").apply {{', '    dimension = "brand"', '    applicationIdSuffix = ".{0}"', "}}", 'maybeCreate("{1}").apply {{', '    dimension = "brand"', '    applicationIdSuffix = ".{1}"', "}}"],
    "own IDs": ['create("{0}") {{', '    dimension = "brand"', '    applicationId = "org.lendspan.{0}"', "}}", 'create("{1}") {{', '    dimension = "brand"', '    applicationId = "org.lendspan.{1}"', "}}"],
    "list": ['listOf("{0}", "{1}").forEach {{ name ->', "    create(name) {{", '        dimension = "brand"', '        applicationIdSuffix = ".$name"', "    }}", "}}"],
    "map": ['mapOf("{0}" to ".{0}", "{1}" to ".{1}").forEach {{ (name, suffix) ->', "    create(name) {{", '        dimension = "brand"', "        applicationIdSuffix = suffix", "    }}", "}}"],
    "records": ['listOf(Brand("{0}", suffix = ".{0}"), Brand("{1}", suffix = ".{1}")).forEach {{', "    create(it.name) {{", '        dimension = "brand"', "        applicationIdSuffix = it.suffix", "    }}", "}}"],
    "map of records": ['mapOf("{0}" to Brand("{0}", ".{0}"), "{1}" to Brand("{1}", ".{1}")).forEach {{ (name, brand) ->', "    create(name) {{", '        dimension = "brand"', "        applicationIdSuffix = brand.suffix", "    }}", "}}"],
    "for": ['for (name in listOf("{0}", "{1}")) {{', "    create(name) {{", '        dimension = "brand"', '        applicationIdSuffix = ".$name"', "    }}", "}}"],
    "each": ['create("{0}") {{', '    dimension = "brand"', "}}", 'create("{1}") {{', '    dimension = "brand"', "}}", "configureEach {{", '    applicationIdSuffix = ".$name"', "}}"],
}  # fmt: skip
GROOVY = {
    "bare": ["{0} {{", "    dimension 'brand'", "    applicationIdSuffix '.{0}'", "}}", "{1} {{", "    dimension 'brand'", "    applicationIdSuffix '.{1}'", "}}"],
    "quoted": ["'{0}' {{", "    dimension 'brand'", "    applicationIdSuffix '.{0}'", "}}", '"{1}" {{', "    dimension 'brand'", "    applicationIdSuffix '.{1}'", "}}"],
    "create": ["create('{0}') {{", "    dimension = 'brand'", "    applicationIdSuffix = '.{0}'", "}}", "register('{1}') {{", "    dimension = 'brand'", "    applicationIdSuffix = '.{1}'", "}}"],
    "closure": ["{0} {{ flavor ->", "    flavor.dimension 'brand'", "    flavor.applicationIdSuffix '.{0}'", "}}", "{1} {{", "    it.dimension 'brand'", "    it.applicationIdSuffix = '.{1}'", "}}"],
    "list": ["['{0}', '{1}'].each {{ name ->", '    "$name" {{', "        dimension 'brand'", '        applicationIdSuffix ".${{name}}"', "    }}", "}}"],
    "map": ["[{0}: '.{0}', {1}: '.{1}'].each {{ name, suffix ->", "    create(name) {{", "        dimension 'brand'", "        applicationIdSuffix suffix", "    }}", "}}"],
    "nested map": ["[{0}: [suffix: '.{0}'], {1}: [suffix: '.{1}']].each {{ name, brand ->", "    create(name) {{", "        dimension 'brand'", "        applicationIdSuffix brand.suffix", "    }}", "}}"],
    "all": ["{0} {{", "    dimension 'brand'", "}}", "{1} {{", "    dimension 'brand'", "}}", "all {{ flavor ->", '    flavor.applicationIdSuffix = ".${{flavor.name}}"', "}}"],
}  # fmt: skip


def android(p: Flavored, folder: str, version: str, code: str) -> None:
    """An Android app with two brands, in one dimension or two."""
    kotlin = p.pick("script", "kotlin", "groovy") == "kotlin"
    styles = KOTLIN if kotlin else GROOVY
    style = p.pick("style", *styles)
    lines = [line.format(*BRANDS) for line in styles[style]]
    dimensions = p.pick("dimensions", "one", "one", "two", "declared last")
    tiers = ["free", "plus"] if dimensions == "two" and style not in ("all", "each") else []
    equals = " = " if kotlin else " "
    for tier in tiers:
        head = f'create("{tier}") {{' if kotlin else f"{tier} {{"
        quote = '"' if kotlin else "'"
        inner = [f"    dimension{equals}{quote}tier{quote}"]
        inner += [f"    applicationIdSuffix{equals}{quote}.plus{quote}"] if tier == "plus" else []
        lines += [head, *inner, "}"]
    declared = (
        ('flavorDimensions += listOf("brand", "tier")' if kotlin else "flavorDimensions 'brand', 'tier'")
        if tiers
        else ('flavorDimensions += "brand"' if kotlin else "flavorDimensions 'brand'")
    )
    block = ["productFlavors {", *(f"    {line}" for line in lines), "}"]
    body = [*block, declared] if dimensions == "declared last" else [declared, *block]
    suffix = ".kts" if kotlin else ""
    plugin = 'plugins { id("com.android.application") }' if kotlin else "apply plugin: 'com.android.application'"
    at = f"{folder}/" if folder else ""
    inner = [
        f'namespace{equals}"org.lendspan"',
        "defaultConfig {",
        f'    applicationId{equals}"org.lendspan"',
        f"    versionName{equals}{version}",
        f"    versionCode{equals}{code}",
        "}",
        *body,
    ]
    record = "data class Brand(val name: String, val suffix: String)\n\n" if "Brand(" in "".join(body) else ""
    script = f"{plugin}\n\n{record}android {{\n" + "".join(f"    {line}\n" for line in inner) + "}\n"
    p.put(f"{at}app/build.gradle{suffix}", script, p.pick("bytes", "utf-8", "crlf"))
    p.put(f"{at}settings.gradle{suffix}", 'include(":app")\n' if kotlin else "include ':app'\n")
    p.put(
        f"{at}app/src/main/AndroidManifest.xml",
        f'<manifest {NS}>\n    <application android:label="@string/app_name">\n        <activity android:name=".Main">\n{STARTS}        </activity>\n    </application>\n</manifest>\n',
    )
    p.put(f"{at}app/src/main/res/values/strings.xml", '<resources>\n    <string name="app_name">Lend</string>\n</resources>\n')
    p.put(f"{at}app/src/main/java/org/lendspan/Main.kt", "package org.lendspan\n\nclass Main\n")
    names = p.pick("names", "strings", "none")
    for flavor, (id_, shown) in BRANDS.items():
        if names == "strings":
            p.put(f"{at}app/src/{flavor}/res/values/strings.xml", f'<resources>\n    <string name="app_name">{shown}</string>\n</resources>\n')
        called = shown if names == "strings" else "Lend"
        if not tiers:
            p.apps.append(("android", flavor, id_, called))
        for tier in tiers:
            joined = flavor + tier.title()
            p.apps.append(("android", joined, id_ + (".plus" if tier == "plus" else ""), called))


# -- Apple

NAMING = {"dash": "{type}-{flavor}", "space": "{flavor} {type}", "camel": "{flavor}{type}", "bracket": "{type} ({flavor})", "under": "{type}_{flavor}"}
PODFILES = {
    "none": "",
    "lines": "platform :ios, '15.0'\n\nproject 'Lend',\n{pairs}\n\ntarget 'Lend' do\nend\n",
    "one line": "project 'Lend', {flat}\ntarget 'Lend' do\nend\n",
    "braces": "project 'Lend', {{\n{pairs}\n}}\n\ntarget 'Lend' do\nend\n",
    "quotes": 'project "Lend", {double}\n\ntarget "Lend" do\nend\n',
}


def apple(p: Flavored, folder: str, target: str, version: dict[str, str]) -> None:
    """An Xcode app with two brands: beside plain configurations, or in flavors alone."""
    naming, alone = NAMING[p.pick("naming", *NAMING)], p.pick("plain", "yes", "no") == "no"
    types = ["Debug", "Release", *(["Profile"] if p.pick("profile", "yes", "no") == "yes" else [])]
    plain = [] if alone else types
    names = {(type_, flavor): naming.format(type=type_, flavor=flavor) for flavor in BRANDS for type_ in types}
    p.configurations = [*plain, *names.values()]
    debug = p.pick("debug ID", "", ".debug")
    base = {"PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": f"{target}/Info.plist", **version}
    settings = {type_: {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan" + (debug if type_ == "Debug" else ""), "SHOWN": "Lend"} for type_ in plain}
    for (type_, flavor), name in names.items():
        id_, shown = BRANDS[flavor]
        settings[name] = {
            "PRODUCT_BUNDLE_IDENTIFIER": id_ + (debug if type_ == "Debug" else ""),
            "SHOWN": shown,
            "ASSETCATALOG_COMPILER_APPICON_NAME": f"AppIcon-{flavor}",
        }
    at = f"{folder}/" if folder else ""
    level = p.pick("files", "none", "target", "project", "each configuration's") if alone else "none"
    if level != "none":
        for flavor, (id_, shown) in BRANDS.items():
            p.put(f"{at}Config/{flavor}.xcconfig", f"BRAND = {id_}\nSHOWN = {shown}\nHOST = https:/$()/{flavor}.example\n", p.pick("settings", "utf-8", "crlf"))
            for type_ in types if level == "each configuration's" else ():
                p.put(f"{at}Config/{type_}-{flavor}.xcconfig", f'#include "{flavor}.xcconfig"\nKIND = {type_}\n')
        for (type_, _), name in names.items():
            del settings[name]["SHOWN"]
            settings[name]["PRODUCT_BUNDLE_IDENTIFIER"] = "$(BRAND)" + (debug if type_ == "Debug" else "")
    text = pbxproj(p.configurations, {"SDKROOT": "iphoneos"}, {target: ("app", {"*": base, **settings})}, {target: target})
    if level != "none":
        bases = {
            name: f"Config/{type_}-{flavor}.xcconfig" if level == "each configuration's" else f"Config/{flavor}.xcconfig"
            for (type_, flavor), name in names.items()
        }
        text = standing_on(text, bases, 1 if level == "target" else 0)
    release = names["Release", next(iter(BRANDS))]
    text = text if plain else text.replace("defaultConfigurationName = Release;", f'defaultConfigurationName = "{release}";')
    p.put(f"{at}{target}.xcodeproj/project.pbxproj", text)
    listed = {"CFBundleDisplayName": "$(SHOWN)", "CFBundleShortVersionString": "$(MARKETING_VERSION)", "CFBundleVersion": "$(CURRENT_PROJECT_VERSION)"}
    p.put(f"{at}{target}/Info.plist", plist(listed), p.pick("plist", "utf-8", "crlf"))
    pods = PODFILES[p.pick("podfile", *PODFILES)]
    if pods:
        pairs = [f"'{name}' => :{'debug' if 'Debug' in name else 'release'}" for name in p.configurations]
        p.put(
            f"{at}Podfile",
            pods.replace("'Lend'", f"'{target}'")
            .replace('"Lend"', f'"{target}"')
            .format(pairs=",\n".join(f"  {pair}" for pair in pairs), flat=", ".join(pairs), double=", ".join(pairs).replace("'", '"')),
        )
    p.apps += [("ios", flavor, *BRANDS[flavor]) for flavor in BRANDS]
    p.apps += [] if alone else [("ios", "", "org.lendspan", "Lend")]


# -- kinds

OWN = {"MARKETING_VERSION": "1.2.0", "CURRENT_PROJECT_VERSION": "7"}


def native_android(p: Flavored) -> None:
    android(p, "", '"1.2.0"', "7")


def native_apple(p: Flavored) -> None:
    apple(p, "", "Lend", OWN)


def both(p: Flavored) -> None:
    android(p, "android", '"1.2.0"', "7")
    apple(p, "ios", "Lend", OWN)


def flutter(p: Flavored) -> None:
    android(p, "android", "flutter.versionName", "flutter.versionCode")
    apple(p, "ios", "Runner", {"MARKETING_VERSION": "$(FLUTTER_BUILD_NAME)", "CURRENT_PROJECT_VERSION": "$(FLUTTER_BUILD_NUMBER)"})
    p.put("pubspec.yaml", "name: lend\nversion: 1.2.0+7\n\ndependencies:\n  flutter:\n    sdk: flutter\n")
    p.put("lib/main.dart", "void main() {}\n")


def react_native(p: Flavored) -> None:
    both(p)
    p.put("app.json", json.dumps({"name": "Lend", "displayName": "Lend"}, indent=2) + "\n")
    p.put("package.json", json.dumps({"name": "lend", "dependencies": {"react-native": "0.80.0"}}, indent=2) + "\n")
    p.put("index.js", "import {name} from './app.json';\nAppRegistry.registerComponent(name, () => App);\n")


KINDS = {"android": (native_android, 50), "apple": (native_apple, 50), "both": (both, 20), "flutter": (flutter, 20), "react-native": (react_native, 16)}
ALL = [f"{kind}-{number}" for kind, (_, many) in KINDS.items() for number in range(many)]
# Those that reach a block of the program which no seed before them reaches.
REACHING = {"react-native": (0, 2), "apple": (0, 2, 3, 25), "android": (0, 1, 17, 37), "flutter": (0, 6, 17), "both": (0, 7, 8, 18)}


def flavored(seed: str) -> Flavored:
    """Return the project of *seed*."""
    made = Flavored(random.Random(f"flavored {seed}"))
    KINDS[seed.rsplit("-", 1)[0]][0](made)
    return made


SEEDS = ALL if THOROUGH else chosen({seed: flavored(seed).said for seed in ALL}, REACHING)
