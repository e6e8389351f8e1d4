"""A white-label app for two platforms with two flavors, and every sort of place that a value can stand in."""

from __future__ import annotations

from xcode import pbxproj

FLAVORS = ("alderbank", "mossgate")
GRADLE = """plugins {
    id("com.android.application")
}

android {
    namespace = "org.lendspan.app"
    compileSdk = 35
    defaultConfig {
        applicationId = "org.lendspan.app"
        minSdk = 24
        targetSdk = 35
        versionCode = 7
        versionName = "1.2"
        manifestPlaceholders["mapsKey"] = "main-maps"
        buildConfigField("String", "SERVER", "\\"https://main.lendspan.org\\"")
        buildConfigField("boolean", "LOANS", "true")
        resValue("string", "made", "main made")
    }
    flavorDimensions += "brand"
    productFlavors {
        create("alderbank") {
            dimension = "brand"
            applicationIdSuffix = ".alderbank"
        }
        create("mossgate") {
            dimension = "brand"
            applicationId = "org.lendspan.mossgate"
        }
    }
}
"""
MANIFEST = """<manifest xmlns:android="http://schemas.android.com/apk/res/android">
    <application android:label="@string/app_name">
        <meta-data android:name="maps" android:value="${mapsKey}"/>
        <meta-data android:name="login" android:value="@string/login"/>
        <meta-data android:name="plain" android:value="plain value"/>
        <activity android:name=".Main" android:exported="true"><intent-filter>
            <action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/>
        </intent-filter></activity>
    </application>
</manifest>
"""
STRINGS = """<?xml version="1.0" encoding="utf-8"?>
<resources>
    <!-- hand-made --><string name="app_name">Lendspan</string>
    <string name="login">main\\'s login</string>
    <color name="brand">#7A3E2B</color>
    <dimen name="card">16dp</dimen>
    <bool name="loans">true</bool>
    <integer name="days">14</integer>
</resources>
"""
PLIST = """<?xml version="1.0" encoding="UTF-8"?>
<plist version="1.0">
<dict>
	<key>CFBundleDisplayName</key>
	<string>$(APP_NAME)</string>
	<key>CFBundleURLTypes</key>
	<array>
		<dict>
			<key>CFBundleURLName</key>
			<string>login</string>
			<key>CFBundleURLSchemes</key>
			<array>
				<string>$(LOGIN_SCHEME)</string>
			</array>
		</dict>
	</array>
	<key>LendspanServer</key>
	<string>$(SERVER)</string>
	<key>Loans</key>
	<true/>
	<key>NSCameraUsageDescription</key>
	<string>Scan a tool’s label.</string>
	<key>Theme</key>
	<dict>
		<key>Days</key>
		<integer>14</integer>
	</dict>
</dict>
</plist>
"""
ENTITLEMENTS = """<?xml version="1.0" encoding="UTF-8"?>
<plist version="1.0">
<dict>
	<key>com.apple.developer.associated-domains</key>
	<array>
		<string>applinks:main.lendspan.org</string>
	</array>
</dict>
</plist>
"""
COLORS = """{
  "colors" : [
    {
      "color" : { "color-space" : "srgb", "components" : { "alpha" : "1.000", "blue" : "0x2B", "green" : "0x3E", "red" : "0x7A" } },
      "idiom" : "universal"
    }
  ],
  "info" : { "author" : "xcode", "version" : 1 }
}
"""
BOARD = """<?xml version="1.0" encoding="UTF-8"?>
<document type="com.apple.InterfaceBuilder3.CocoaTouch.Storyboard.XIB" version="3.0">
    <scenes><scene><objects><viewController id="vc"><view key="view" id="v"><subviews>
        <label text="Lendspan" id="x1-y2" userLabel="Name"/>
    </subviews><color key="backgroundColor" red="1" green="1" blue="1" alpha="1"/></view></viewController></objects></scene></scenes>
</document>
"""
CODE = {
    "lib/brand.dart": "class Brand {\n  static const String server = 'https://main.lendspan.org';\n  static const days = 14;\n}\n",
    "src/brand.ts": 'export const brand = {\n  server: "https://main.lendspan.org", // the one\n  loans: true,\n};\n',
    "Brand.kt": 'object Brand {\n    const val SERVER = "https://main.lendspan.org"\n}\nobject Other {\n    const val SERVER = "x"\n}\n',
    "Brand.swift": 'enum Brand {\n    static let server: String = "https://main.lendspan.org"\n}\n',
    "Brand.java": 'final class Brand {\n    static final String SERVER = "https://main.lendspan.org";\n}\n',
    ".env": 'SERVER=https://main.lendspan.org # the one\nQUOTED="main"\n',
    "config.json": '{ "server": { "url": "https://main.lendspan.org", "days": 14 } }\n',
    "config.yaml": "server:\n  url: https://main.lendspan.org # the one\n  days: 14\n",
    "config.xml": "<widget><preference name='x' value='main'/><name>main</name></widget>\n",
    "gradle.properties": "lendspan.server=https\\://main.lendspan.org\n",
}


def project(flavored: bool = True) -> dict[str, str]:
    """Return the files; without flavors it is a template that is stamped for one customer at a time."""
    names = ["Debug", "Release"]
    names += [f"{kind}-{flavor}" for flavor in FLAVORS for kind in names[:2]] if flavored else []
    own = {f"{kind}-{flavor}": {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{flavor}", "APP_NAME": flavor.title()} for flavor in FLAVORS for kind in names[:2]}
    app = {
        "*": {
            "PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan.app",
            "INFOPLIST_FILE": "App/Info.plist",
            "APP_NAME": "Lendspan",
            "SERVER": "https://main.lendspan.org",
            "LOGIN_SCHEME": "fb100",
            "CODE_SIGN_ENTITLEMENTS": "App/App.entitlements",
            "MARKETING_VERSION": "1.2",
            "CURRENT_PROJECT_VERSION": "7",
            "ASSETCATALOG_COMPILER_APPICON_NAME": "AppIcon",
        },
        **own,
    }
    settings = {"IPHONEOS_DEPLOYMENT_TARGET": "16.0", "TARGETED_DEVICE_FAMILY": "1,2"}
    gradle = GRADLE if flavored else GRADLE[: GRADLE.index("    flavorDimensions")] + "}\n"
    return {
        "settings.gradle.kts": 'include(":app")\n',
        "app/build.gradle.kts": gradle,
        "app/src/main/AndroidManifest.xml": MANIFEST,
        "app/src/main/res/values/strings.xml": STRINGS,
        "ios/App.xcodeproj/project.pbxproj": pbxproj(names, settings, {"App": ("app", app)}),
        "ios/App/Info.plist": PLIST,
        "ios/App/App.entitlements": ENTITLEMENTS,
        "ios/App/Assets.xcassets/Brand.colorset/Contents.json": COLORS,
        "ios/App/Launch.storyboard": BOARD,
        **CODE,
    }


# Place, type, what it reads, what it shall read: every sort of place in every spelling.
PLACES = [
    ('resource = "string/login"', "text", "main's login", 'it\'s "new" & <good>'),
    ('resource = "string/made"', "text", "main made", "made anew $ \\ %"),
    ('resource = "color/brand"', "color", "#7A3E2B", "#123456"),
    ('resource = "dimen/card"', "dimension", "16dp", "24dp"),
    ('resource = "bool/loans"', "boolean", "true", "false"),
    ('resource = "integer/days"', "integer", "14", "21"),
    ('meta-data = "maps"', "text", "main-maps", "k\"e'y$1"),
    ('meta-data = "login"', "text", "main's login", "other"),
    ('placeholder = "mapsKey"', "text", "main-maps", "new-maps"),
    ('build-field = "SERVER"', "url", "https://main.lendspan.org", 'https://new.lendspan.org/?a="b"&c=$d'),
    ('build-field = "LOANS"', "boolean", "true", "false"),
    ('level = "min-sdk"', "integer", "24", "26"),
    ('level = "target-sdk"', "integer", "35", "36"),
    ('plist = "LendspanServer"', "url", "https://main.lendspan.org", "https://new.lendspan.org"),
    ('url-scheme = "login"', "text", "fb100", "fb200"),
    ('setting = "SERVER"', "url", "https://main.lendspan.org", "https://new.lendspan.org"),
    ('level = "ios"', "number", "16.0", "17.0"),
    ('level = "families"', "text", "1,2", "1"),
]
# Those that one file holds for all flavors: only the app's own value, or a template stamped for one customer.
SHARED = [
    ('meta-data = "plain"', "text", "plain value", 'a "b" & c'),
    ('level = "compile-sdk"', "integer", "35", "36"),
    ('plist = "Loans"', "boolean", "true", "false"),
    ('plist = "NSCameraUsageDescription"', "text", "Scan a tool’s label.", "Scan & go <now>"),
    ('plist = "Theme/Days"', "integer", "14", "21"),
    ('entitlement = "com.apple.developer.associated-domains/0"', "text", "applinks:main.lendspan.org", "applinks:new.org"),
    ('color-set = "Brand"', "color", "#7A3E2B", "#00FF80"),
    ('label = "Name", file = "ios/App/Launch.storyboard"', "text", "Lendspan", 'Tool "Shed" & <Co>'),
    ('property = "lendspan.server"', "url", "https://main.lendspan.org", "https://new.lendspan.org/ü"),
    ('env = "SERVER", file = ".env"', "url", "https://main.lendspan.org", "https://new.org/#a"),
    ('env = "QUOTED", file = ".env"', "text", "main", 'a "b" $c'),
    ('constant = "Brand.server", file = "lib/brand.dart"', "url", "https://main.lendspan.org", "https://new.org/$x'y"),
    ('constant = "days", file = "lib/brand.dart"', "integer", "14", "21"),
    ('constant = "brand.server", file = "src/brand.ts"', "url", "https://main.lendspan.org", 'https://new.org/"q"'),
    ('constant = "loans", file = "src/brand.ts"', "boolean", "true", "false"),
    ('constant = "Brand.SERVER", file = "Brand.kt"', "url", "https://main.lendspan.org", 'https://new.org/$x"y"'),
    ('constant = "server", file = "Brand.swift"', "url", "https://main.lendspan.org", "https://new.org/\\(x)"),
    ('constant = "SERVER", file = "Brand.java"', "url", "https://main.lendspan.org", 'https://new.org/"y"'),
    ('pointer = "/server/url", file = "config.json"', "url", "https://main.lendspan.org", 'https://new.org/"y"'),
    ('pointer = "/server/days", file = "config.json"', "integer", "14", "21"),
    ('pointer = "/server/url", file = "config.yaml"', "url", "https://main.lendspan.org", "https://new.org/#y"),
    ('pointer = "/server/days", file = "config.yaml"', "integer", "14", "21"),
    ('attribute = "preference@value", file = "config.xml"', "text", "main", "it's <new>"),
    ('attribute = "name", file = "config.xml"', "text", "main", "R&D"),
]


def toml(text: str) -> str:
    """Write a TOML string."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def identity(rows: list[tuple[str, str, str, str]], pick: int = 2, more: str = "") -> str:
    """Return an identity file that declares a value for each row; *pick* is the column of its value."""
    lines = ["format = 1", ""]
    for number, row in enumerate(rows):
        lines += [f"[values.v{number}]", f'type = "{row[1]}"', f"value = {toml(row[pick])}", f"places = [{{ {row[0]} }}]", ""]
    return "\n".join(lines) + more
