"""Small cross-platform projects, one per kind, in the layout their tools make.

They are written with words that :func:`spelled` replaces: IdZz the ID (PathZz as folders), NameZz the shown name,
VersionZz and BuildZz, TechZz the technical name (LowZz in lower case).
"""

from __future__ import annotations

from test_apple import plist
from xcode import pbxproj

GRADLE = (
    "plugins { id 'com.android.application' }\nandroid {\n    namespace 'IdZz'\n    defaultConfig {\n"
    "        applicationId 'IdZz'\n        versionCode %s\n        versionName %s\n    }\n}\n"
)
MANIFEST = (
    '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
    '    <application android:label="@string/app_name">\n        <activity android:name=".MainActivity">\n            <intent-filter>\n                <action android:name="android.intent.action.MAIN"/>\n'
    '                <category android:name="android.intent.category.LAUNCHER"/>\n            </intent-filter>\n        </activity>\n'
    "    </application>\n</manifest>\n"
)
STRINGS = '<resources>\n    <string name="app_name">NameZz</string>\n</resources>\n'


def android(folder: str, build: str = "BuildZz", version: str = '"VersionZz"', main: str = "") -> dict[str, str]:
    return {
        f"{folder}/settings.gradle": "rootProject.name = 'TechZz'\ninclude ':app'\n",
        f"{folder}/app/build.gradle": GRADLE % (build, version),
        f"{folder}/app/src/main/AndroidManifest.xml": MANIFEST,
        f"{folder}/app/src/main/res/values/strings.xml": STRINGS,
        f"{folder}/app/src/main/java/PathZz/MainActivity.kt": f"package IdZz\n\nclass MainActivity {{{main}}}\n",
    }


def ios(folder: str, name: str, version: str = "VersionZz", build: str = "BuildZz", swift: str = "") -> dict[str, str]:
    settings = {
        name: (
            "app",
            {
                "*": {
                    "PRODUCT_BUNDLE_IDENTIFIER": "IdZz",
                    "PRODUCT_NAME": "$(TARGET_NAME)",
                    "INFOPLIST_FILE": f"{name}/Info.plist",
                    "MARKETING_VERSION": version,
                    "CURRENT_PROJECT_VERSION": build,
                }
            },
        )
    }
    return {
        f"{folder}/{name}.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, settings, {name: name}),
        f"{folder}/{name}/Info.plist": plist(
            CFBundleIdentifier="$(PRODUCT_BUNDLE_IDENTIFIER)",
            CFBundleDisplayName="NameZz",
            CFBundleShortVersionString="$(MARKETING_VERSION)",
            CFBundleVersion="$(CURRENT_PROJECT_VERSION)",
        ),
        f"{folder}/{name}/AppDelegate.swift": swift or "import UIKit\n",
    }


PACKAGE = '{\n  "name": "LowZz",\n  "version": "0.0.1",\n  "dependencies": {\n    "%s": "1.0.0",\n    "react-native": "1.0.0"\n  }\n}\n'

KINDS: dict[str, dict[str, str]] = {
    "flutter": {
        **android("android", "flutter.versionCode", "flutter.versionName"),
        **ios("ios", "Runner", "$(FLUTTER_BUILD_NAME)", "$(FLUTTER_BUILD_NUMBER)"),
        "pubspec.yaml": "name: LowZz\ndescription: lends\nversion: VersionZz+BuildZz # both stores\ndependencies:\n  flutter:\n    sdk: flutter\n",
        "lib/main.dart": "import 'package:LowZz/tools.dart';\n// package:shed/x\nfinal app = MaterialApp(title: 'NameZz');\n",
        "test/a_test.dart": "import 'package:LowZz/main.dart';\nimport 'package:shed_kit/kit.dart';\nimport 'package:flutter/material.dart';\n",
        "packages/extra/pubspec.yaml": "name: extra\ndependencies:\n  LowZz:\n    path: ../..\n",
        "packages/extra/lib/extra.dart": "export 'package:LowZz/tools.dart';\n",
        "linux/CMakeLists.txt": 'set(BINARY_NAME "LowZz")\nset(APPLICATION_ID "IdZz")\n',
        "windows/runner/Runner.rc": 'VALUE "CompanyName", "org.x"\nVALUE "ProductName", "NameZz"\nVALUE "InternalName", "LowZz"\n',
        "web/manifest.json": '{\n    "name": "NameZz",\n    "short_name": "NameZz"\n}\n',
        "web/index.html": "<html><head><title>NameZz</title></head></html>\n",
    },
    "react-native": {
        **android("android", main='\n    override fun getMainComponentName(): String = "TechZz"\n'),
        **ios("ios", "TechZz", swift='factory.startReactNative(\n    withModuleName: "TechZz",\n    in: window)\n'),
        "app.json": '{\n  "name": "TechZz",\n  "displayName": "NameZz"\n}\n',
        "index.js": "import {name as appName} from './app.json';\nAppRegistry.registerComponent(appName, () => App);\n",
        "package.json": PACKAGE % "react",
        "react-native.config.js": "module.exports = {project: {android: {packageName: 'IdZz'}}};\n",
        "src/ids.ts": "export const STORE = 'https://store.example/?id=IdZz';\nexport const OTHER = 'org.x.shedding';\n",
        "e2e/config.js": "module.exports = {ios: {binaryPath: 'ios/build/Products/TechZz.app', build: 'xcodebuild -workspace ios/TechZz.xcworkspace -scheme TechZz'}};\n",
    },
    "capacitor": {
        **android("android"),
        **ios("ios/App", "App"),
        "android/app/src/main/AndroidManifest.xml": MANIFEST.replace('".MainActivity"', '".MainActivity" android:label="@string/title_activity_main"'),
        "capacitor.config.ts": "import type { CapacitorConfig } from '@capacitor/cli';\n\nconst config: CapacitorConfig = {\n  appId: 'IdZz',\n  appName: 'NameZz',\n  webDir: 'www',\n};\n\nexport default config;\n",
        "android/app/src/main/res/values/strings.xml": STRINGS.replace(
            "</res",
            '    <string name="title_activity_main">NameZz</string>\n    <string name="package_name">IdZz</string>\n    <string name="custom_url_scheme">IdZz</string>\n</res',
        ),
        "package.json": '{\n\t"name": "LowZz",\n\t"version": "0.0.1"\n}',
        "ionic.config.json": '{ "name": "NameZz", "type": "angular" }\n',
        "src/index.html": "<head><title>NameZz</title></head>\n",
    },
    "expo": {
        "app.json": '{\n  "expo": {\n    "name": "NameZz",\n    "slug": "LowZz",\n    "version": "VersionZz",\n    "scheme": "IdZz",\n    "ios": {\n      "bundleIdentifier": "IdZz",\n      "buildNumber": "BuildZz"\n    },\n    "android": { "package": "IdZz", "versionCode": BuildZz }\n  }\n}\n',
        "package.json": PACKAGE % "expo",
        "index.js": "registerRootComponent(App);\n",
        ".gitignore": "android/\nios/\n",
        "eas.json": '{"submit": {"ios": {"bundleIdentifier": "IdZz"}}}\n',
    },
    "cordova": {
        "config.xml": '<?xml version=\'1.0\' encoding=\'utf-8\'?>\n<widget id="IdZz" version="VersionZz" android-versionCode="BuildZz" ios-CFBundleVersion="BuildZz"\n    xmlns="http://www.w3.org/ns/widgets">\n    <name short="NameZz">NameZz</name>\n    <author href="https://x.example">x</author>\n</widget>\n',
        "package.json": '{"name": "LowZz", "displayName": "NameZz"}\n',
        "www/index.html": "<title>NameZz</title>\n",
    },
    "nativescript": {
        "nativescript.config.ts": "import { NativeScriptConfig } from '@nativescript/core'\n\nexport default {\n  id: 'IdZz',\n  appPath: 'src',\n} as NativeScriptConfig\n",
        "App_Resources/Android/app.gradle": 'android {\n  defaultConfig {\n    minSdkVersion 21\n    versionCode BuildZz\n    versionName "VersionZz"\n  }\n}\n',
        "App_Resources/Android/src/main/res/values/strings.xml": STRINGS,
        "App_Resources/Android/src/main/AndroidManifest.xml": MANIFEST,
        "App_Resources/iOS/Info.plist": plist(CFBundleDisplayName="NameZz", CFBundleShortVersionString="VersionZz", CFBundleVersion="BuildZz"),
        "package.json": '{"name": "LowZz"}\n',
    },
    "maui": {
        "Shed.csproj": '\ufeff<Project Sdk="Microsoft.NET.Sdk">\r\n\t<PropertyGroup>\r\n\t\t<UseMaui>true</UseMaui>\r\n\t\t<ApplicationTitle>NameZz</ApplicationTitle>\r\n\t\t<ApplicationId>IdZz</ApplicationId>\r\n\t\t<ApplicationDisplayVersion>VersionZz</ApplicationDisplayVersion>\r\n\t\t<ApplicationVersion>BuildZz</ApplicationVersion>\r\n\t</PropertyGroup>\r\n</Project>\r\n',
        "Platforms/Android/AndroidManifest.xml": MANIFEST.replace('"@string/app_name"', '"NameZz"'),
        "Platforms/iOS/Info.plist": plist(UIDeviceFamily=[1]),
    },
    "multiplatform": {
        **{path.removeprefix("./"): text for path, text in android(".").items()},
        **ios("iosApp", "TechZz", "VersionZz", "$(BUILD)"),
        "iosApp/TechZz.xcodeproj/project.pbxproj": ios("iosApp", "TechZz", "VersionZz", "$(BUILD)")["iosApp/TechZz.xcodeproj/project.pbxproj"]
        .replace("IdZz", '"${BUNDLE}$(SUFFIX)"')
        .replace("\t\t\t\tSDKROOT", "\t\t\t\tBUILD = BuildZz;\n\t\t\t\tBUNDLE = IdZz;\n\t\t\t\tSDKROOT")
        .replace("\t\t\t};\n\t\t\tname = Release", '\t\t\t\tSUFFIX = "";\n\t\t\t};\n\t\t\tname = Release'),
        "shared/build.gradle.kts": 'plugins {\n    kotlin("multiplatform")\n}\n',
        "desktop/build.gradle.kts": 'compose.desktop {\n    application {\n        nativeDistributions {\n            packageName = "IdZz"\n            packageVersion = "VersionZz"\n        }\n    }\n}\n',
    },
    "unity": {
        "ProjectSettings/ProjectSettings.asset": "%YAML 1.1\n%TAG !u! tag:unity3d.com,2011:\n--- !u!129 &1\nPlayerSettings:\n  productName: NameZz\n  bundleVersion: VersionZz\n  applicationIdentifier:\n    Android: IdZz\n    Standalone: IdZz\n    iPhone: IdZz\n  buildNumber:\n    iPhone: BuildZz\n  AndroidBundleVersionCode: BuildZz\n"
    },
    "godot": {
        "project.godot": '[application]\n\nconfig/name="NameZz"\n',
        "export_presets.cfg": '[preset.0]\n\nname="A"\nplatform="Android"\n\n[preset.0.options]\n\nversion/code=BuildZz\nversion/name="VersionZz"\npackage/unique_name="IdZz"\npackage/name="NameZz"\n\n[preset.1]\n\nname="I"\nplatform="iOS"\n\n[preset.1.options]\n\napplication/bundle_identifier="IdZz"\napplication/short_version="VersionZz"\napplication/version="BuildZz"\n',
    },
    "tauri": {
        "src-tauri/tauri.conf.json": '{\n  "productName": "NameZz",\n  "version": "VersionZz",\n  "identifier": "IdZz",\n  "app": { "windows": [{ "title": "NameZz" }] },\n  "bundle": { "icon": ["icons/32x32.png"], "android": { "versionCode": BuildZz }, "iOS": { "bundleVersion": "BuildZz" } }\n}\n',
        "src-tauri/Cargo.toml": '[package]\nname = "LowZz"\n',
        "package.json": '{"name": "LowZz"}\n',
        "index.html": "<title>NameZz</title>\n",
    },
}


def spelled(kind: str, app_id: str, name: str, version: str, build: str, technical: str = "Shed", low: str = "shed") -> dict[str, str]:
    """Return a kind's files with everything called so; *name* must need no escape in any of them."""
    words = {"IdZz": app_id, "PathZz": app_id.replace(".", "/"), "NameZz": name, "VersionZz": version, "BuildZz": build, "TechZz": technical, "LowZz": low}
    found = {}
    for path, text in KINDS[kind].items():
        for word, value in words.items():
            path, text = path.replace(word, value), text.replace(word, value)
        found[path] = text
    return found
