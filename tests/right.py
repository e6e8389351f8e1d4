"""Projects in which everything is right, one a kind: with flavors, references, lists, services; nothing is to be said.

Written out here without a word of the program's own: what a careful release engineer would leave behind.
"""

from __future__ import annotations

import json

from compositions import NS, STARTS, plist
from xcode import pbxproj

FLAVORS = {"alderbank": "Alderbank", "mossgate": "Mossgate", "pennywick": "Pennywick"}
TYPES = ("Debug", "Profile", "Release")
CONFIGURATIONS = [*TYPES, *(f"{kind}-{flavor}" for flavor in FLAVORS for kind in TYPES)]


def resources(**strings: str) -> str:
    return "<resources>\n" + "".join(f'    <string name="{key}">{text}</string>\n' for key, text in strings.items()) + "</resources>\n"


def service_json(app_id: str) -> str:
    client = {"client_info": {"android_client_info": {"package_name": app_id}}}
    return json.dumps({"project_info": {"project_number": "1000"}, "client": [client]}, indent=2) + "\n"


def service_plist(app_id: str) -> str:
    return plist({"BUNDLE_ID": app_id, "GCM_SENDER_ID": "1000"})


def scheme(flavor: str, target: str) -> str:
    end = f"-{flavor}" if flavor else ""
    reference = f'<BuildableReference BuildableIdentifier = "primary" BlueprintIdentifier = "T00000000000000000000000" BuildableName = "{target}.app" BlueprintName = "{target}" ReferencedContainer = "container:{target}.xcodeproj"/>'
    actions = "".join(
        f'   <{name} buildConfiguration = "{kind}{end}">\n   </{name}>\n'
        for name, kind in (
            ("TestAction", "Debug"),
            ("LaunchAction", "Debug"),
            ("ProfileAction", "Profile"),
            ("AnalyzeAction", "Debug"),
            ("ArchiveAction", "Release"),
        )
    )
    entry = f'   <BuildAction>\n      <BuildActionEntries>\n         <BuildActionEntry buildForArchiving = "YES">\n            {reference}\n         </BuildActionEntry>\n      </BuildActionEntries>\n   </BuildAction>\n'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<Scheme version = "1.7">\n{entry}{actions}</Scheme>\n'


# -- halves


def android(folder: str, version: str = '"1.2.0"', code: str = "7", native: bool = True) -> dict[str, str]:
    at = f"{folder}/" if folder else ""
    flavors = "".join(
        f'        create("{name}") {{\n            dimension = "brand"\n            applicationId = "org.lendspan.{name}"\n            manifestPlaceholders["mapsKey"] = "AIza{name[0] * 35}"\n        }}\n'
        for name in FLAVORS
    )
    found = {
        f"{at}settings.gradle.kts": 'include(":app")\n' + ('include(":core")\n' if native else ""),
        f"{at}app/build.gradle.kts": (
            'plugins { id("com.android.application") }\n\nandroid {\n    namespace = "org.lendspan"\n    defaultConfig {\n'
            f'        applicationId = "org.lendspan"\n        targetSdk = 35\n        versionName = {version}\n        versionCode = {code}\n'
            f'    }}\n    flavorDimensions += "brand"\n    productFlavors {{\n{flavors}    }}\n}}\n'
        ),
        f"{at}app/src/main/AndroidManifest.xml": (
            f'<manifest {NS}>\n    <uses-permission android:name="android.permission.INTERNET"/>\n    <application android:name=".Lend" android:label="@string/app_name">\n'
            f'        <activity android:name=".MainActivity" android:exported="true">\n{STARTS}            <intent-filter>\n                <data android:scheme="lendspan"/>\n            </intent-filter>\n        </activity>\n'
            '        <activity android:name="org.lendspan.loans.LoanActivity"/>\n        <meta-data android:name="com.google.android.geo.API_KEY" android:value="${mapsKey}"/>\n'
            '        <provider android:name=".Files" android:authorities="${applicationId}.files"/>\n    </application>\n</manifest>\n'
        ),
        f"{at}app/src/main/res/values/strings.xml": resources(app_name="Lendspan", server="https://lendspan.org"),
        f"{at}app/src/main/res/layout/main.xml": f'<FrameLayout {NS}>\n    <org.lendspan.ui.Meter android:id="@+id/meter"/>\n</FrameLayout>\n',
        f"{at}app/src/main/java/org/lendspan/MainActivity.kt": "package org.lendspan\n\nclass MainActivity\n\nclass Lend\n\nclass Files\n",
        f"{at}app/src/main/java/org/lendspan/loans/LoanActivity.kt": "package org.lendspan.loans\n\nclass LoanActivity\n",
        f"{at}app/src/main/java/org/lendspan/ui/Meter.kt": "package org.lendspan.ui\n\nclass Meter\n",
        f"{at}app/src/debug/AndroidManifest.xml": f"<manifest {NS}>\n    <application/>\n</manifest>\n",
    }
    if native:
        found[f"{at}core/build.gradle.kts"] = 'plugins { id("com.android.library") }\nandroid { namespace = "org.lendspan.core" }\n'
        found[f"{at}app/src/main/java/org/lendspan/Share.kt"] = (
            'package org.lendspan\n\nfun share(app: App) = FileProvider.getUriForFile(app, app.packageName + ".files", app.file)\n'
        )
    for name, shown in FLAVORS.items():
        base = f"{at}app/src/{name}"
        found[f"{base}/res/values/strings.xml"] = resources(app_name=shown, server=f"https://{name}.lendspan.org")
        found[f"{base}/res/xml/shortcuts.xml"] = (
            f'<shortcuts {NS}>\n    <shortcut>\n        <intent android:targetPackage="org.lendspan.{name}" android:targetClass="org.lendspan.loans.LoanActivity"/>\n    </shortcut>\n</shortcuts>\n'
        )
        found[f"{base}/google-services.json"] = service_json(f"org.lendspan.{name}")
        found[f"{base}/assets/brand.json"] = json.dumps({"name": name, "server": f"https://{name}.lendspan.org", "currency": "EUR"}, indent=2) + "\n"
    return found


RIGHTS = {"com.apple.security.application-groups": ["group.org.lendspan"]}


def apple(folder: str, target: str, version: dict[str, str], native: bool = True) -> dict[str, str]:
    at = f"{folder}/" if folder else ""
    base = {"PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": f"{target}/Info.plist", "CODE_SIGN_ENTITLEMENTS": f"{target}/{target}.entitlements", **version}
    app: dict[str, dict[str, str]] = {"*": base}
    widget: dict[str, dict[str, str]] = {"*": {**base, "INFOPLIST_FILE": "Widget/Info.plist", "CODE_SIGN_ENTITLEMENTS": "Widget/Widget.entitlements"}}
    watch: dict[str, dict[str, str]] = {"*": {**base, "SDKROOT": "watchos", "INFOPLIST_FILE": "Watch/Info.plist", "CODE_SIGN_ENTITLEMENTS": ""}}
    tests: dict[str, dict[str, str]] = {
        "*": {
            "PRODUCT_NAME": "$(TARGET_NAME)",
            "TEST_HOST": f"$(BUILT_PRODUCTS_DIR)/{target}.app/{target}",
            "GENERATE_INFOPLIST_FILE": "YES",
            "PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan.tests",
        }
    }
    for name in CONFIGURATIONS:
        kind, _, flavor = name.partition("-")
        id_ = f"org.lendspan.{flavor}" if flavor else "org.lendspan"
        id_ += ".debug" if kind == "Debug" else ""
        shown = FLAVORS.get(flavor, "Lendspan")
        server = f"https://{flavor or 'www'}.lendspan.org"
        profile = {"PROVISIONING_PROFILE_SPECIFIER": f"Store {id_}"} if kind == "Release" and flavor else {}
        app[name] = {
            "PRODUCT_BUNDLE_IDENTIFIER": id_,
            "SHOWN": shown,
            "SERVER": server,
            "ASSETCATALOG_COMPILER_APPICON_NAME": f"AppIcon{flavor.title()}",
            **profile,
        }
        widget[name] = {"PRODUCT_BUNDLE_IDENTIFIER": f"{id_}.widget"}
        watch[name] = {"PRODUCT_BUNDLE_IDENTIFIER": f"{id_}.watch", "INFOPLIST_KEY_WKCompanionAppBundleIdentifier": id_}
    targets: dict[str, tuple[str, dict[str, dict[str, str]]]] = {target: ("app", app)}
    if native:
        targets |= {"Widget": ("widget", widget), "Watch": ("watch", watch), "LendTests": ("tests", tests)}
    text = pbxproj(CONFIGURATIONS, {"SDKROOT": "iphoneos", "IPHONEOS_DEPLOYMENT_TARGET": "16.0"}, targets)
    if native:  # the app embeds its widget and its watch app
        embeds = "".join(f"\t\tE{n} = {{isa = PBXBuildFile; fileRef = Q{n}; }};\n" for n in (1, 2))
        phase = "\t\tY1 = {isa = PBXCopyFilesBuildPhase; dstSubfolderSpec = 13; files = (E1, E2); };\n"
        text = text.replace("\t\tG000 = {", f"{embeds}{phase}\t\tG000 = {{", 1).replace("\t\t\tbuildPhases = ();", "\t\t\tbuildPhases = (Y1);", 1)
        head, *rest = text.split("\t\t\tproductName = ")
        text = (
            head
            + "\t\t\tproductName = "
            + "\t\t\tproductName = ".join(
                part if n not in (1, 2) else part.replace(";\n", f";\n\t\t\tproductReference = Q{n};\n", 1) for n, part in enumerate(rest)
            )
        )
    listed: dict[str, object] = {
        "CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)", "CFBundleDisplayName": "$(SHOWN)", "CFBundleShortVersionString": "$(MARKETING_VERSION)", "CFBundleVersion": "$(CURRENT_PROJECT_VERSION)",
        "ITSAppUsesNonExemptEncryption": False, "Server": "$(SERVER)", "UILaunchStoryboardName": "Launch", "CFBundleURLTypes": [{"CFBundleURLSchemes": ["lendspan"]}],
    }  # fmt: skip
    part: dict[str, object] = {
        **{key: value for key, value in listed.items() if key in ("CFBundleIdentifier", "CFBundleShortVersionString", "CFBundleVersion")},
        "CFBundleDisplayName": "Lendspan",
    }
    found = {
        f"{at}{target}.xcodeproj/project.pbxproj": text,
        f"{at}{target}/Info.plist": plist(listed),
        f"{at}{target}/{target}.entitlements": plist(RIGHTS),
        f"{at}{target}/Launch.storyboard": "<document/>\n",
        f"{at}Podfile": "platform :ios, '16.0'\n\nproject '"
        + target
        + "', {\n"
        + "".join(f"  '{name}' => :{'debug' if 'Debug' in name else 'release'},\n" for name in CONFIGURATIONS)
        + f"}}\n\ntarget '{target}' do\nend\n",
        **{
            f"{at}{target}.xcodeproj/xcshareddata/xcschemes/{target}{'-' if flavor else ''}{flavor}.xcscheme": scheme(flavor, target)
            for flavor in ("", *FLAVORS)
        },
        **{f"{at}{target}/{flavor}/GoogleService-Info.plist": service_plist(f"org.lendspan.{flavor}") for flavor in FLAVORS},
        f"{at}{target}/GoogleService-Info.plist": service_plist("org.lendspan"),
    }
    if native:
        found |= {f"{at}Widget/Info.plist": plist(part), f"{at}Widget/Widget.entitlements": plist(RIGHTS), f"{at}Watch/Info.plist": plist(part)}
        for flavor in FLAVORS:
            id_ = f"org.lendspan.{flavor}"
            profiles = {id_: f"Store {id_}", f"{id_}.widget": f"Store {id_}.widget", f"{id_}.watch": f"Store {id_}.watch"}
            found[f"{at}export/{flavor}.plist"] = plist({"method": "app-store-connect", "provisioningProfiles": profiles})
    return found


OWN = {"MARKETING_VERSION": "1.2.0", "CURRENT_PROJECT_VERSION": "7"}


def lists() -> dict[str, str]:
    """Return what names every flavor: CI, a Makefile, environments."""
    steps = "".join(f"      - run: make release FLAVOR={flavor}\n" for flavor in FLAVORS)
    found = {
        ".github/workflows/release.yml": f"jobs:\n  build:\n    strategy:\n      matrix:\n        flavor: [{', '.join(FLAVORS)}]\n    steps:\n{steps}",
        "Makefile": "".join(f"start-{flavor}:\n\tadb shell am start -n org.lendspan.{flavor}/org.lendspan.MainActivity\n" for flavor in FLAVORS),
    }
    for flavor in FLAVORS:
        found[f".env.{flavor}"] = f"SERVER=https://{flavor}.lendspan.org\nCURRENCY=EUR\nBRAND={flavor}\n"
    return found


# -- kinds


def native() -> dict[str, str]:
    return {**android("android"), **apple("ios", "Lend", OWN), **lists()}


def flutter() -> dict[str, str]:
    framework = {"MARKETING_VERSION": "$(FLUTTER_BUILD_NAME)", "CURRENT_PROJECT_VERSION": "$(FLUTTER_BUILD_NUMBER)"}
    launches = [
        {"name": f"{flavor} debug", "request": "launch", "type": "dart", "program": f"lib/main_{flavor}.dart", "args": ["--flavor", flavor]}
        for flavor in FLAVORS
    ]
    found = {
        **android("android", "flutter.versionName", "flutter.versionCode", native=False),
        **apple("ios", "Runner", framework, native=False),
        **lists(),
        "pubspec.yaml": "name: lendspan\nversion: 1.2.0+7\n\ndependencies:\n  flutter:\n    sdk: flutter\n",
        "lib/main.dart": "void main() {}\n",
        ".vscode/launch.json": json.dumps({"version": "0.2.0", "configurations": launches}, indent=2) + "\n",
        "web/manifest.json": json.dumps({"name": "Lendspan", "short_name": "Lendspan", "icons": []}, indent=2) + "\n",
        "web/index.html": "<html><head><title>Lendspan</title></head></html>\n",
        "linux/CMakeLists.txt": 'set(BINARY_NAME "lendspan")\nset(APPLICATION_ID "org.lendspan")\n',
        "macos/Runner/Configs/AppInfo.xcconfig": "PRODUCT_NAME = Lendspan\nPRODUCT_BUNDLE_IDENTIFIER = org.lendspan\n",
        "macos/Runner.xcodeproj/project.pbxproj": pbxproj(
            ["Debug", "Release"],
            {"SDKROOT": "macosx"},
            {"Runner": ("app", {"*": {"INFOPLIST_FILE": "Runner/Info.plist", **framework}})},
            bases={"Runner": "Runner/Configs/AppInfo.xcconfig"},
        ),
        "macos/Runner/Info.plist": plist(
            {
                "CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)",
                "CFBundleName": "$(PRODUCT_NAME)",
                "CFBundleShortVersionString": "$(FLUTTER_BUILD_NAME)",
                "CFBundleVersion": "$(FLUTTER_BUILD_NUMBER)",
                "ITSAppUsesNonExemptEncryption": False,
            }
        ),
        "windows/runner/Runner.rc": 'VALUE "ProductName", "Lendspan"\nVALUE "InternalName", "lendspan"\n',
    }
    for flavor in FLAVORS:
        found[f"lib/main_{flavor}.dart"] = f"import 'main.dart' as app;\n\nconst brand = '{flavor}';\n\nvoid main() => app.main();\n"
        found[f".run/{flavor}.run.xml"] = (
            f'<component name="ProjectRunConfigurationManager">\n  <configuration name="{flavor}" type="FlutterRunConfigurationType">\n    <option name="buildFlavor" value="{flavor}" />\n    <option name="filePath" value="$PROJECT_DIR$/lib/main_{flavor}.dart" />\n  </configuration>\n</component>\n'
        )
    return found


def react_native() -> dict[str, str]:
    scripts = {f"android:{flavor}": f"react-native run-android --mode={flavor}Debug --appId org.lendspan.{flavor}" for flavor in FLAVORS}
    scripts |= {f"ios:{flavor}": f"react-native run-ios --scheme Lend-{flavor}" for flavor in FLAVORS}
    main = 'package org.lendspan\n\nclass MainActivity : ReactActivity() {\n    override fun getMainComponentName(): String = "Lend"\n}\n\nclass Lend\n\nclass Files\n'
    return {
        **android("android"), **apple("ios", "Lend", OWN), **lists(),
        "android/app/src/main/java/org/lendspan/MainActivity.kt": main,
        "ios/Lend/AppDelegate.swift": 'factory.startReactNative(withModuleName: "Lend", in: window)\n',
        "app.json": json.dumps({"name": "Lend", "displayName": "Lendspan"}, indent=2) + "\n",
        "index.js": "import {name as appName} from './app.json';\nAppRegistry.registerComponent(appName, () => App);\n",
        "package.json": json.dumps({"name": "lendspan", "version": "1.2.0", "scripts": scripts, "dependencies": {"react": "19.0.0", "react-native": "0.80.0"}}, indent=2) + "\n",
    }  # fmt: skip


RIGHT = {"native": native, "flutter": flutter, "react-native": react_native}


def _hybrid(ios: str, target: str, deep: str) -> dict[str, str]:
    """Return the generated halves of an app without flavors."""
    version = {"MARKETING_VERSION": "1.2.0", "CURRENT_PROJECT_VERSION": "7"}
    settings = {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan", "PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": f"{target}/Info.plist", **version}
    listed: dict[str, object] = {
        "CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)",
        "CFBundleDisplayName": "Lendspan",
        "CFBundleShortVersionString": "$(MARKETING_VERSION)",
        "CFBundleVersion": "$(CURRENT_PROJECT_VERSION)",
        "ITSAppUsesNonExemptEncryption": False,
    }
    return {
        "android/settings.gradle": "include ':app'\n",
        "android/app/build.gradle": "apply plugin: 'com.android.application'\n\nandroid {\n    namespace 'org.lendspan'\n    defaultConfig {\n        applicationId 'org.lendspan'\n        targetSdkVersion 35\n        versionCode 7\n        versionName '1.2.0'\n    }\n}\n",
        "android/app/src/main/AndroidManifest.xml": f'<manifest {NS}>\n    <application android:label="@string/app_name">\n        <activity android:name=".MainActivity" android:label="@string/title_activity_main" android:exported="true">\n{STARTS}        </activity>\n    </application>\n</manifest>\n',
        "android/app/src/main/res/values/strings.xml": resources(
            app_name="Lendspan", title_activity_main="Lendspan", package_name="org.lendspan", custom_url_scheme="org.lendspan"
        ),
        f"android/app/src/main/java/{deep}/MainActivity.java": "package org.lendspan;\n\npublic class MainActivity {}\n",
        f"{ios}/{target}.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, {target: ("app", {"*": settings})}),
        f"{ios}/{target}/Info.plist": plist(listed),
    }


def capacitor() -> dict[str, str]:
    return {
        **_hybrid("ios/App", "App", "org/lendspan"),
        "capacitor.config.json": json.dumps({"appId": "org.lendspan", "appName": "Lendspan", "webDir": "www"}, indent=2) + "\n",
        "package.json": json.dumps({"name": "lendspan", "version": "1.2.0", "scripts": {"start": "adb shell am start -n org.lendspan/.MainActivity"}}, indent=2)
        + "\n",
        "src/index.html": "<html><head><title>Lendspan</title></head></html>\n",
    }


def expo() -> dict[str, str]:
    config = {
        "name": "Lendspan", "slug": "lendspan", "version": "1.2.0", "scheme": "lendspan", "icon": "./assets/icon.png",
        "ios": {"bundleIdentifier": "org.lendspan", "buildNumber": "7", "googleServicesFile": "./GoogleService-Info.plist", "associatedDomains": ["applinks:go.lendspan.org"], "infoPlist": {"ITSAppUsesNonExemptEncryption": False, "NSCameraUsageDescription": "Scan the label of a tool."}},
        "android": {"package": "org.lendspan", "versionCode": 7, "googleServicesFile": "./google-services.json", "intentFilters": [{"action": "VIEW", "data": [{"scheme": "https", "host": "go.lendspan.org"}]}], "adaptiveIcon": {"foregroundImage": "./assets/front.png", "backgroundColor": "#123456"}},
    }  # fmt: skip
    return {
        "app.json": json.dumps({"expo": config}, indent=2) + "\n",
        "package.json": json.dumps({"name": "lendspan", "version": "1.2.0", "dependencies": {"expo": "53.0.0", "react-native": "0.80.0"}}, indent=2) + "\n",
        "google-services.json": service_json("org.lendspan"),
        "GoogleService-Info.plist": service_plist("org.lendspan"),
        "index.js": "registerRootComponent(App);\n",
        "assets/icon.png": "a picture",
        "assets/front.png": "a picture",
    }


def maui() -> dict[str, str]:
    script = (
        '<Project Sdk="Microsoft.NET.Sdk">\n  <PropertyGroup>\n    <TargetFrameworks>net9.0-android;net9.0-ios</TargetFrameworks>\n    <UseMaui>true</UseMaui>\n    <ApplicationTitle>Lendspan</ApplicationTitle>\n    <ApplicationId>org.lendspan</ApplicationId>\n'
        "    <ApplicationDisplayVersion>1.2.0</ApplicationDisplayVersion>\n    <ApplicationVersion>7</ApplicationVersion>\n  </PropertyGroup>\n</Project>\n"
    )
    return {
        "Lendspan.csproj": script,
        "Platforms/Android/AndroidManifest.xml": f"<manifest {NS}>\n    <application/>\n</manifest>\n",
        "Platforms/Android/MainActivity.cs": "namespace Lendspan;\n\npublic class MainActivity {}\n",
        "Platforms/iOS/Info.plist": plist(
            {"UIDeviceFamily": [1], "ITSAppUsesNonExemptEncryption": False, "NSCameraUsageDescription": "Scan the label of a tool."}
        ),
        "Platforms/Android/google-services.json": service_json("org.lendspan"),
        "Platforms/iOS/GoogleService-Info.plist": service_plist("org.lendspan"),
    }


def cordova() -> dict[str, str]:
    return {
        "config.xml": '<?xml version="1.0" encoding="utf-8"?>\n<widget id="org.lendspan" version="1.2.0" android-versionCode="7" ios-CFBundleVersion="7" xmlns="http://www.w3.org/ns/widgets">\n    <name>Lendspan</name>\n    <platform name="android">\n        <preference name="android-targetSdkVersion" value="35" />\n    </platform>\n</widget>\n',
        "package.json": json.dumps({"name": "org.lendspan", "displayName": "Lendspan", "version": "1.2.0"}, indent=2) + "\n",
        "www/index.html": "<html><head><title>Lendspan</title></head></html>\n",
    }


RIGHT |= {"capacitor": capacitor, "expo": expo, "maui": maui, "cordova": cordova}
