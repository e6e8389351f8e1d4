"""Random projects whose identity is known because it was put there by this module, which knows nothing of the program.

A composition is written for any identity: written for the old one and for the new one it is the tree that a rename
starts from and the tree that it must lead to. What differs between the two follows; what does not (look-alikes,
names in other languages, a flavor's own ID) stays. All choices come from the seed alone.
"""

from __future__ import annotations

import json
import random
from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from xml.sax.saxutils import escape

from conftest import THOROUGH
from xcode import pbxproj


@dataclass(frozen=True)
class Called:
    """An identity."""

    id: str
    name: str
    version: str
    build: str

    @property
    def path(self) -> str:
        return self.id.replace(".", "/")

    @property
    def native(self) -> str:
        return self.id.replace(".", "_")


App = tuple[str, str, str, str, str, str]  # platform, flavor, ID, name, version, build


@dataclass
class Project:
    """A project in the making: *me* is what it is called, *first* what it was called when it was made."""

    me: Called
    first: Called
    dice: random.Random
    files: dict[str, str] = field(default_factory=dict)
    coded: dict[str, str] = field(default_factory=dict)
    apps: list[App] = field(default_factory=list)
    languages: dict[str, str] = field(default_factory=dict)
    names: set[str] = field(default_factory=set)
    said: list[str] = field(default_factory=list)
    app: str = ""

    def pick(self, label: str, *ways: str) -> str:
        """Choose one of several ways and remember it."""
        found = self.dice.choice(ways)
        self.said.append(f"{label}={found}")
        return found

    def coin(self, label: str) -> bool:
        return self.pick(label, "yes", "no") == "yes"

    def named(self, path: str) -> None:
        """Say that the shown name in *path* may be spelled otherwise after a change (escapes, CDATA)."""
        self.names.add(path)

    def data(self) -> dict[str, bytes]:
        return {path: encoded(text, self.coded.get(path, "utf-8")) for path, text in self.files.items()}


def encoded(text: str, how: str) -> bytes:
    """Return a text in one of the spellings that files have: an encoding, ``crlf``, or both."""
    if how.startswith("crlf"):
        text, how = text.replace("\n", "\r\n"), how.removeprefix("crlf").strip() or "utf-8"
    return text.encode(how)


# -- shown names, each with the ways in which an Android string may spell it

NAMES: list[tuple[str, list[str]]] = [
    ("Lend", ["Lend", "<![CDATA[Lend]]>", '<xliff:g id="brand" example="Lend">Lend</xliff:g>', '"Lend"', "&#76;end", "&brand;"]),
    ("Tom's Shed", ["Tom\\'s Shed", '"Tom\'s Shed"', "Tom\\u0027s Shed", "Tom&#39;s Shed".replace("&#39;", "\\&#39;")]),
    ("Nuts & Bolts", ["Nuts &amp; Bolts", "Nuts &#38; Bolts", "Nuts &#x26; Bolts", "<![CDATA[Nuts & Bolts]]>"]),
    ("Überlend «2»", ["Überlend «2»", "&#220;berlend «2»", "\\u00dcberlend «2»"]),
    ('The "Big" Shed', ['The \\"Big\\" Shed', "The &#92;&quot;Big\\&quot; Shed"]),
    ("@home", ["\\@home"]),
]


def string(p: Project, key: str, text: str) -> str:
    """Return the resource *key* that spells the shown name *text* in some way (the new name always plainly)."""
    ways = next((ways for name, ways in NAMES if name == text), [text])
    spelled = ways[p.dice.randrange(12) % len(ways)]
    return f'<string name="{key}">{spelled}</string>'


def resources(*lines: str) -> str:
    brand = '<!DOCTYPE resources [<!ENTITY brand "Lend">]>\n' if any("&brand;" in line for line in lines) else ""
    inner = "".join(f"    {line}\n" for line in lines)
    return f'<?xml version="1.0" encoding="utf-8"?>\n{brand}<resources xmlns:xliff="urn:oasis:names:tc:xliff:document:1.2">\n{inner}</resources>\n'


# -- values of Gradle scripts


@dataclass
class Script:
    """A module's build script in the making."""

    kotlin: bool
    imports: list[str] = field(default_factory=list)
    top: list[str] = field(default_factory=list)
    root: list[str] = field(default_factory=list)
    properties: list[str] = field(default_factory=list)
    catalog: list[str] = field(default_factory=list)
    config: dict[str, dict[str, str]] = field(default_factory=dict)
    kept: list[str] = field(default_factory=list)
    constants: list[str] = field(default_factory=list)
    shared: list[str] = field(default_factory=list)

    def set(self, key: str, expression: str) -> str:
        return f"{key} = {expression}" if self.kotlin else f"{key} {expression}"


Way = Callable[[Script, str, str, bool], str]


def _literal(_: Script, key: str, value: str, number: bool) -> str:
    return value if number else f'"{value}"'


def _local(s: Script, key: str, value: str, number: bool) -> str:
    s.top.append(f"{'val' if s.kotlin else 'def'} our{key} = {value if number else repr_(value)}")
    return f"our{key}"


def repr_(value: str) -> str:
    return f'"{value}"'


def _extra(s: Script, key: str, value: str, number: bool) -> str:
    text = value if number else repr_(value)
    if s.kotlin:
        s.root.append(f'extra["our{key}"] = {text}')
        return f'rootProject.extra["our{key}"] as {"Int" if number else "String"}'
    s.root.append(f"ext.our{key} = {text}")
    return f"rootProject.ext.our{key}"


def _property(s: Script, key: str, value: str, number: bool) -> str:
    s.properties.append(f"lend.{key}={value}")
    if s.kotlin:
        return f'providers.gradleProperty("lend.{key}").get()' + (".toInt()" if number else "")
    return f"project.property('lend.{key}')" + (".toInteger()" if number else "")


def _catalog(s: Script, key: str, value: str, number: bool) -> str:
    s.catalog.append(f'our{key} = "{value}"')
    return f"libs.versions.our{key}.get()" + ((".toInt()" if s.kotlin else ".toInteger()") if number else "")


def _json(s: Script, key: str, value: str, number: bool) -> str:
    if not s.config:
        s.imports.append("import groovy.json.JsonSlurper")
        s.top.append(
            'val config = JsonSlurper().parse(rootProject.file("config.json")) as Map<String, Any>'
            if s.kotlin
            else "def config = new JsonSlurper().parse(rootProject.file('config.json'))"
        )
    s.config.setdefault("app", {})[key] = value
    if s.kotlin:
        return f'(config["app"] as Map<String, Any>)["{key}"].toString()' + (".toInt()" if number else "")
    return f"config.app.{key}" + (" as int" if number else "")


def _kept(s: Script, key: str, value: str, number: bool) -> str:
    if not s.kept:
        s.imports.append("import java.util.Properties")
        s.top.append(
            'val kept = Properties().apply { load(rootProject.file("app.properties").inputStream()) }'
            if s.kotlin
            else "def kept = new Properties()\nrootProject.file('app.properties').withInputStream { kept.load(it) }"
        )
    s.kept.append(f"{key}={value}")
    if s.kotlin:
        return f'kept.getProperty("{key}")' + (".toInt()" if number else "")
    return f"kept['{key}']" + (".toInteger()" if number else "")


def _constant(s: Script, key: str, value: str, number: bool) -> str:
    s.constants.append(f"    const val {key.upper()} = {value if number else repr_(value)}")
    return f"Ids.{key.upper()}"


def _shared(s: Script, key: str, value: str, number: bool) -> str:
    text = value if number else repr_(value)
    if s.kotlin:
        s.shared.append(f'extra["from{key}"] = {text}')
        return f'extra["from{key}"] as {"Int" if number else "String"}'
    s.shared.append(f"ext.from{key} = {text}")
    return f"project.ext.from{key}"


WAYS: dict[str, Way] = {
    "literal": _literal,
    "local": _local,
    "extra": _extra,
    "property": _property,
    "catalog": _catalog,
    "json": _json,
    "kept": _kept,
    "constant": _constant,
    "shared": _shared,
}

# -- Android

NS = 'xmlns:android="http://schemas.android.com/apk/res/android"'
STARTS = (
    "            <intent-filter>\n"
    '                <action android:name="android.intent.action.MAIN"/>\n'
    '                <category android:name="android.intent.category.LAUNCHER"/>\n'
    "            </intent-filter>\n"
)


def android(p: Project, folder: str = "", version: tuple[str, str] | None = None) -> None:
    """An Android app below *folder*; *version* gives the expressions where a framework's file owns them."""
    me = p.me
    s = Script(p.coin("kts"))
    at = f"{folder}/" if folder else ""
    main = f"{at}app/src/main"
    lines = [s.set("applicationId", WAYS[p.pick("id", *WAYS)](s, "id", me.id, False))]
    if version:
        lines += [s.set("versionName", version[0]), s.set("versionCode", version[1])]
    else:
        lines += [
            s.set("versionName", WAYS[p.pick("version", *WAYS)](s, "version", me.version, False)),
            s.set("versionCode", WAYS[p.pick("build", *WAYS)](s, "build", me.build, True)),
        ]
    label, strings, more = _label(p, s)
    lines += more
    flavors, apps = _flavors(p, s, main, bool(version))
    suffix = ".gradle.kts" if s.kotlin else ".gradle"
    plugin = 'plugins {\n    id("com.android.application")\n}\n' if s.kotlin else "apply plugin: 'com.android.application'\n"
    inner = "".join(f"        {line}\n" for line in lines)
    space = s.set("namespace", repr_(me.id))
    own = 'apply(from = "../ids.gradle.kts")\n' if s.kotlin else "apply from: '../ids.gradle'\n"
    p.files[f"{at}app/build{suffix}"] = (
        "".join(f"{line}\n" for line in dict.fromkeys(s.imports))
        + ("\n" if s.imports else "")
        + plugin
        + (own if s.shared else "")
        + "\n"
        + "".join(f"{line}\n" for line in s.top)
        + f"\nandroid {{\n    {space}\n    defaultConfig {{\n{inner}    }}\n{flavors}}}\n"
    )
    p.coded[f"{at}app/build{suffix}"] = p.pick("script bytes", "utf-8", "crlf")
    p.files[f"{at}settings{suffix}"] = 'include(":app")\n' if s.kotlin else "include ':app'\n"
    if s.root or p.coin("root script"):
        p.files[f"{at}build{suffix}"] = "".join(f"{line}\n" for line in ["// the build's own", *s.root])
    if s.shared:
        p.files[f"{at}ids{suffix}"] = "".join(f"{line}\n" for line in s.shared)
    if s.properties:
        p.files[f"{at}gradle.properties"] = "# größte Zahl zuerst\norg.gradle.jvmargs=-Xmx2g\n" + "".join(f"{line}\n" for line in s.properties)
        p.coded[f"{at}gradle.properties"] = p.pick("property bytes", "utf-8", "latin-1", "crlf latin-1")
    if s.catalog:
        p.files[f"{at}gradle/libs.versions.toml"] = "[versions]\n" + "".join(f"{line}\n" for line in s.catalog) + "\n[libraries]\n"
    if s.config:
        p.files[f"{at}config.json"] = json.dumps({**s.config, "other": {"id": p.first.id + "2"}}, indent=2) + "\n"
    if s.kept:
        p.files[f"{at}app.properties"] = "".join(f"{line}\n" for line in s.kept)
    if s.constants:
        p.files[f"{at}buildSrc/src/main/kotlin/Ids.kt"] = "object Ids {\n" + "".join(f"{line}\n" for line in s.constants) + "}\n"
        p.files[f"{at}buildSrc/build.gradle.kts"] = "plugins {\n    `kotlin-dsl`\n}\n"
    p.files[f"{main}/res/values/strings.xml"] = resources(*strings, '<string name="other">Lend a hand</string>')
    p.coded[f"{main}/res/values/strings.xml"] = p.pick("string bytes", "utf-8", "utf-8-sig", "crlf")
    p.named(f"{main}/res/values/strings.xml")
    p.named(f"{main}/AndroidManifest.xml")
    p.named(f"{at}app/build{suffix}")
    _manifest(p, main, label)
    _code(p, at, main)
    p.apps += [("android", *app) for app in apps]


def _label(p: Project, s: Script) -> tuple[str, list[str], list[str]]:
    """Return the label attribute, the strings and the lines of ``defaultConfig`` that make the shown name."""
    text = p.me.name
    plain = escape(text, {'"': "&quot;"})
    quoted = text.replace("\\", "\\\\").replace('"', '\\"').replace("$", "\\$")
    way = p.pick("label", "string", "string", "chain", "chain in a language", "literal", "placeholder", "made")
    if way == "literal":
        return plain.replace("@", "\\@", 1) if plain.startswith("@") else plain, [], []
    if way == "placeholder":
        word = f'manifestPlaceholders["shown"] = "{quoted}"' if s.kotlin else f'manifestPlaceholders = [shown: "{quoted}", other: "x"]'
        return "${shown}", [], [word]
    if way == "made":
        form = p.pick("made", "plain", "named") if s.kotlin else "plain"
        call = f'resValue(type = "string", name = "shown", value = "{quoted}")' if form == "named" else f'resValue("string", "shown", "{quoted}")'
        return "@string/shown", [], [call]
    own = string(p, "app_name", text)
    if way == "string":
        if p.coin("translated"):
            p.languages["de"] = "Leihe"
            p.files["DE"] = resources('<string name="app_name">Leihe</string>')
        return "@string/app_name", [own], []
    if way == "chain in a language":
        p.languages["de"] = "Leihe"
        p.files["DE"] = resources('<string name="app_name">Leihe</string>')
    return "@string/shown_name", ['<string name="shown_name">@string/app_name</string>', own], []


def _flavors(p: Project, s: Script, main: str, framework: bool) -> tuple[str, list[tuple[str, str, str, str, str]]]:
    """Return the block of flavors, and what ships."""
    me = p.me
    way = p.pick("flavors", "none", "none", "suffix", "own", "version", "names")
    if way == "none":
        return "", [("", me.id, me.name, me.version, me.build)]
    made = '{}("{}") {{' if s.kotlin else "{1} {{"
    create = {"x": made.format("create", "free"), "y": made.format("create", "pro")}
    lines: dict[str, list[str]] = {"x": [s.set("dimension", '"tier"')], "y": [s.set("dimension", '"tier"')]}
    apps = {"x": ("free", me.id, me.name, me.version, me.build), "y": ("pro", me.id, me.name, me.version, me.build)}
    if way == "suffix":
        lines["y"].append(s.set("applicationIdSuffix", '".pro"'))
        apps["y"] = ("pro", f"{me.id}.pro", me.name, me.version, me.build)
    elif way == "own":
        lines["x"].append(s.set("applicationId", f'"{me.id}.free"'))
        lines["y"].append(s.set("applicationId", '"org.mossgate.tools"'))
        apps = {"x": ("free", f"{me.id}.free", *apps["x"][2:]), "y": ("pro", "org.mossgate.tools", *apps["y"][2:])}
    elif way == "version" and not framework:
        lines["y"].append(s.set("versionNameSuffix", '"-pro"'))
        apps["y"] = ("pro", me.id, me.name, f"{me.version}-pro", me.build)
    elif way == "names":
        p.files[main.removesuffix("main") + "pro/res/values/strings.xml"] = resources(
            '<string name="app_name">Lend Pro</string>', '<string name="shown">Lend Pro</string>'
        )
        label = next(item for item in p.said if item.startswith("label=")).removeprefix("label=")
        if label not in ("literal", "placeholder", "made"):
            apps["y"] = ("pro", me.id, "Lend Pro", me.version, me.build)
        elif label == "made":  # what a script makes of the app itself wins over a folder's? Duplicates: not built.
            del p.files[main.removesuffix("main") + "pro/res/values/strings.xml"]
    dimension = 'flavorDimensions += "tier"' if s.kotlin else 'flavorDimensions "tier"'
    blocks = "".join(f"        {create[key]}\n" + "".join(f"            {line}\n" for line in lines[key]) + "        }\n" for key in create)
    return f"    {dimension}\n    productFlavors {{\n{blocks}    }}\n", list(apps.values())


def _manifest(p: Project, main: str, label: str) -> None:
    me = p.me
    authority = p.pick("authority", "${applicationId}.files", "fixed")
    authority = f"{me.id}.files" if authority == "fixed" else authority
    entry = p.pick("class", ".ui.Main", "full")
    entry = f"{me.id}.ui.Main" if entry == "full" else entry
    p.files[f"{main}/AndroidManifest.xml"] = (
        f'<?xml version="1.0" encoding="utf-8"?>\n<manifest {NS}>\n'
        f'    <permission android:name="{me.id}.permission.READ"/>\n'
        '    <queries>\n        <package android:name="org.elsewhere"/>\n    </queries>\n'
        f'    <application android:label="{label}">\n        <activity android:name="{entry}" android:exported="true">\n{STARTS}'
        f'            <intent-filter>\n                <action android:name="{me.id}.action.OPEN"/>\n            </intent-filter>\n'
        f'        </activity>\n        <provider android:name=".ui.Files" android:authorities="{authority}"/>\n    </application>\n</manifest>\n'
    )
    translated = p.files.pop("DE", "")
    if translated:
        p.files[f"{main}/res/values-de/strings.xml"] = translated


def _code(p: Project, at: str, main: str) -> None:
    me, first = p.me, p.first
    java = p.coin("java")
    end, mark = (";", ".java") if java else ("", ".kt")
    kind = "java" if java or p.coin("kotlin below java") else "kotlin"
    text = "String" if java else "val"
    fields = {
        "ACTION": f"{me.id}.action.OPEN",
        "CLASS": f"{me.id}.ui.Files",
        "PATH": f"{me.path}/ui/Main",
        "NEAR": f"{first.id}2.ui",
        "DASH": f"{first.id}-pro",
        "INNER": f"com.{first.id}.ui",
        "WORD": f"{first.id}s",
        "KEPT": f"{first.id}.prefs",
    }
    body = "".join(f'    {"static final String" if java else text} {key} = "{value}"{end}\n' for key, value in fields.items())
    p.files[f"{main}/{kind}/{me.path}/ui/Main{mark}"] = (
        f"package {me.id}.ui{end}\n\nimport {me.id}.core.Shelf{end}\nimport {me.id}.R{end}\nimport {first.id}kit.Tool{end}\n\nclass Main {{\n{body}}}\n"
    )
    p.coded[f"{main}/{kind}/{me.path}/ui/Main{mark}"] = p.pick("code bytes", "utf-8", "crlf", "utf-8-sig")
    p.files[f"{main}/{kind}/{me.path}/core/Shelf{mark}"] = f"package {me.id}.core{end}\n\nclass Shelf {{}}\n"
    p.files[f"{main}/res/layout/main.xml"] = f'<{me.id}.ui.Board {NS}\n    android:tag="{first.id}2"/>\n'
    p.files[f"{at}app/proguard-rules.pro"] = f"-keep class {me.id}.ui.** {{ *; }}\n-keep class {first.id}kit.** {{ *; }}\n"
    if p.coin("by path"):
        p.files[f"{main}/sqldelight/{me.path}/db/Tool.sq"] = f"import {me.id}.core.Shelf;\n\n-- org\nCREATE TABLE tool (shelf TEXT AS Shelf);\n"
        p.files[f"{main}/resources/{me.path}/texts/words_de.properties"] = "lend=leihen\n"
        p.files[f"{main}/resources/{first.path}2/texts/words.properties"] = "lend=lend\n"
        p.files[f"{main}/proto/tool.proto"] = f'syntax = "proto3";\npackage {first.id}.wire;\noption java_package = "{me.id}.wire";\n'
        p.files[f"{main}/{kind}/{me.path}/core/Words{mark}"] = (
            f'package {me.id}.core{end}\n\nclass Words {{\n    {"Object" if java else "val"} a = load("{me.id}.texts.words"){end}\n'
            f'    {"Object" if java else "val"} b = load("{me.path}/texts/words_de.properties"){end}\n}}\n'
        )
    if p.coin("native"):
        p.files[f"{main}/cpp/native.c"] = (
            f'void Java_{me.native}_ui_Main_open(void) {{ find("{me.path}/ui/Main"); }}\nvoid Java_{first.native}2_ui_Main_open(void) {{}}\n'
        )
    if p.coin("shortcuts"):
        p.files[f"{main}/res/xml/shortcuts.xml"] = (
            f'<shortcuts {NS}>\n    <shortcut android:shortcutId="a">\n        <intent android:targetPackage="{me.id}" '
            f'android:targetClass="{me.id}.ui.Main"/>\n    </shortcut>\n</shortcuts>\n'
        )


# -- Apple


def apple(
    p: Project,
    folder: str = "",
    target: str = "Lend",
    version: tuple[str, str] | None = None,
    more: dict[str, tuple[str, dict[str, dict[str, str]]]] | None = None,
    ahead: bool = False,
) -> None:
    """An app of an Xcode project below *folder*; *more* targets stand behind its own, or ahead."""
    me, first = p.me, p.first
    at = f"{folder}/" if folder else ""
    shared: dict[str, str] = {"SDKROOT": "iphoneos"}
    config: list[str] = []
    app: dict[str, str] = {"PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": f"{target}/Info.plist"}
    listed: dict[str, object] = {"CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)", "CFBundleExecutable": "$(EXECUTABLE_NAME)"}

    def put(label: str, key: str, value: str, custom: str, plist_key: str = "") -> str:
        """Set a build setting in some way; return how others may refer to it."""
        ways = ["target", "project variable", "config file", "config variable", *(["plist"] if plist_key else [])]
        way = p.pick(label, *ways)
        if way == "plist":
            listed[plist_key] = value
            return value
        if way == "target":
            app[key] = value
        elif way == "project variable":
            shared[custom] = value
            app[key] = f"$({custom})"
        elif way == "config file":
            config.append(f"{key} = {value}")
        else:
            config.append(f"{custom} = {value}")
            app[key] = f"${{{custom}}}"
        if plist_key:
            listed[plist_key] = f"$({key})"
        return f"$({custom})" if way in ("project variable", "config variable") else value

    id_ = put("bundle", "PRODUCT_BUNDLE_IDENTIFIER", me.id, "LEND_ID")
    if version:
        listed |= {"CFBundleShortVersionString": version[0], "CFBundleVersion": version[1]}
    else:
        put("ios version", "MARKETING_VERSION", me.version, "LEND_VERSION", "CFBundleShortVersionString")
        put("ios build", "CURRENT_PROJECT_VERSION", me.build, "LEND_BUILD", "CFBundleVersion")
    naming = p.pick("ios name", "plist", "setting", "variable")
    if naming == "plist":
        listed["CFBundleDisplayName"] = me.name
    elif naming == "setting":
        app |= {"INFOPLIST_KEY_CFBundleDisplayName": me.name, "GENERATE_INFOPLIST_FILE": "YES"}
    else:
        shared["SHOWN_NAME"] = me.name
        listed["CFBundleDisplayName"] = "$(SHOWN_NAME)"
    listed["CFBundleURLTypes"] = [{"CFBundleURLName": me.id, "CFBundleURLSchemes": ["lendspan"]}]
    listed["BGTaskSchedulerPermittedIdentifiers"] = [f"{me.id}.refresh"]
    targets = {target: ("app", {"*": app})}
    if p.coin("widget"):
        below = p.pick("widget id", "whole", "referring")
        value = f"{id_}.widget" if below == "referring" else f"{me.id}.widget"
        targets["Board"] = ("widget", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": value, "PRODUCT_NAME": "Board"}})
    tests = p.pick("tests", "none", "below", "glued")
    if tests != "none":
        value = f"{me.id}.Tests" if tests == "below" else f"{me.id}Tests"
        targets["LendTests"] = ("tests", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": value, "PRODUCT_NAME": "LendTests"}})
    targets = {**(more or {}), **targets} if ahead else {**targets, **(more or {})}
    bases = {}
    if config:
        p.files[f"{at}Configs/Base.xcconfig"] = "// settings of all\n" + "".join(f"{line}\n" for line in config)
        bases = {"": "Configs/Base.xcconfig"}
        p.coded[f"{at}Configs/Base.xcconfig"] = p.pick("config bytes", "utf-8", "crlf")
    p.files[f"{at}{target}.xcodeproj/project.pbxproj"] = pbxproj(["Debug", "Release"], shared, targets, {target: target}, bases)
    p.named(f"{at}{target}.xcodeproj/project.pbxproj")
    p.files[f"{at}{target}/Info.plist"] = plist(listed)
    p.coded[f"{at}{target}/Info.plist"] = p.pick("plist bytes", "utf-8", "crlf")
    if p.coin("ios translated"):
        p.languages["fr"] = "Prêt"
        p.files[f"{at}{target}/fr.lproj/InfoPlist.strings"] = '/* shown */\n"CFBundleDisplayName" = "Prêt";\n'
        p.coded[f"{at}{target}/fr.lproj/InfoPlist.strings"] = p.pick("strings bytes", "utf-8", "utf-16")
    if p.coin("launch screen"):
        p.files[f"{at}{target}/Base.lproj/LaunchScreen.storyboard"] = (
            '<?xml version="1.0" encoding="UTF-8"?>\n<document type="com.apple.InterfaceBuilder3.CocoaTouch.Storyboard.XIB">\n'
            f'  <label opaque="NO" text="{escape(me.name, {chr(34): "&quot;"})}" id="a1"/>\n  <label text="Lend a hand" id="a2"/>\n</document>\n'
        )
    objc = p.coin("objc")
    mark = "@" if objc else ""
    lines = [f"{me.id}.queue", f"{me.id}.refresh", f"{first.id}2", f"com.{first.id}.x", f"{first.id}kit"]
    body = "".join(f'{"static NSString *" if objc else "let "}v{n} = {mark}"{text}"{";" if objc else ""}\n' for n, text in enumerate(lines))
    p.files[f"{at}{target}/App.{'m' if objc else 'swift'}"] = f"import UIKit\n{body}" if not objc else f"#import <UIKit/UIKit.h>\n{body}"
    p.apps.append(("ios", "", me.id, me.name, me.version, me.build))


def plist(values: dict[str, object]) -> str:
    """Return an XML property list as Xcode writes one."""

    def shown(value: object, depth: int) -> str:
        tab = "\t" * depth
        if isinstance(value, dict):
            return f"{tab}<dict>\n" + "".join(f"{tab}\t<key>{key}</key>\n{shown(item, depth + 1)}" for key, item in value.items()) + f"{tab}</dict>\n"
        if isinstance(value, list):
            return f"{tab}<array>\n" + "".join(shown(item, depth + 1) for item in value) + f"{tab}</array>\n"
        if isinstance(value, bool):
            return f"{tab}<{str(value).lower()}/>\n"
        return f"{tab}<string>{escape(str(value))}</string>\n"

    head = '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE plist PUBLIC "-//Apple//DTD PLIST 1.0//EN" "http://www.apple.com/DTDs/PropertyList-1.0.dtd">\n'
    return f'{head}<plist version="1.0">\n{shown(values, 0)}</plist>\n'


# -- frameworks


def native_android(p: Project) -> None:
    android(p)


def native_apple(p: Project) -> None:
    apple(p)


def both(p: Project) -> None:
    android(p, "android-app")
    apple(p, "ios-app")


def flutter(p: Project) -> None:
    me = p.me
    android(p, "android", ("flutter.versionName", "flutter.versionCode"))
    apple(p, "ios", "Runner", ("$(FLUTTER_BUILD_NAME)", "$(FLUTTER_BUILD_NUMBER)"))
    quote = p.pick("quote", "'", '"')
    spelled = quote + me.name.replace(quote, "\\" + quote) + quote
    title = spelled
    if p.coin("title in a constant"):
        title = p.pick("constant", "shown", "Texts.shown")
        p.files["lib/texts.dart"] = (
            f"const String shown = {spelled};\nconst other = 'Lend a hand';\n"
            if "." not in title
            else (f"abstract final class Texts {{\n  static const shown = {spelled};\n  static const other = 'Lend a hand';\n}}\n")
        )
    if p.coin("desktop"):
        said = me.name.replace('"', '\\"')
        doubled = me.name.replace('"', '""')
        p.files["windows/runner/Runner.rc"] = (
            f'            VALUE "FileDescription", "{doubled}" "\\0"\n            VALUE "ProductName", "{doubled}" "\\0"\n'
            '            VALUE "InternalName", "lend" "\\0"\n'
        )
        p.files["windows/runner/main.cpp"] = f'  // "{p.first.name}" is the window\'s name\n  if (!window.Create(L"{said}", origin, size)) {{\n'
        p.files["linux/runner/my_application.cc"] = f'    gtk_header_bar_set_title(header_bar, "{said}");\n    gtk_window_set_title(window, "{said}");\n'
        p.files["linux/CMakeLists.txt"] = f'set(BINARY_NAME "lend")\nset(APPLICATION_ID "{me.id}")\n'
    if p.coin("web"):
        p.files["web/manifest.json"] = json.dumps({"name": me.name, "short_name": "Hand", "start_url": "."}, indent=4, ensure_ascii=False) + "\n"
        p.files["web/index.html"] = f'<html><head>\n  <title>{escape(me.name)}</title>\n  <meta name="description" content="Lend a hand">\n</head></html>\n'
    p.files["pubspec.yaml"] = f"name: lend\n# one for both stores\nversion: {me.version}+{me.build}\n\ndependencies:\n  flutter:\n    sdk: flutter\n"
    p.files["lib/main.dart"] = (
        "import 'package:flutter/material.dart';\n\nvoid main() => runApp(const App());\n\nclass App extends StatelessWidget {\n"
        "  const App({super.key});\n\n  @override\n  Widget build(BuildContext context) {\n    return "
        + p.pick("widget", "MaterialApp(", "CupertinoApp(", "MaterialApp.router(")
        + "\n"
        f"      title: {title},\n      home: const Text('Lend a hand'),\n    );\n  }}\n}}\n"
    )
    p.files["lib/ids.dart"] = f"const channel = '{me.id}/native';\nconst near = '{p.first.id}2/native';\n"
    p.named("lib/main.dart")


def react_native(p: Project) -> None:
    me = p.me
    android(p, "android")
    apple(p, "ios", "Lend")
    p.files["app.json"] = json.dumps({"name": "Lend", "displayName": me.name}, indent=2, ensure_ascii=p.coin("ascii")) + "\n"
    p.named("app.json")
    p.files["package.json"] = json.dumps({"name": "lend", "version": "0.0.1", "dependencies": {"react-native": "0.80.0"}}, indent=2) + "\n"
    p.files["index.js"] = "import { AppRegistry } from 'react-native';\nimport { name } from './app.json';\nAppRegistry.registerComponent(name, () => App);\n"
    p.files["src/ids.ts"] = f"export const ACTION = '{me.id}.action.OPEN';\nexport const NEAR = '{p.first.id}s';\n"


def expo(p: Project) -> None:
    me = p.me
    build: object = int(me.build)
    inner = {
        "name": me.name,
        "slug": "lend",
        "version": me.version,
        "ios": {"bundleIdentifier": me.id, "buildNumber": me.build, "infoPlist": {"BGTaskSchedulerPermittedIdentifiers": [f"{me.id}.refresh"]}},
        "android": {"package": me.id, "versionCode": build, "intentFilters": [{"action": "VIEW", "data": {"scheme": p.first.id + "2"}}]},
    }
    if p.coin("languages"):
        p.languages["de"] = "Leihe"
        inner["locales"] = {"de": "./languages/german.json"}
        p.files["languages/german.json"] = json.dumps({"ios": {"CFBundleDisplayName": "Leihe"}, "android": {"app_name": "Leihe"}}, indent=2) + "\n"
    form = p.pick("configuration", "json", "bare", "js", "ts", "variants")
    if form in ("json", "bare"):
        p.files["app.json"] = json.dumps({"expo": inner} if form == "json" else inner, indent=2, ensure_ascii=False) + "\n"
        p.named("app.json")
    elif form == "variants":
        variants(p, inner)
    else:
        text = script_object(inner, p.pick("quote", "'", '"'))
        head = "import { ExpoConfig } from 'expo/config';\n\n" if form == "ts" else ""
        tail = "const config: ExpoConfig = " if form == "ts" else "module.exports = "
        p.files[f"app.config.{form}"] = f"{head}{tail}{text};\n" + ("\nexport default config;\n" if form == "ts" else "")
        p.named(f"app.config.{form}")
    p.files["package.json"] = json.dumps({"name": "lend", "dependencies": {"expo": "54.0.0"}}, indent=2) + "\n"
    p.files["src/ids.js"] = f"export const ACTION = '{me.id}.action.OPEN';\nexport const NEAR = '{p.first.id}2';\n"
    if form == "variants":
        return
    p.apps += [("android", "", me.id, me.name, me.version, me.build), ("ios", "", me.id, me.name, me.version, me.build)]


def variants(p: Project, inner: dict) -> None:
    """A configuration whose ID depends on the environment, in the ways people write that."""
    me = p.me
    quote = p.pick("quote", "'", '"')
    way = p.pick("variants", "function", "switch", "table", "choice", "set again", "turned")
    dev, asked, said = f"{me.id}.dev", "process.env.APP_VARIANT === 'development'", "development"
    q = {key: f"{quote}{value}{quote}" for key, value in (("id", me.id), ("dev", dev))}
    if way == "function":
        head = f"const isDev = {asked};\n\nconst ourId = () => {{\n  if (isDev) {{\n    return {q['dev']};\n  }}\n  return {q['id']};\n}};\n"
        expression = "ourId()"
    elif way == "switch":
        head = f"function ourId() {{\n  switch (process.env.APP_VARIANT) {{\n    case 'development':\n      return {q['dev']};\n    default:\n      return {q['id']};\n  }}\n}}\n"
        expression = "ourId()"
    elif way == "table":
        head = f"const variant = process.env.APP_VARIANT ?? 'production';\nconst ids = {{ development: {q['dev']}, production: {q['id']} }};\n"
        expression = "ids[variant]"
    elif way == "choice":
        head, expression = "", f"{asked} ? {q['dev']} : {q['id']}"
    elif way == "set again":
        head = f"let ourId = {q['id']};\nif ({asked}) {{\n  ourId = {q['dev']};\n}}\n"
        expression = "ourId"
    else:
        head, said, expression = "const isProd = process.env.APP_VARIANT === 'production';\n", "not (production)", f"isProd ? {q['id']} : {q['dev']}"
    mark = "@our id@"
    inner["ios"]["bundleIdentifier"] = inner["android"]["package"] = mark
    text = script_object(inner, quote).replace(f"{quote}{mark}{quote}", expression)
    p.files["app.config.js"] = f"{head}\nmodule.exports = {text};\n"
    p.named("app.config.js")
    for platform in ("android", "ios"):
        p.apps += [(platform, "", me.id, me.name, me.version, me.build), (platform, said, dev, me.name, me.version, me.build)]


def script_object(value: object, quote: str, depth: int = 0) -> str:
    """Return a value as people write it in a script: keys bare, trailing commas, one kind of quotes."""
    tab = "  " * (depth + 1)
    if isinstance(value, dict):
        inner = "".join(f"{tab}{key}: {script_object(item, quote, depth + 1)},\n" for key, item in value.items())
        return "{\n" + inner + "  " * depth + "}"
    if isinstance(value, list):
        return "[" + ", ".join(script_object(item, quote, depth + 1) for item in value) + "]"
    if isinstance(value, int):
        return str(value)
    return quote + str(value).replace("\\", "\\\\").replace(quote, "\\" + quote) + quote


def capacitor(p: Project) -> None:
    me = p.me
    android(p, "android")
    apple(p, "ios/App", "App")
    form = p.pick("configuration", "json", "ts")
    inner = {"appId": me.id, "appName": me.name, "webDir": "www"}
    if form == "json":
        p.files["capacitor.config.json"] = json.dumps(inner, indent="\t", ensure_ascii=False)
    else:
        p.files["capacitor.config.ts"] = (
            f"import type {{ CapacitorConfig }} from '@capacitor/cli';\n\nconst config: CapacitorConfig = {script_object(inner, p.pick('quote', chr(39), chr(34)))};\n\nexport default config;\n"
        )
    p.named(f"capacitor.config.{form}")
    p.files["package.json"] = json.dumps({"name": "lend", "version": "0.0.1"}, indent=2)
    p.files["www/index.html"] = f"<!doctype html>\n<html>\n<head>\n<title>{escape(me.name)}</title>\n</head>\n</html>\n"
    p.named("www/index.html")


def cordova(p: Project) -> None:
    me = p.me
    ids = p.pick("ids", "one", "each")
    builds = p.pick("builds", "each", "android")
    attributes = f'id="{me.id}"' if ids == "one" else f'id="org.elsewhere.base" android-packageName="{me.id}" ios-CFBundleIdentifier="{me.id}"'
    stated = builds == "each" or me != p.first  # where a build number is wished, it is written for both
    number = (f'ios-CFBundleVersion="{me.build}" ' if stated else "") + f'android-versionCode="{me.build}"'
    p.files["config.xml"] = (
        f"<?xml version='1.0' encoding='utf-8'?>\n<widget {attributes} version=\"{me.version}\" {number}\n"
        f'    xmlns="http://www.w3.org/ns/widgets">\n    <name>{escape(me.name)}</name>\n    <author href="https://{p.first.id}.example">x</author>\n</widget>\n'
    )
    p.coded["config.xml"] = p.pick("config bytes", "utf-8", "crlf", "utf-8-sig")
    p.named("config.xml")
    p.files["package.json"] = json.dumps({"name": "lend"}, indent=2) + "\n"
    p.files["www/index.html"] = f"<html><head><title>{escape(me.name)}</title></head></html>\n"
    p.files["www/js/ids.js"] = f"var action = '{me.id}.action.OPEN', near = '{p.first.id}2';\n"
    p.named("www/index.html")
    p.apps += [("android", "", me.id, me.name, me.version, me.build), ("ios", "", me.id, me.name, me.version, me.build if stated else me.version)]


def maui(p: Project) -> None:
    me = p.me
    where = p.pick("properties", "project", "above", "imported")
    properties = (
        f"    <ApplicationTitle>{escape(me.name)}</ApplicationTitle>\n    <ApplicationId>{me.id}</ApplicationId>\n"
        f"    <ApplicationDisplayVersion>{me.version}</ApplicationDisplayVersion>\n    <ApplicationVersion>{me.build}</ApplicationVersion>\n"
    )
    group = f"  <PropertyGroup>\n{properties}  </PropertyGroup>\n"
    use = "  <PropertyGroup>\n    <TargetFrameworks>net9.0-android;net9.0-ios</TargetFrameworks>\n    <UseMaui>true</UseMaui>\n  </PropertyGroup>\n"
    bring = '  <Import Project="../identity.props" />\n' if where == "imported" else ""
    p.files["src/Lend/Lend.csproj"] = f'<Project Sdk="Microsoft.NET.Sdk">\n{bring}{use}{group if where == "project" else ""}</Project>\n'
    p.coded["src/Lend/Lend.csproj"] = p.pick("project bytes", "utf-8", "utf-8-sig", "crlf utf-8-sig")
    if where == "above":
        p.files["Directory.Build.props"] = f"<Project>\n{group}</Project>\n"
    elif where == "imported":
        p.files["src/identity.props"] = f"<Project>\n{group}</Project>\n"
    p.files["src/Lend/Platforms/Android/AndroidManifest.xml"] = f'<manifest {NS}>\n  <application android:icon="@mipmap/appicon"></application>\n</manifest>\n'
    p.files["src/Lend/Platforms/iOS/Info.plist"] = plist({"UIDeviceFamily": ["1"]})
    p.files["src/Lend/Ids.cs"] = (
        f'namespace Lend;\n\nstatic class Ids\n{{\n    public const string Action = "{me.id}.action.OPEN";\n    public const string Near = "{p.first.id}2";\n}}\n'
    )
    p.files["src/Lend/Platforms/Android/MainActivity.cs"] = (
        f'namespace Lend;\n\n[Activity(Theme = "@style/Maui.SplashTheme", Label = "{me.name.replace(chr(34), chr(92) + chr(34))}", MainLauncher = true)]\n'
        'public class MainActivity : MauiAppCompatActivity\n{\n    string text = "Lend a hand";\n}\n'
    )
    for path in ("src/Lend/Lend.csproj", "Directory.Build.props", "src/identity.props"):
        p.named(path)
    p.apps += [(platform, "", me.id, me.name, me.version, me.build) for platform in ("android", "ios")]


def nativescript(p: Project) -> None:
    me = p.me
    ids = p.pick("ids", "one", "each")
    inner: dict[str, object] = {"id": me.id} if ids == "one" else {"ios": {"id": me.id}, "android": {"id": me.id}}
    inner |= {"appPath": "src", "appResourcesPath": "App_Resources"}
    p.files["nativescript.config.ts"] = (
        f"import {{ NativeScriptConfig }} from '@nativescript/core';\n\nexport default {script_object(inner, chr(39))} as NativeScriptConfig;\n"
    )
    p.files["App_Resources/Android/app.gradle"] = (
        f'android {{\n  defaultConfig {{\n    minSdkVersion 21\n    versionCode {me.build}\n    versionName "{me.version}"\n  }}\n}}\n'
    )
    p.files["App_Resources/Android/src/main/res/values/strings.xml"] = resources(string(p, "app_name", me.name))
    p.named("App_Resources/Android/src/main/res/values/strings.xml")
    p.files["App_Resources/Android/src/main/AndroidManifest.xml"] = (
        f'<manifest {NS}>\n  <application android:label="@string/app_name">\n        <activity android:name="com.tns.NativeScriptActivity">\n{STARTS}        </activity>\n  </application>\n</manifest>\n'
    )
    p.files["App_Resources/iOS/Info.plist"] = plist({"CFBundleDisplayName": me.name, "CFBundleShortVersionString": me.version, "CFBundleVersion": me.build})
    p.files["package.json"] = json.dumps({"name": "lend"}, indent=2) + "\n"
    p.apps += [(platform, "", me.id, me.name, me.version, me.build) for platform in ("android", "ios")]


def neighbour(first: Called, alike: bool) -> Called:
    """Return what a second app of the repository is called, whatever becomes of the first; versions may be *alike*."""
    return Called(f"{first.id}.driver", "Driver", *((first.version, first.build) if alike else ("5.0", "55")))


def modules(p: Project) -> None:
    """Two apps in one build: the second one's ID lies below the first one's, both have flavors or neither."""
    android(p)
    other = neighbour(p.first, p.coin("versions alike"))
    kotlin = "settings.gradle.kts" in p.files
    suffix = ".gradle.kts" if kotlin else ".gradle"
    p.files[f"settings{suffix}"] = 'include(":app", ":driver")\n' if kotlin else "include ':app', ':driver'\n"
    flavored = p.coin("driver's flavors")
    block = ""
    if flavored and kotlin:
        block = '    flavorDimensions += "d"\n    productFlavors {\n        create("day") { dimension = "d" }\n        create("night") { dimension = "d"; applicationIdSuffix = ".night" }\n    }\n'
    elif flavored:
        block = "    flavorDimensions 'd'\n    productFlavors {\n        day { dimension 'd' }\n        night { dimension 'd'; applicationIdSuffix '.night' }\n    }\n"
    equals = " =" if kotlin else ""
    plugin = 'plugins { id("com.android.application") }\n' if kotlin else "plugins { id 'com.android.application' }\n"
    p.files[f"driver/build{suffix}"] = (
        f'{plugin}android {{\n    namespace{equals} "{other.id}"\n    defaultConfig {{\n        applicationId{equals} "{other.id}"\n'
        f'        versionCode{equals} {other.build}\n        versionName{equals} "{other.version}"\n    }}\n{block}}}\n'
    )
    p.files["driver/src/main/AndroidManifest.xml"] = (
        f'<manifest {NS}>\n    <application android:label="Driver">\n        <activity android:name=".Main">\n{STARTS}        </activity>\n    </application>\n</manifest>\n'
    )
    p.files[f"driver/src/main/java/{other.path}/Main.kt"] = f'package {other.id}\n\nclass Main {{\n    val own = "{other.id}.OPEN"\n}}\n'
    flavors = [("day", other.id), ("night", f"{other.id}.night")] if flavored else [("", other.id)]
    p.apps += [("android", flavor, id_, other.name, other.version, other.build) for flavor, id_ in flavors]
    base = next(app for app in p.apps if app[3] != "Driver")
    p.app = p.pick("asked by", "module", "name", "id")
    p.app = {"module": "app", "name": p.first.name, "id": p.first.id}[p.app]
    if base[1]:  # with flavors of their own IDs or names one speaks of the module
        p.app = "app"


def monorepo(p: Project) -> None:
    """Two apps of frameworks, or of a framework and none, each in a folder of its own."""
    makers = {"flutter": flutter, "react-native": react_native, "expo": expo, "cordova": cordova, "capacitor": capacitor, "native": both}
    mine, others = p.pick("one", *makers), p.pick("other", *makers)
    below(p, "apps/lend", makers[mine], p.me, p.first)
    second = Called("org.mossgate.driver", "Driver", *((p.first.version, p.first.build) if p.coin("versions alike") else ("5.0", "55")))
    below(p, "apps/driver", makers[others], second, second)
    p.app = "apps/lend"


def targets(p: Project) -> None:
    """Two apps in one Xcode project; or one, with a variant of it or a television's."""
    other = neighbour(p.first, p.coin("versions alike"))
    way = p.pick("second", "another", "variant", "television")
    called = other if way == "another" else p.me
    name, id_ = {"another": ("Driver", other.id), "variant": ("Lend Dev", f"{p.me.id}.dev"), "television": ("LendTV", p.me.id)}[way]
    settings = {
        "PRODUCT_BUNDLE_IDENTIFIER": id_,
        "PRODUCT_NAME": "$(TARGET_NAME)",
        "GENERATE_INFOPLIST_FILE": "YES",
        "INFOPLIST_KEY_CFBundleDisplayName": called.name,
        "MARKETING_VERSION": called.version,
        "CURRENT_PROJECT_VERSION": called.build,
        **({"SDKROOT": "appletvos"} if way == "television" else {}),
    }
    apple(p, more={name: ("app", {"*": settings})}, ahead=p.coin("second first"))
    p.apps.append(("tvos" if way == "television" else "ios", "", id_, called.name, called.version, called.build))
    p.app = "Lend" if way == "another" else ""


def below(p: Project, folder: str, make: Callable[[Project], None], me: Called, first: Called) -> None:
    """Make a project in a folder of this one."""
    part = Project(me, first, p.dice)
    make(part)
    p.files |= {f"{folder}/{path}": text for path, text in part.files.items()}
    p.coded |= {f"{folder}/{path}": how for path, how in part.coded.items()}
    p.names |= {f"{folder}/{path}" for path in part.names}
    p.languages |= part.languages
    p.apps += part.apps
    p.said += part.said


KINDS: dict[str, tuple[Callable[[Project], None], int]] = {
    "android": (native_android, 60),
    "apple": (native_apple, 40),
    "both": (both, 20),
    "flutter": (flutter, 20),
    "react-native": (react_native, 20),
    "expo": (expo, 24),
    "capacitor": (capacitor, 16),
    "cordova": (cordova, 10),
    "maui": (maui, 8),
    "nativescript": (nativescript, 6),
    "modules": (modules, 20),
    "targets": (targets, 16),
    "monorepo": (monorepo, 24),
}
ALL = [f"{kind}-{number}" for kind, (_, many) in KINDS.items() for number in range(many)]
# Those that reach a block of the program which no seed before them reaches.
REACHING = {
    "capacitor": (0, 3), "android": (0, 2, 11, 55), "monorepo": (2, 5, 12, 21, 22), "maui": (0, 5), "modules": (1, 8, 18), "nativescript": (0, 2),
    "expo": (13,), "flutter": (1, 2, 15), "cordova": (0,), "targets": (7,), "both": (6, 13), "react-native": (15,),
}  # fmt: skip


def first_called(seed: str) -> Called:
    """Return what the composition of *seed* is called when it is made."""
    dice = random.Random(f"name {seed}")
    return Called(
        dice.choice(["org.lendspan.app", "org.lendspan", "org.lendspan.Tools", "org.lendspan.tools2"]),
        dice.choice(NAMES)[0],
        dice.choice(["1.0.0" if seed.startswith("flutter") else "1.0", "2.4.1", "0.9.0"]),
        dice.choice(["7", "204", "31"]),
    )


def composed(seed: str, me: Called) -> Project:
    """Return the project of *seed* as it is when it is called *me*."""
    made = Project(me, first_called(seed), random.Random(seed))
    KINDS[seed.rsplit("-", 1)[0]][0](made)
    return made


def chosen(every: Mapping[str, Collection[str]], reaching: Mapping[str, Sequence[int]]) -> list[str]:
    """Return the seeds of a usual run: those that reach something, and as many more as take each way of each choice twice.

    *every* are all seeds with the ways that they take; the kind of project is a choice too.
    """
    ways = {seed: {*said, seed.rpartition("-")[0]} for seed, said in every.items()}
    found = [f"{kind}-{number}" for kind, numbers in reaching.items() for number in numbers]
    all_ways = Counter(way for taken in ways.values() for way in taken)
    while True:
        had = Counter(way for seed in found for way in ways[seed])
        missed = {way for way, number in all_ways.items() if had[way] < min(2, number)}
        if not missed:
            return sorted(found, key=list(every).index)
        found.append(max((seed for seed in ways if seed not in found), key=lambda seed: len(ways[seed] & missed)))


SEEDS = ALL if THOROUGH else chosen({seed: composed(seed, first_called(seed)).said for seed in ALL}, REACHING)
