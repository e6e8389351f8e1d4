"""What projects say in roundabout ways: labels, properties under conditions, scripts that decide, names beside the launcher."""

from __future__ import annotations

import pytest

from compositions import plist
from onomaxis.errors import FormatError, OnomaxisError
from onomaxis.formats.lexer import GROOVY, KOTLIN, LANGUAGES, refuse_unpaired, tokens
from onomaxis.formats.source import Source
from onomaxis.model import ShippedApp
from onomaxis.rename.plan import Plan
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from test_any_tree import KTS, android


def survey(contents: dict[str, str]) -> Survey:
    return take_survey(Tree.of({path: text.encode() for path, text in contents.items()}))


def told(app: ShippedApp) -> tuple[str | None, ...]:
    return tuple(value.text if value else None for value in (app.id, app.name, app.version, app.build))


def after(found: Survey, plan: Plan, path: str) -> str:
    return (applied(found.tree, plan.changes).read(path) or b"").decode()


# -- labels

MANIFEST = '<!DOCTYPE manifest [<!ENTITY brand "Lend">]><manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="{}"/></manifest>'
# Label as written, what it says (aapt2: white space and quotes are plain, escapes count), and how the new name is written.
LABELS = [
    ("\\@home", "@home", "@b \\ 'x'", "\\@b \\\\ 'x'"), ("Tom\\'s", "Tom's", 'a "b"', "a &quot;b&quot;"),
    ("&quot;Big&quot;  Shed", '"Big"  Shed', " n  y", " n  y"), ("a\\u0041b", "aAb", "?", "\\?"), ("&brand;", "Lend", 'O"k', None),
    ("${part} Tools", "Lend Tools", "Oak", "Oak"), ("Our ${part}", "Our Lend", "Oak", "Oak"),
]  # fmt: skip


@pytest.mark.parametrize(("written", "says", "new", "rewritten"), LABELS)
def test_labels(written: str, says: str, new: str, rewritten: str | None) -> None:
    """A label's escapes, entities and placeholders in part are read; the new name reads back as wished."""
    contents = android(KTS.format('manifestPlaceholders["part"] = "Lend"', ""))
    path = "app/src/main/AndroidManifest.xml"
    contents[path] = MANIFEST.format(written)
    found = survey(contents)
    assert told(found.apps[0])[1] == says
    plan = plan_rename(found, Wish(name=new))
    assert survey({**contents, path: after(found, plan, path)}).apps[0].name.text == new  # type: ignore[union-attr]
    if rewritten is None:
        assert after(found, plan, path) == contents[path].replace('"Lend"', '"O&quot;k"')
    else:
        assert after(found, plan, path) == contents[path].replace(f'"{written}"', f'"{rewritten}"')


@pytest.mark.parametrize(
    ("strings", "name", "writable"),
    [
        ('<xliff:g id="a">Lend</xliff:g>', "Lend", True),
        ("  <b> Lend </b>\n", "Lend", True),
        ("My <b>Lend</b> app", "My Lend app", False),
        ("&brand;", "Lend", True),
        ("&outer;", "Lend", True),
        ("&brand; it", "Lend it", True),
        ("<![CDATA[Lend & Co]]>", "Lend & Co", True),
    ],
)
def test_strings(strings: str, name: str, writable: bool) -> None:
    """Markup around the name stays around it, an entity that is the name is what changes; what is mixed is refused."""
    head = "<!DOCTYPE resources [<!ENTITY brand \"Lend\"><!ENTITY outer '&brand;'>]>"
    text = f'{head}<resources xmlns:xliff="urn:oasis:names:tc:xliff:document:1.2"><string name="app_name">{strings}</string><string name="x">&brand;</string></resources>'
    contents = android(KTS.format("", ""), strings=text)
    found = survey(contents)
    assert told(found.apps[0])[1] == name
    if not writable:
        with pytest.raises(OnomaxisError, match="markup stands inside"):
            plan_rename(found, Wish(name="Oak"))
        return
    path = "app/src/main/res/values/strings.xml"
    text = after(found, plan_rename(found, Wish(name="50% <Oak> 'n' \"x\"")), path)
    again = survey({**contents, path: text})
    assert told(again.apps[0])[1] == "50% <Oak> 'n' \"x\""
    assert text.count("<b>") == strings.count("<b>") and text.count("<xliff:g") == strings.count("<xliff:g")


# -- .NET

USE = "<PropertyGroup><TargetFrameworks>net9.0-android;net9.0-ios</TargetFrameworks><UseMaui>true</UseMaui></PropertyGroup>"
GROUP = "<ApplicationId>org.lendspan</ApplicationId><ApplicationTitle>Lend</ApplicationTitle>"
IS = "$([MSBuild]::GetTargetPlatformIdentifier('$(TargetFramework)')) == '{}'"
# Groups of the project file, files beside it; ID on Android and iOS (None: unresolved).
NET: list[tuple[str, dict[str, str], str | None, str | None]] = [
    (f"<PropertyGroup>{GROUP}</PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    (f"<PropertyGroup>{GROUP}<ApplicationId Condition=\"{IS.format('ios')}\">org.phone</ApplicationId></PropertyGroup>", {}, "org.lendspan", "org.phone"),
    (f"<PropertyGroup Condition=\"$(TargetFramework.Contains('-android'))\">{GROUP}</PropertyGroup>", {}, "org.lendspan", None),
    (f"<PropertyGroup Condition=\"'$(Configuration)' == 'Debug'\"><ApplicationId>org.d</ApplicationId></PropertyGroup><PropertyGroup>{GROUP}</PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    (f"<PropertyGroup>{GROUP}</PropertyGroup><PropertyGroup Condition=\"'$(Configuration)|$(TargetFramework)' == 'Debug|net9.0-ios'\"><ApplicationId>org.d</ApplicationId></PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    (f"<PropertyGroup>{GROUP}<ApplicationId Condition=\"'$(Brand)' == 'x'\">org.x</ApplicationId></PropertyGroup>", {}, None, None),
    (f"<PropertyGroup>{GROUP}<ApplicationId Condition=\"'$(Brand)' == 'x'\">org.lendspan</ApplicationId></PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    ("<PropertyGroup><Base>org</Base><ApplicationId>$(Base).lendspan</ApplicationId></PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    ("<PropertyGroup><ApplicationId>$(Base).lendspan</ApplicationId></PropertyGroup>", {}, None, None),
    ("<PropertyGroup><ApplicationId>$([System.String]::Copy('a.b'))</ApplicationId></PropertyGroup>", {}, None, None),
    ("", {"Directory.Build.props": f"<Project><PropertyGroup>{GROUP}</PropertyGroup></Project>"}, "org.lendspan", "org.lendspan"),
    ("", {"src/Directory.Build.props": f"<Project><PropertyGroup>{GROUP}</PropertyGroup></Project>", "Directory.Build.props": "<Project><PropertyGroup><ApplicationId>far.off</ApplicationId></PropertyGroup></Project>"}, "org.lendspan", "org.lendspan"),
    ("<Import Project=\"$(MSBuildThisFileDirectory)..\\id.props\"/>", {"src/id.props": f"<Project><PropertyGroup>{GROUP}</PropertyGroup></Project>"}, "org.lendspan", "org.lendspan"),
    ("<Import Project=\"../../../id.props\"/>", {"id.props": f"<Project><PropertyGroup>{GROUP}</PropertyGroup></Project>"}, None, None),
    (f"<Choose><When Condition=\"'$(Configuration)' == 'Debug'\"><PropertyGroup><ApplicationId>org.d</ApplicationId></PropertyGroup></When><Otherwise><PropertyGroup>{GROUP}</PropertyGroup></Otherwise></Choose>", {}, "org.lendspan", "org.lendspan"),
    (f"<PropertyGroup>{GROUP}</PropertyGroup><PropertyGroup><ApplicationId Condition=\"'$(ApplicationId)' == ''\">org.other</ApplicationId></PropertyGroup>", {}, "org.lendspan", "org.lendspan"),
    (f"<PropertyGroup Condition=\"!($(TargetFramework.Contains('-ios')) and '$(Configuration)' != 'Debug') or 'a' == 'b'\">{GROUP}</PropertyGroup>", {}, "org.lendspan", None),
]  # fmt: skip


@pytest.mark.parametrize(("groups", "beside", "on_android", "on_ios"), NET)
def test_properties_of_a_build(groups: str, beside: dict[str, str], on_android: str | None, on_ios: str | None) -> None:
    """Imports, conditions and references count as they do in a release build; what is decided elsewhere is unresolved."""
    contents = {"src/Lend/Lend.csproj": f"<Project>{USE}{groups}</Project>", **beside}
    found = survey(contents)
    assert {app.platform: told(app)[0] for app in found.apps} == {"android": on_android, "ios": on_ios}
    stated = "ApplicationId" in groups and None in (on_android, on_ios) and "Condition" in groups and on_android is None
    assert bool(found.unresolved) >= stated


# -- scripts that decide

PACKAGE = '{"name": "lend", "version": "2.0.0", "dependencies": {"expo": "54"}}\n'
EXPO = "module.exports = {{ name: 'Lend', version: {}, ios: {{ bundleIdentifier: {} }}, android: {{ package: {} }} }};\n"
# What stands before the configuration, its expression; the IDs by condition, or None where it is computed.
DECIDED: list[tuple[str, str, dict[str, str] | None]] = [
    ("const DEV = process.env.E === 'dev', QA = process.env.E === 'qa';\nconst f = () => { if (DEV) { return 'a.b.dev'; } else if (QA) return 'a.b.qa'; return 'a.b'; };", "f()", {"dev": "a.b.dev", "qa": "a.b.qa", "": "a.b"}),
    ("function f(env: string): string { switch (env) { case 'x': case 'y': return 'a.b.x'; default: return 'a.b'; } }", "f(process.env.E)", {"x": "a.b.x", "y": "a.b.x", "": "a.b"}),
    ("function f(env: string): string { switch (env) { case 'x': return 'a.b.x'; default: return 'a.b'; } }", "f(process.env.E)", {"x": "a.b.x", "": "a.b"}),
    ("const f = (e) => e === 'd' ? 'a.b.d' : 'a.b';", "f(process.env.E)", {"d": "a.b.d", "": "a.b"}),
    ("const t = { dev: { id: 'a.b.dev' }, live: { id: 'a.b' } };\nconst now = process.env.E || 'live';", "t[now].id", {"dev": "a.b.dev", "": "a.b"}),
    ("const t = { dev: { id: 'a.b.dev' }, live: { id: 'a.b' } };\nconst one = t['live'];", "one.id", {"": "a.b"}),
    ("let id = 'a.b';\nif (process.env.DEV) { id = 'a.b.dev'; }", "id", {"DEV": "a.b.dev", "": "a.b"}),
    ("const live = process.env.E === 'live';", "live ? 'a.b' : 'a.b.dev'", {"": "a.b", "not (live)": "a.b.dev"}),
    ("", "String('a.b').trim()", {"": "a.b"}),
    ("const DEV = GLOBAL;", "DEV ? 'a.b.dev' : 'a.b'", None),
    ("const t = { dev: 'a.b.dev', live: 'a.b' };", "t[process.env.E]", {"dev": "a.b.dev", "live": "a.b"}),
    ("const t = { dev: { id: 'a.b.dev' }, live: { id: 'a.b' } } as const;\nconst now = process.env.E as keyof typeof t;", "t[now!].id", {"dev": "a.b.dev", "live": "a.b"}),
    ("const dev = 'dev' === process.env['E'];", "dev ? 'a.b.dev' : 'a.b'", {"dev": "a.b.dev", "": "a.b"}),
    ("const t = {};", "t[process.env.E]", None),
    ("const f = () => { for (;;) { return 'a.b'; } };", "f()", None),
    ("const f = () => { if (DEV) { return 'a.b'; } };", "f()", None),
    ("const f = () => f();", "f()", None),
    ("const t = { live: 'a.b' };", "t.gone", None),
    ("", "process.env.ID", None),
    ("import other from './other';", "other.id", None),
]  # fmt: skip


@pytest.mark.parametrize(("head", "expression", "wanted"), DECIDED)
def test_scripts_that_decide(head: str, expression: str, wanted: dict[str, str] | None) -> None:
    """Each branch is a variant, renamed with the app; what cannot be followed is unresolved at its line."""
    contents = {"app.config.ts": f"{head}\n" + EXPO.format("'1.0'", expression, expression), "package.json": PACKAGE}
    found = survey(contents)
    ios = {app.flavor: told(app)[0] for app in found.apps if app.platform == "ios"}
    if wanted is None:
        assert set(ios.values()) <= {None} and any(item.facet == "ios.bundle-id" and item.line for item in found.unresolved)
        return
    assert ios == wanted
    text = after(found, plan_rename(found, Wish(android_id="net.oak", ios_id="net.oak", both_id="net.oak")), "app.config.ts")
    assert text == contents["app.config.ts"].replace("'a.b", "'net.oak")


@pytest.mark.parametrize(
    "head", ["import pkg from './package.json';", "const pkg = require('./package.json');", "const { version } = require('./package.json');"]
)
def test_a_version_from_a_file(head: str) -> None:
    """A version that the script takes from a JSON file is owned there."""
    expression = "version" if "{" in head else "pkg.version"
    found = survey({"app.config.js": f"{head}\n" + EXPO.format(expression, "'a.b'", "'a.b'"), "package.json": PACKAGE})
    assert {told(app)[2] for app in found.apps} == {"2.0.0"}
    plan = plan_rename(found, Wish(version="3.0.0"))
    assert after(found, plan, "package.json") == PACKAGE.replace("2.0.0", "3.0.0")


def test_assignments_and_short_members() -> None:
    """Keys that are assigned, and members that stand for a constant of their name, are read."""
    script = "const name = 'Lend';\nmodule.exports = ({ config }) => {\n  config.ios = { bundleIdentifier: 'a.b' };\n  config.android.package = 'a.c';\n  return { ...config, name };\n};\n"
    found = survey({"app.config.js": script, "package.json": PACKAGE, "app.json": '{"expo": {"android": {}}}\n'})
    assert {(app.platform, *told(app)[:2]) for app in found.apps} == {("android", "a.c", "Lend"), ("ios", "a.b", "Lend")}


# -- one ID for both, or one for each

NATIVE = "export default {\n  id: 'org.lendspan',\n  appPath: 'src',\n};\n"
WIDGET = '<widget id="org.lendspan" version="1.0" xmlns="http://www.w3.org/ns/widgets"><name>Lend</name></widget>'
APART = [
    ("nativescript.config.ts", NATIVE, "a.b", "c.d", NATIVE.replace("org.lendspan", "a.b").replace("'src',", "'src',\n  ios: { id: 'c.d' },")),
    ("nativescript.config.ts", NATIVE, "a.b", "", NATIVE.replace("'src',", "'src',\n  android: { id: 'a.b' },")),
    ("nativescript.config.ts", NATIVE.replace("'src',", "'src',\n  ios: { x: 1 },"), "", "c.d", NATIVE.replace("'src',", "'src',\n  ios: { x: 1, id: 'c.d' },")),
    ("config.xml", WIDGET, "a.b", "c.d", WIDGET.replace('"org.lendspan"', '"a.b" ios-CFBundleIdentifier="c.d"')),
    ("config.xml", WIDGET, "a.b", "", WIDGET.replace('"org.lendspan"', '"org.lendspan" android-packageName="a.b"')),
    ("config.xml", WIDGET, "", "c.d", WIDGET.replace('"org.lendspan"', '"org.lendspan" ios-CFBundleIdentifier="c.d"')),
    ("config.xml", WIDGET, "a.b", "a.b", WIDGET.replace("org.lendspan", "a.b")),
]  # fmt: skip


@pytest.mark.parametrize(("path", "text", "on_android", "on_ios", "wanted"), APART)
def test_an_id_for_one_platform(path: str, text: str, on_android: str, on_ios: str, wanted: str) -> None:
    """Where a framework has one ID for both, that of one platform gets the place that it needs; the other stays."""
    contents = {path: text, "package.json": '{"name": "lend"}', "App_Resources/iOS/Info.plist": plist({"CFBundleDisplayName": "Lend"})}
    found = survey(contents)
    plan = plan_rename(found, Wish(android_id=on_android, ios_id=on_ios))
    assert after(found, plan, path) == wanted
    again = survey({**contents, path: wanted})
    assert {app.platform: told(app)[0] for app in again.apps} == {"android": on_android or "org.lendspan", "ios": on_ios or "org.lendspan"}
    assert plan_rename(again, Wish(android_id=on_android, ios_id=on_ios)).empty


# -- names beside the launcher

SHOWN = {
    "lib/app.dart": "// MaterialApp(title: 'Lend')\nfinal a = MaterialApp.router(\n  key: k,\n  title: 'Lend',\n);\nfinal t = Text('Lend');\nfinal b = CupertinoApp(title: Texts.brand);\n",
    "lib/texts.dart": "class Texts {\n  static const brand = \"Lend\";\n  static const other = 'Lend';\n}\n",
    "windows/runner/main.cpp": '  window.Create(L"Lend", origin);  // window.Create(L"Lend")\n',
    "windows/runner/Runner.rc": 'VALUE "ProductName", "Lend" "\\0"\nVALUE "Comments", "Lend"\n',
    "linux/runner/my_application.cc": 'gtk_window_set_title(window, "Lend");\n',
    "linux/lend.desktop": "[Desktop Entry]\nName=Lend\nExec=Lend\n",
    "ios/Runner/Base.lproj/LaunchScreen.storyboard": '<document><label text="Lend" id="a"/><button title="Lend"/></document>',
}
KEPT = {"lib/app.dart": {0, 5}, "lib/texts.dart": {2}, "windows/runner/Runner.rc": {1}, "linux/lend.desktop": {2}}  # lines that stay as they are


@pytest.mark.parametrize("new", ['Tom\'s "Shed" $1', "Oak"])
def test_names_beside_the_launcher(new: str) -> None:
    """Titles, product strings and labels follow in their own syntax; comments, other texts and look-alikes stay."""
    pubspec = "name: lend\nversion: 1.0.0+1\ndependencies:\n  flutter:\n    sdk: flutter\n"
    contents = {**{f"android/{path}": text for path, text in android(KTS.format("", "")).items()}, **SHOWN, "pubspec.yaml": pubspec}
    contents["android/app/src/main/java/A.kt"] = 'package org.lendspan\n\nval a = ActivityManager.TaskDescription("Lend")\nval b = "Lend"\n'
    found = survey(contents)
    plan = plan_rename(found, Wish(name=new))
    later = applied(found.tree, plan.changes)
    for path, text in SHOWN.items():
        lines = (later.read(path) or b"").decode().split("\n")
        for number, (old, line) in enumerate(zip(text.split("\n"), lines, strict=True)):
            assert (line == old) == (number in KEPT.get(path, ()) or "Lend" not in old), (path, line)
    assert 'L"Lend")' in after(found, plan, "windows/runner/main.cpp")  # in a comment
    assert 'title="Lend"' in after(found, plan, "ios/Runner/Base.lproj/LaunchScreen.storyboard")
    again = plan_rename(take_survey(later), Wish(name="Lend"))
    assert all((applied(later, again.changes).read(path) or b"").decode() == text for path, text in SHOWN.items())


# Scripts in which brackets and quotes stand where they open and close nothing.
PAIRED = {
    "groovy": """def re = ~/[{(]/
def s = $/ a { ' " /$
def t = "${x ? "a}" : '}'}" + 'it\\'s {' + /b\\/{/
def v = \"\"\" { " \"\"\" // don't {
/* " { */ if (x ==~ /.*[("].*/) { println i++ / 2 }
tasks.matching { it.name =~ /(?i)x{2}"/ }.all { }
""",
    "kotlin": """val a = "${if (x) "a}" else "}"}" + '{' + '\\''
val e = \"\"\" { " ${f("x")} \"\"\"
/* nested /* { */ " */ val s = "$x{"
""",
    "script": """const a = /[{(]/g; const b = `x ${c ? `{` : "}"}`; const d = x / y / z; // don't
export default { id: 'it\\'s', re: /"/, t: x ? /{/ : 1 }
""",
}


@pytest.mark.parametrize("kind", PAIRED)
def test_a_script_that_closes_is_read(kind: str) -> None:
    """Brackets in strings, patterns and comments pair with nothing; one that is really left open is named with its line."""
    text = PAIRED[kind]
    language = {"groovy": GROOVY, "kotlin": KOTLIN, "script": LANGUAGES[".ts"]}[kind]
    source = Source.read(text.encode())
    refuse_unpaired(tokens(source.view, language), source)
    for more in ("f(", "}", "x = 'a\n"):
        off = Source.read((text + more).encode())
        with pytest.raises(FormatError) as raised:
            refuse_unpaired(tokens(off.view, language), off)
        assert raised.value.line == text.count("\n") + 1
