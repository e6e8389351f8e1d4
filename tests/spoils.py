"""Single faults put into right projects, as people make them: one flavor, one configuration, one reference at a time.

A spoil is a kind of project, a name, the file in which the fault stands or of which it must be said, and what makes it.
Nothing here knows how the program looks.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from right import CONFIGURATIONS, FLAVORS, RIGHT

Files = dict[str, str]


@dataclass(frozen=True)
class Spoil:
    """A fault: *at* are files of which one must be named, *says* a word that must stand in what is said."""

    kind: str
    comparison: str
    name: str
    at: tuple[str, ...]
    files: Files
    says: str = ""


def _next(flavor: str) -> str:
    names = list(FLAVORS)
    return names[(names.index(flavor) + 1) % len(names)]


class Maker:
    """Makes faults in one right project."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        self.files = RIGHT[kind]()

    def path(self, ending: str) -> str:
        found = [path for path in self.files if path.endswith(ending)]
        assert found, ending
        return min(found, key=len)

    def has(self, ending: str) -> bool:
        return any(path.endswith(ending) for path in self.files)

    def gone(self, comparison: str, name: str, ending: str, says: str, *at: str) -> Spoil:
        """Leave a file out; it is said of one of *at* (endings of paths), or of any file."""
        path = self.path(ending)
        files = {key: text for key, text in self.files.items() if key != path}
        return Spoil(self.kind, comparison, name, at, files, says)

    def cut(self, comparison: str, name: str, ending: str, old: str, new: str, says: str, *at: str, count: int = 1) -> Spoil:
        """Replace a text in a file (a pattern)."""
        path = self.path(ending)
        text, number = re.subn(old, new, self.files[path], count=count)
        assert number, (name, path, old)
        return Spoil(self.kind, comparison, name, at or (path,), {**self.files, path: text}, says)

    def block(self, comparison: str, name: str, configuration: str, target: int, old: str, new: str, says: str, *at: str) -> Spoil:
        """Replace a text in one configuration of a target (by number)."""
        path = self.path("project.pbxproj")
        text = self.files[path]
        key = f"C{target:03d}{CONFIGURATIONS.index(configuration):03d} /*"
        start = text.index(key)
        end = text.index("\n\t\t};", start)
        inner, number = re.subn(old, new, text[start:end], count=1)
        assert number, (name, configuration, old)
        return Spoil(self.kind, comparison, name, at or (path,), {**self.files, path: text[:start] + inner + text[end:]}, says)


def spoils() -> Iterator[Spoil]:
    """Yield every fault."""
    for kind in ("native", "flutter", "react-native"):
        maker = Maker(kind)
        yield from _siblings(maker)
        yield from _references(maker)
        yield from _platforms(maker)
        yield from _services(maker)
    for kind in ("capacitor", "expo", "maui", "cordova"):
        yield from _unflavored(Maker(kind))


def _siblings(m: Maker) -> Iterator[Spoil]:
    c = "siblings"
    for flavor, shown in FLAVORS.items():
        other = _next(flavor)
        yield m.gone(c, f"no environment of {flavor}", f".env.{flavor}", flavor)
        yield m.cut(c, f"an entry less in the environment of {flavor}", f".env.{flavor}", "CURRENCY=EUR\n", "", "CURRENCY")
        yield m.cut(c, f"the environment of {flavor} is another's", f".env.{flavor}", f"BRAND={flavor}", f"BRAND={other}", other)
        yield m.gone(c, f"no assets of {flavor}", f"app/src/{flavor}/assets/brand.json", flavor)
        yield m.cut(c, f"an entry less in the assets of {flavor}", f"app/src/{flavor}/assets/brand.json", r',\n  "currency": "EUR"', "", "currency")
        yield m.cut(c, f"the assets of {flavor} are another's", f"app/src/{flavor}/assets/brand.json", f"https://{flavor}", f"https://{other}", other)
        yield m.gone(c, f"no shortcuts of {flavor}", f"app/src/{flavor}/res/xml/shortcuts.xml", flavor)
        yield m.cut(c, f"CI does not build {flavor}", "release.yml", rf"\b{flavor}\b", "other", flavor, count=0)
        yield m.cut(c, f"the Makefile leaves {flavor} out", "Makefile", rf"start-{flavor}:\n[^\n]*\n", "", flavor)
        yield m.gone(c, f"no scheme of {flavor}", f"-{flavor}.xcscheme", flavor)
        yield m.cut(c, f"the resource of {flavor} is another's", f"app/src/{flavor}/res/values/strings.xml", f"https://{flavor}", f"https://{other}", other)
        yield m.cut(c, f"a resource less of {flavor}", f"app/src/{flavor}/res/values/strings.xml", r' *<string name="server">[^\n]*\n', "", "server")
        yield m.cut(
            c,
            f"{flavor} is called as {other}",
            f"app/src/{flavor}/res/values/strings.xml",
            shown,
            FLAVORS[other],
            FLAVORS[other],
            f"{flavor}/res/values/strings.xml",
            f"{other}/res/values/strings.xml",
        )
        yield m.cut(
            c,
            f"{flavor} has the ID of {other}",
            "app/build.gradle.kts",
            f'applicationId = "org.lendspan.{flavor}"',
            f'applicationId = "org.lendspan.{other}"',
            f"org.lendspan.{other}",
        )
        yield m.cut(
            c,
            f"{flavor} has no map key",
            "app/build.gradle.kts",
            rf'( *)manifestPlaceholders\["mapsKey"\] = "AIza{flavor[0]}+"\n',
            "",
            "mapsKey",
            "app/build.gradle.kts",
            "AndroidManifest.xml",
        )
        for kind in ("Debug", "Profile"):
            name, end = f"{kind}-{flavor}", ".debug" if kind == "Debug" else ""
            yield m.block(c, f"{name} has another ID", name, 1, rf"= org.lendspan.{flavor}{end};", f"= org.lendspan.{other}{end};", name)
            yield m.block(c, f"{name} has a mistyped ID", name, 1, rf"= org.lendspan.{flavor}{end};", f"= org.lendspn.{flavor}{end};", name)
            yield m.block(c, f"{name} has another name", name, 1, f"SHOWN = {shown};", f"SHOWN = {FLAVORS[other]};", name)
            yield m.block(c, f"{name} has another icon", name, 1, f"= AppIcon{flavor.title()};", f"= AppIcon{other.title()};", name)
            if m.kind != "flutter":
                yield m.block(c, f"{name} has another version", name, 1, "MARKETING_VERSION = 1.2.0;", "MARKETING_VERSION = 1.2.1;", name)
                yield m.block(c, f"{name} has another build number", name, 1, "CURRENT_PROJECT_VERSION = 7;", "CURRENT_PROJECT_VERSION = 8;", name)
                yield m.block(
                    c,
                    f"the widget of {name} has a stray ID",
                    name,
                    2,
                    rf"= org.lendspan.{flavor}{end}.widget;",
                    f"= org.lendspan.{other}{end}.widget;",
                    "idget",
                )
        release = f"Release-{flavor}"
        yield m.block(c, f"the profile of {flavor} is another's", release, 1, f'"Store org.lendspan.{flavor}"', f'"Store org.lendspan.{other}"', "profile")
        yield m.block(c, f"the icon of {flavor} is another's", release, 1, f"= AppIcon{flavor.title()};", f"= AppIcon{other.title()};", "con")
        yield m.cut(
            c, f"a configuration of {flavor} is gone", "project.pbxproj", rf"\t\t\t\tC{CONFIGURATIONS.index(f'Profile-{flavor}'):03d},\n", "", "profile"
        )
        if m.kind == "flutter":
            yield m.gone(c, f"no entry point of {flavor}", f"lib/main_{flavor}.dart", flavor)
            yield m.cut(c, f"the entry point of {flavor} is another's", f"lib/main_{flavor}.dart", f"'{flavor}'", f"'{other}'", other)
            yield m.gone(c, f"no run configuration of {flavor}", f".run/{flavor}.run.xml", flavor)
            yield m.cut(c, f"the run configuration of {flavor} builds another", f".run/{flavor}.run.xml", f'value="{flavor}"', f'value="{other}"', other)
            yield m.cut(c, f"the editor cannot start {flavor}", "launch.json", rf"(?s),?\s*\{{\s*\"name\": \"{flavor} debug\".*?\]\s*\}}", "", flavor)
        if m.kind == "react-native":
            yield m.cut(c, f"no script starts {flavor}", "package.json", rf'\n[^\n]*:{flavor}":[^\n]*', "", flavor, count=0)


def _references(m: Maker) -> Iterator[Spoil]:
    c = "references"
    yield m.cut(
        c, "an activity that is gone", "main/AndroidManifest.xml", "org.lendspan.loans.LoanActivity", "org.lendspan.loans.LoansActivity", "LoansActivity"
    )
    yield m.cut(
        c,
        "an activity in a moved package",
        "loans/LoanActivity.kt",
        "package org.lendspan.loans",
        "package org.lendspan.lending",
        "LoanActivity",
        "AndroidManifest.xml",
        "LoanActivity.kt",
    )
    yield m.cut(c, "an application class that is gone", "main/AndroidManifest.xml", 'name=".Lend"', 'name=".Loan"', "Loan")
    yield m.cut(c, "a view that is gone", "layout/main.xml", "org.lendspan.ui.Meter", "org.lendspan.ui.Gauge", "Gauge")
    yield m.cut(c, "a view of the old package", "ui/Meter.kt", "package org.lendspan.ui", "package org.lendspan.views", "Meter", "layout/main.xml")
    yield m.cut(c, "a manifest of another package", "debug/AndroidManifest.xml", "<manifest ", '<manifest package="org.lendspn" ', "org.lendspn")
    for flavor in FLAVORS:
        other, xml = _next(flavor), f"app/src/{flavor}/res/xml/shortcuts.xml"
        yield m.cut(c, f"the shortcut of {flavor} goes to {other}", xml, f"org.lendspan.{flavor}", f"org.lendspan.{other}", other)
        yield m.cut(c, f"the shortcut of {flavor} goes to an old app", xml, f"org.lendspan.{flavor}", "org.lendspan.old", "org.lendspan.old")
        yield m.cut(c, f"the shortcut of {flavor} goes to a class that is gone", xml, "LoanActivity", "LoansActivity", "LoansActivity")
        yield m.cut(
            c, f"the scheme of {flavor} names a configuration that is gone", f"-{flavor}.xcscheme", f"Profile-{flavor}", f"Profil-{flavor}", f"Profil-{flavor}"
        )
        yield m.cut(c, f"the scheme of {flavor} archives {other}", f"-{flavor}.xcscheme", f"Release-{flavor}", f"Release-{other}", other)
        yield m.cut(c, f"the scheme of {flavor} tests the app itself", f"-{flavor}.xcscheme", f"Debug-{flavor}", "Debug", "TestAction")
        yield m.cut(
            c,
            f"the scheme of {flavor} names a target that is gone",
            f"-{flavor}.xcscheme",
            r'BlueprintIdentifier = "T0+" BuildableName = "\w+.app" BlueprintName = "\w+"',
            'BlueprintIdentifier = "T9" BuildableName = "Old.app" BlueprintName = "Old"',
            "Old",
        )
        yield m.cut(c, f"the Podfile leaves a configuration of {flavor} out", "Podfile", rf"  'Profile-{flavor}' => :release,\n", "", f"Profile-{flavor}")
        yield m.cut(
            c, f"the Podfile maps a configuration of {flavor} that is gone", "Podfile", f"'Profile-{flavor}'", f"'Profiles-{flavor}'", f"Profiles-{flavor}"
        )
        yield m.cut(c, f"a script starts an old app of {flavor}", "Makefile", f"org.lendspan.{flavor}/", "org.lendspan.old/", "org.lendspan.old")
        yield m.block(
            c,
            f"the property list of {flavor} is gone",
            f"Release-{flavor}",
            1,
            r"INFOPLIST_FILE = (\w+)/Info.plist;",
            r'INFOPLIST_FILE = "\1/Info-x.plist";',
            "Info-x.plist",
        )
        yield m.block(
            c,
            f"the entitlements of {flavor} are gone",
            f"Release-{flavor}",
            1,
            r"CODE_SIGN_ENTITLEMENTS = (\w+)/\w+.entitlements;",
            r"CODE_SIGN_ENTITLEMENTS = \1/Gone.entitlements;",
            "Gone.entitlements",
        )
        if m.kind != "flutter":
            export = f"export/{flavor}.plist"
            yield m.cut(
                c, f"the export of {flavor} is for another ID", export, rf"<key>org.lendspan.{flavor}</key>", "<key>org.lendspan.old</key>", "org.lendspan.old"
            )
            yield m.cut(
                c, f"the export of {flavor} forgets the widget", export, rf"\s*<key>org.lendspan.{flavor}.widget</key>\s*<string>[^<]*</string>", "", "widget"
            )
            for kind in ("Debug", "Release"):
                end = ".debug" if kind == "Debug" else ""
                yield m.block(
                    c,
                    f"the watch app of {kind}-{flavor} belongs to another",
                    f"{kind}-{flavor}",
                    3,
                    rf"Identifier = org.lendspan.{flavor}{end};",
                    f"Identifier = org.lendspan.{other}{end};",
                    other,
                )
    yield m.cut(c, "the Podfile is for a target that is gone", "Podfile", r"target '\w+' do", "target 'Old' do", "Old")
    yield m.gone(c, "a storyboard that is gone", "Launch.storyboard", "Launch")
    if m.kind != "flutter":
        yield m.cut(c, "tests that run in an old app", "project.pbxproj", r"/Lend.app/Lend", "/Old.app/Old", "Old")
        yield m.cut(c, "a module that is gone", "settings.gradle.kts", ":core", ":cores", ":cores")
        yield m.cut(c, "code asks for another authority", "Share.kt", r'app.packageName \+ ".files"', '"org.lendspan.file"', "org.lendspan.file")
        yield m.cut(
            c, "code asks for one fixed authority", "Share.kt", r'app.packageName \+ ".files"', '"org.lendspan.mossgate.files"', "org.lendspan.mossgate.files"
        )
        yield m.cut(c, "the widget is in another group", "Widget.entitlements", "group.org.lendspan", "group.org.Lendspan", "group.org.Lendspan")
        yield m.cut(c, "the widget is in an old group", "Widget.entitlements", "group.org.lendspan", "group.org.old", "group.org.old")
    if m.kind == "react-native":
        yield m.cut(c, "Android asks for another component", "MainActivity.kt", '= "Lend"', '= "Old"', "Old", "MainActivity.kt", "app.json")
        yield m.cut(c, "iOS asks for another component", "AppDelegate.swift", '"Lend"', '"Old"', "Old", "AppDelegate.swift", "app.json")
        for flavor in FLAVORS:
            yield m.cut(
                c, f"a script of {flavor} starts an old app", "package.json", rf"--appId org.lendspan.{flavor}", "--appId org.lendspan.old", "org.lendspan.old"
            )


def _platforms(m: Maker) -> Iterator[Spoil]:
    c = "platforms"
    gradle, info = "app/build.gradle.kts", "Info.plist"
    for flavor, shown in FLAVORS.items():
        yield m.cut(c, f"{flavor} is called otherwise on Android", f"app/src/{flavor}/res/values/strings.xml", shown, f"{shown} Tools", f"{shown} Tools")
        yield m.block(c, f"{flavor} is called otherwise on iOS", f"Release-{flavor}", 1, f"SHOWN = {shown};", f"SHOWN = {shown}s;", f"{shown}s")
        if m.kind != "flutter":
            yield m.block(
                c, f"{flavor} has another version on iOS", f"Release-{flavor}", 1, "MARKETING_VERSION = 1.2.0;", "MARKETING_VERSION = 1.3.0;", "1.3.0"
            )
            yield m.block(
                c, f"{flavor} has another build number on iOS", f"Release-{flavor}", 1, "CURRENT_PROJECT_VERSION = 7;", "CURRENT_PROJECT_VERSION = 9;", "9"
            )
    if m.kind != "flutter":
        yield m.cut(c, "another version on Android", gradle, '"1.2.0"', '"1.2.1"', "1.2.1")
        yield m.cut(c, "another build number on Android", gradle, "versionCode = 7", "versionCode = 8", "8")
    yield m.cut(c, "another URL scheme on Android", "main/AndroidManifest.xml", 'scheme="lendspan"', 'scheme="lendspn"', "lendspn")
    yield m.cut(
        c,
        "another URL scheme on iOS",
        f"{'Runner' if m.kind == 'flutter' else 'Lend'}/{info}",
        "<string>lendspan</string>",
        "<string>lendspn</string>",
        "lendspn",
    )
    yield m.cut(c, "pods for a later system", "Podfile", "'16.0'", "'17.0'", "17.0")
    if m.kind == "flutter":
        yield m.cut(c, "the web manifest is called otherwise", "web/manifest.json", '"name": "Lendspan"', '"name": "Lendspun"', "Lendspun")
        yield m.cut(c, "the page is called otherwise", "web/index.html", "<title>Lendspan", "<title>flutter_app", "flutter_app")
        yield m.cut(c, "the Linux app has another ID", "CMakeLists.txt", 'ID "org.lendspan"', 'ID "org.lendspn"', "org.lendspn")
        yield m.cut(c, "the desktop app of Apple has another ID", "AppInfo.xcconfig", "= org.lendspan", "= org.lendspn", "org.lendspn")
        yield m.cut(
            c,
            "the desktop app of Apple is called otherwise",
            "AppInfo.xcconfig",
            "= Lendspan",
            "= Lendspun",
            "Lendspun",
            "AppInfo.xcconfig",
            "macos/Runner/Info.plist",
        )
        yield m.cut(c, "the Windows app is called otherwise", "Runner.rc", '"ProductName", "Lendspan"', '"ProductName", "Lendspun"', "Lendspun")
    if m.kind == "react-native":
        yield m.cut(c, "the framework's file is called otherwise", "app.json", '"displayName": "Lendspan"', '"displayName": "Lendspun"', "Lendspun")


def _services(m: Maker) -> Iterator[Spoil]:
    c = "services"
    suffixed = '    buildTypes { debug { applicationIdSuffix = ".debug" } }\n    flavorDimensions'
    files = [path for path in m.files if path.endswith("google-services.json")]
    yield m.cut(c, "no service knows the debug build", "app/build.gradle.kts", "    flavorDimensions", suffixed, ".debug", *files)
    for flavor in FLAVORS:
        other = _next(flavor)
        yield m.cut(
            c,
            f"the service file of {flavor} is another's",
            f"app/src/{flavor}/google-services.json",
            f"org.lendspan.{flavor}",
            f"org.lendspan.{other}",
            f"org.lendspan.{other}",
        )
        yield m.cut(
            c,
            f"the service file of {flavor} is an old one",
            f"app/src/{flavor}/google-services.json",
            f"org.lendspan.{flavor}",
            "org.lendspan.old",
            "org.lendspan.old",
        )
        yield m.gone(c, f"no service file of {flavor}", f"app/src/{flavor}/google-services.json", flavor)
        yield m.cut(c, f"the service file of {flavor} is broken", f"app/src/{flavor}/google-services.json", r"\}\s*\Z", "", "")
        yield m.cut(
            c,
            f"the property list of {flavor} is another's",
            f"{flavor}/GoogleService-Info.plist",
            f"org.lendspan.{flavor}",
            f"org.lendspan.{other}",
            f"org.lendspan.{other}",
        )
        yield m.gone(c, f"no property list of {flavor}", f"{flavor}/GoogleService-Info.plist", flavor)
        yield m.cut(c, f"{flavor} belongs to two projects", f"{flavor}/GoogleService-Info.plist", "<string>1000</string>", "<string>2000</string>", "2000")
        yield m.cut(c, f"the map key of {flavor} is a placeholder", "app/build.gradle.kts", f"AIza{flavor[0]}+", "YOUR_KEY", "YOUR_KEY")
        yield m.cut(c, f"the map key of {flavor} is cut", "app/build.gradle.kts", f"AIza{flavor[0]}+", "AIza123", "AIza123")


# Of each kind without flavors: comparison, name, file, what is replaced, by what, a word of what must be said.
ROWS: dict[str, list[tuple[str, str, str, str, str, str]]] = {
    "capacitor": [
        ("platforms", "the framework's ID is another", "capacitor.config.json", '"org.lendspan"', '"org.lendspn"', "org.lendspn"),
        ("platforms", "the framework's name is another", "capacitor.config.json", '"Lendspan"', '"Lendspun"', "Lendspun"),
        ("platforms", "the page is called otherwise", "src/index.html", "<title>Lendspan", "<title>Ionic App", "Ionic App"),
        ("platforms", "another ID on Android", "app/build.gradle", "applicationId 'org.lendspan'", "applicationId 'org.lendspn'", "org.lendspn"),
        ("platforms", "another ID on iOS", "project.pbxproj", "= org.lendspan;", "= org.lendspn;", "org.lendspn"),
        ("platforms", "another name on Android", "values/strings.xml", '"app_name">Lendspan', '"app_name">Lendspun', "Lendspun"),
        ("platforms", "another name on iOS", "App/Info.plist", "<string>Lendspan", "<string>Lendspun", "Lendspun"),
        ("platforms", "the launcher is called otherwise", "values/strings.xml", '"title_activity_main">Lendspan', '"title_activity_main">Lendspun', "Lendspun"),
        ("platforms", "the copied ID is another", "values/strings.xml", '"package_name">org.lendspan', '"package_name">org.lendspn', "org.lendspn"),
        (
            "platforms",
            "the copied scheme is another",
            "values/strings.xml",
            '"custom_url_scheme">org.lendspan',
            '"custom_url_scheme">org.lendspn',
            "org.lendspn",
        ),
        ("platforms", "another version on Android", "app/build.gradle", "'1.2.0'", "'1.2.1'", "1.2.1"),
        ("platforms", "another build number on iOS", "project.pbxproj", "PROJECT_VERSION = 7", "PROJECT_VERSION = 8", "8"),
        ("references", "a script starts an old app", "package.json", "org.lendspan/", "org.lendspan.old/", "org.lendspan.old"),
        ("references", "the activity is of an old package", "MainActivity.java", "package org.lendspan;", "package org.old;", "MainActivity"),
        ("readiness", "an example's ID", "capacitor.config.json", '"org.lendspan"', '"com.example.app"', "com.example.app"),
        ("readiness", "a level too low", "app/build.gradle", "35", "30", "30"),
        ("readiness", "no answer to the export question", "App/Info.plist", r"\s*<key>ITSAppUsesNonExemptEncryption</key>\s*<false/>", "", ""),
        ("readiness", "a release that can be debugged", "main/AndroidManifest.xml", "<application ", '<application android:debuggable="true" ', ""),
    ],
    "expo": [
        ("platforms", "two IDs", "app.json", '"bundleIdentifier": "org.lendspan"', '"bundleIdentifier": "org.lendspn"', "org.lendspn"),
        ("platforms", "two build numbers", "app.json", '"versionCode": 7', '"versionCode": 8', "8"),
        ("platforms", "another host on Android", "app.json", '"host": "go.lendspan.org"', '"host": "go.lendspn.org"', "go.lendspn.org"),
        ("platforms", "another host on iOS", "app.json", "applinks:go.lendspan.org", "applinks:went.lendspan.org", "went.lendspan.org"),
        ("services", "Android's service file is an old one", "google-services.json", "org.lendspan", "org.lendspan.old", "org.lendspan.old"),
        ("services", "iOS's service file is an old one", "GoogleService-Info.plist", "org.lendspan", "org.lendspan.old", "org.lendspan.old"),
        ("services", "Android's service file is elsewhere", "app.json", "./google-services.json", "./keys/google-services.json", "keys/google-services.json"),
        (
            "services",
            "iOS's service file is elsewhere",
            "app.json",
            "./GoogleService-Info.plist",
            "./keys/GoogleService-Info.plist",
            "keys/GoogleService-Info.plist",
        ),
        ("services", "two projects of the service", "GoogleService-Info.plist", "1000", "2000", "2000"),
        ("readiness", "no ID on Android", "app.json", r'"package": "org.lendspan",', "", "ID"),
        ("readiness", "no ID on iOS", "app.json", r'"bundleIdentifier": "org.lendspan",', "", "ID"),
        ("readiness", "an example's ID", "app.json", '"package": "org.lendspan"', '"package": "com.example.lend"', "com.example.lend"),
        ("readiness", "a template's name", "app.json", '"name": "Lendspan"', '"name": "my-app"', "my-app"),
        ("readiness", "a version that the store does not take", "app.json", '"version": "1.2.0"', '"version": "1.2.0-beta"', "1.2.0-beta"),
        ("readiness", "no build number on Android", "app.json", r'"versionCode": 7,', "", "build number"),
        ("readiness", "a build number that is too large", "app.json", '"versionCode": 7', '"versionCode": 2200000000', "2200000000"),
        ("readiness", "an empty usage description", "app.json", "Scan the label of a tool.", "", "NSCameraUsageDescription"),
        ("readiness", "no answer to the export question", "app.json", r"\s*\"ITSAppUsesNonExemptEncryption\": false,", "", ""),
        ("readiness", "an ID that breaks the rules", "app.json", '"package": "org.lendspan"', '"package": "org.lend-span"', "org.lend-span"),
    ],
    "maui": [
        ("platforms", "the manifest's package is another", "AndroidManifest.xml", "<manifest ", '<manifest package="org.lendspn" ', "org.lendspn"),
        (
            "platforms",
            "the property list's ID is another",
            "iOS/Info.plist",
            "<dict>",
            "<dict>\n<key>CFBundleIdentifier</key>\n<string>org.lendspn</string>",
            "org.lendspn",
        ),
        (
            "platforms",
            "the property list's version is another",
            "iOS/Info.plist",
            "<dict>",
            "<dict>\n<key>CFBundleShortVersionString</key>\n<string>1.3.0</string>",
            "1.3.0",
        ),
        ("platforms", "the manifest's label is another", "AndroidManifest.xml", "<application", '<application android:label="Lendspun"', "Lendspun"),
        ("services", "Android's service file is an old one", "google-services.json", "org.lendspan", "org.lendspan.old", "org.lendspan.old"),
        ("services", "iOS's service file is an old one", "GoogleService-Info.plist", "org.lendspan", "org.lendspan.old", "org.lendspan.old"),
        ("services", "two projects of the service", "GoogleService-Info.plist", "1000", "2000", "2000"),
        ("readiness", "an example's ID", "Lendspan.csproj", "org.lendspan", "com.companyname.lendspan", "com.companyname.lendspan"),
        ("readiness", "no version", "Lendspan.csproj", r"\s*<ApplicationDisplayVersion>1.2.0</ApplicationDisplayVersion>", "", "version"),
        ("readiness", "no build number", "Lendspan.csproj", r"\s*<ApplicationVersion>7</ApplicationVersion>", "", "build number"),
        ("readiness", "a version that the store does not take", "Lendspan.csproj", "1.2.0", "1.2.0-beta", "1.2.0-beta"),
        ("readiness", "a usage description that is none", "iOS/Info.plist", "Scan the label of a tool.", "TODO", "TODO"),
        ("readiness", "no answer to the export question", "iOS/Info.plist", r"\s*<key>ITSAppUsesNonExemptEncryption</key>\s*<false/>", "", ""),
        ("readiness", "a release that can be debugged", "AndroidManifest.xml", "<application", '<application android:debuggable="true"', ""),
    ],
    "cordova": [
        ("platforms", "the page is called otherwise", "www/index.html", "<title>Lendspan", "<title>Hello World", "Hello World"),
        ("platforms", "the package is called otherwise", "package.json", '"displayName": "Lendspan"', '"displayName": "Lendspun"', "Lendspun"),
        ("platforms", "two build numbers", "config.xml", 'android-versionCode="7"', 'android-versionCode="8"', "8"),
        ("readiness", "an example's ID", "config.xml", 'id="org.lendspan"', 'id="io.cordova.hellocordova"', "io.cordova.hellocordova"),
        ("readiness", "a template's name", "config.xml", "<name>Lendspan", "<name>HelloCordova", "HelloCordova"),
        ("readiness", "a version that the store does not take", "config.xml", '"1.2.0"', '"1.2.0-beta"', "1.2.0-beta"),
        ("readiness", "a level too low", "config.xml", 'value="35"', 'value="29"', "29"),
    ],
}


def _unflavored(m: Maker) -> Iterator[Spoil]:
    for comparison, name, file, old, new, says in ROWS[m.kind]:
        found = m.cut(comparison, name, file, old, new, says, count=0 if file.endswith("pbxproj") else 1)
        yield replace(found, at=()) if comparison == "references" else found
