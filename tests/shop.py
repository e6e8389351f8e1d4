"""A white-label project with all that a package can be held against, and its packages as a build would make them."""

from __future__ import annotations

import json
import plistlib
from collections.abc import Mapping
from pathlib import Path

import packaged
import right
from packaged import ANDROID, picture

BRANDS = {"alderbank": "Alderbank Tools", "mossgate": "Mossgate Shed", "pennywick": "Pennywick Lends"}
LOGINS = {"alderbank": "110000000001", "mossgate": "220000000002", "pennywick": "330000000003"}
NUMBERS = {"alderbank": 1, "mossgate": 2, "pennywick": 3}
BUCKETS = {"mdpi": 1.0, "hdpi": 1.5, "xhdpi": 2.0, "xxhdpi": 3.0, "xxxhdpi": 4.0}
LINK = """<intent-filter android:autoVerify="true"><action android:name="android.intent.action.VIEW"/>
        <category android:name="android.intent.category.DEFAULT"/><category android:name="android.intent.category.BROWSABLE"/>
        <data android:scheme="https" android:host="${host}"/><data android:scheme="${scheme}"/></intent-filter>"""
INSIDE = f"""
    <activity android:name="org.lendspan.app.Main" android:exported="true">
      <intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter>
      {LINK}
    </activity>
    <provider android:name="org.lendspan.app.Files" android:authorities="${{applicationId}}.files" android:exported="false"/>
    <meta-data android:name="login" android:value="@string/login_id"/>
"""
BEFORE = '<uses-permission android:name="android.permission.CAMERA"/>'
ADAPTIVE = f'<adaptive-icon {ANDROID}><background android:drawable="@color/ground"/><foreground android:drawable="@mipmap/ic_front"/><monochrome android:drawable="@mipmap/ic_front"/></adaptive-icon>'


def service(flavor: str) -> dict[str, object]:
    number = NUMBERS[flavor]
    return {
        "project_info": {"project_number": f"{number}00000000000", "project_id": f"shelf-{flavor}", "storage_bucket": f"shelf-{flavor}.store.example"},
        "client": [{
            "client_info": {"mobilesdk_app_id": f"1:{number}00000000000:android:abc{number}", "android_client_info": {"package_name": f"org.lendspan.{flavor}"}},
            "api_key": [{"current_key": "AIza" + str(number) * 35}],
            "oauth_client": [{"client_id": f"{number}-web.apps.example", "client_type": 3}],
        }],
    }  # fmt: skip


def service_list(flavor: str) -> dict[str, object]:
    number = NUMBERS[flavor]
    return {
        "BUNDLE_ID": f"org.lendspan.{flavor}",
        "GCM_SENDER_ID": f"{number}00000000000",
        "GOOGLE_APP_ID": f"1:{number}00000000000:ios:def{number}",
        "PROJECT_ID": f"shelf-{flavor}",
    }


def pictures(flavor: str) -> dict[str, bytes]:
    seed = NUMBERS[flavor]
    found = {f"mipmap-{name}/ic_launcher.png": picture(round(48 * share), "RGB", seed) for name, share in BUCKETS.items()}
    return found | {f"mipmap-{name}/ic_front.png": picture(round(108 * share), "RGB", seed + 3) for name, share in BUCKETS.items()}


def own_resources(flavor: str) -> dict[str, str | bytes]:
    """Return what a flavor's folder holds."""
    ground = f"#{NUMBERS[flavor]}04050"[:7]
    return {
        "values/brand.xml": packaged.strings(app_name=BRANDS[flavor], login_id=LOGINS[flavor]).replace(
            "</resources>", f'<color name="ground">{ground}</color></resources>'
        ),
        "values-de/brand.xml": packaged.strings(app_name=f"{BRANDS[flavor]} DE"),
        "mipmap-anydpi-v26/ic_launcher.xml": ADAPTIVE,
        **pictures(flavor),
    }


def identity(fingerprints: str = "") -> str:
    lines = ["format = 1", "", "[app]", 'version = "2.4.0"', "build = 7", ""]
    lines += [
        "[values.login-id]",
        'pattern = "[0-9]{12}"',
        'places = [{ resource = "string/login_id", platform = "android" }, { plist = "LoginID", platform = "ios" }]',
        "",
    ]
    for flavor, shown in BRANDS.items():
        prints = f'\nfingerprints = ["{fingerprints}"]' if fingerprints else ""
        lines += [
            f"[flavors.{flavor}]",
            f'name = "{shown}"',
            f'id = "org.lendspan.{flavor}"',
            f'names = {{ de = "{shown} DE" }}',
            f'values = {{ login-id = "{LOGINS[flavor]}" }}',
        ]
        lines += ["", f"[flavors.{flavor}.services]", f'hosts = ["{flavor}.lendspan.example"]{prints}', ""]
    return "\n".join(lines)


def project(fingerprints: str = "") -> dict[str, str | bytes]:
    flavors = "".join(
        f'        create("{name}") {{\n            dimension = "brand"\n            applicationId = "org.lendspan.{name}"\n            manifestPlaceholders["host"] = "{name}.lendspan.example"\n            manifestPlaceholders["scheme"] = "lend-{name}"\n        }}\n'
        for name in BRANDS
    )
    files: dict[str, str | bytes] = {
        "onomaxis.toml": identity(fingerprints),
        "android/settings.gradle.kts": 'include(":app")\n',
        "android/app/build.gradle.kts": (
            'plugins { id("com.android.application") }\n\nandroid {\n    namespace = "org.lendspan.app"\n    defaultConfig {\n        applicationId = "org.lendspan"\n        minSdk = 24\n        targetSdk = 35\n'
            f'        versionName = "2.4.0"\n        versionCode = 7\n    }}\n    flavorDimensions += "brand"\n    productFlavors {{\n{flavors}    }}\n}}\n'
        ),
        "android/app/src/main/AndroidManifest.xml": f'<manifest {ANDROID}>\n  {BEFORE}\n  <application android:label="@string/app_name" android:icon="@mipmap/ic_launcher">{INSIDE}</application>\n</manifest>\n',
        "android/app/src/main/java/org/lendspan/app/Main.kt": "package org.lendspan.app\n\nclass Main\n\nclass Files\n",
        "android/app/src/main/res/values/strings.xml": packaged.strings(app_name="Lendspan", login_id="000000000000"),
    }
    for flavor in BRANDS:
        files |= {f"android/app/src/{flavor}/res/{name}": data for name, data in own_resources(flavor).items()}
        files[f"android/app/src/{flavor}/google-services.json"] = json.dumps(service(flavor), indent=2)
    return files | apple()


def apple() -> dict[str, str | bytes]:
    """Return the iOS half: every configuration belongs to a brand."""
    names = [f"{kind}-{flavor}" for flavor in BRANDS for kind in ("Debug", "Release")]
    settings: dict[str, dict[str, str]] = {
        "*": {
            "PRODUCT_NAME": "Lend",
            "INFOPLIST_FILE": "Lend/Info.plist",
            "CODE_SIGN_ENTITLEMENTS": "Lend/Lend.entitlements",
            "MARKETING_VERSION": "2.4.0",
            "CURRENT_PROJECT_VERSION": "7",
            "DEVELOPMENT_TEAM": "LEND234567",
        }
    }
    parts: dict[str, dict[str, str]] = {"*": {**settings["*"], "INFOPLIST_FILE": "Widget/Info.plist"}}
    for name in names:
        flavor = name.partition("-")[2]
        settings[name] = {
            "PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{flavor}",
            "SHOWN": BRANDS[flavor],
            "LOGIN": LOGINS[flavor],
            "HOST": f"{flavor}.lendspan.example",
            "LINK": f"lend-{flavor}",
            "ASSETCATALOG_COMPILER_APPICON_NAME": f"AppIcon-{flavor}",
        }
        parts[name] = {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{flavor}.widget"}
    text = right.pbxproj(names, {"SDKROOT": "iphoneos", "IPHONEOS_DEPLOYMENT_TARGET": "15.0"}, {"Lend": ("app", settings), "Widget": ("widget", parts)})
    listed = {
        "CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)",
        "CFBundleDisplayName": "$(SHOWN)",
        "CFBundleShortVersionString": "$(MARKETING_VERSION)",
        "CFBundleVersion": "$(CURRENT_PROJECT_VERSION)",
        "LoginID": "$(LOGIN)",
        "CFBundleURLTypes": [{"CFBundleURLSchemes": ["$(LINK)"]}],
        "NSCameraUsageDescription": "To scan the code of a tool",
    }
    files: dict[str, str | bytes] = {
        "ios/Lend.xcodeproj/project.pbxproj": text,
        "ios/Lend/Info.plist": right.plist(listed),
        "ios/Widget/Info.plist": right.plist({key: listed[key] for key in ("CFBundleIdentifier", "CFBundleShortVersionString", "CFBundleVersion")}),
        "ios/Lend/Lend.entitlements": right.plist({"com.apple.developer.associated-domains": ["applinks:$(HOST)"]}),
    }
    for flavor in BRANDS:
        at = f"ios/Lend/Assets.xcassets/AppIcon-{flavor}.appiconset"
        entry = {"filename": "icon.png", "idiom": "universal", "platform": "ios", "size": "1024x1024"}
        files[f"{at}/Contents.json"] = json.dumps({"images": [entry], "info": {"author": "xcode", "version": 1}}, indent=2)
        files[f"{at}/icon.png"] = picture(1024, "RGB", NUMBERS[flavor])
        files[f"ios/Lend/{flavor}/GoogleService-Info.plist"] = right.plist(service_list(flavor))
    return files


def write(folder: Path, files: Mapping[str, str | bytes]) -> Path:
    for name, data in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return folder


# -- what a build makes of it


def manifest(flavor: str) -> str:
    text = packaged.manifest(f"org.lendspan.{flavor}", inside=INSIDE, before=BEFORE)
    return text.replace("${applicationId}", f"org.lendspan.{flavor}").replace("${host}", f"{flavor}.lendspan.example").replace("${scheme}", f"lend-{flavor}")


def resources(flavor: str) -> dict[str, str | bytes]:
    said = service(flavor)
    client = said["client"][0]  # type: ignore[index]
    made = {
        "google_app_id": client["client_info"]["mobilesdk_app_id"],
        "gcm_defaultSenderId": said["project_info"]["project_number"],  # type: ignore[index]
        "project_id": said["project_info"]["project_id"],  # type: ignore[index]
        "google_api_key": client["api_key"][0]["current_key"],
        "default_web_client_id": client["oauth_client"][0]["client_id"],
    }
    return {**own_resources(flavor), "values/services.xml": packaged.strings(**made)}


ENTRIES = {"classes.dex": packaged.dex("Lorg/lendspan/app/Main;", "org.lendspan.app.Main"), "assets/settings.json": b'{"currency": "EUR"}\n'}


def ipa_files(flavor: str, root: str = "Payload/Lend.app/") -> dict[str, bytes]:
    info = {
        "CFBundleIdentifier": f"org.lendspan.{flavor}",
        "CFBundleDisplayName": BRANDS[flavor],
        "LoginID": LOGINS[flavor],
        "CFBundleURLTypes": [{"CFBundleURLSchemes": [f"lend-{flavor}"]}],
    }
    files = packaged.app_files(root, info, {"com.apple.developer.associated-domains": [f"applinks:{flavor}.lendspan.example"]})
    widget = {
        "CFBundleIdentifier": f"org.lendspan.{flavor}.widget",
        "CFBundleShortVersionString": "2.4.0",
        "CFBundleVersion": "7",
        "CFBundleExecutable": "Widget",
    }
    files |= {
        name: picture(int(size), "RGB", NUMBERS[flavor])
        for name, size in ((f"{root}AppIcon60x60@2x.png", 120), (f"{root}AppIcon60x60@3x.png", 180), (f"{root}AppIcon76x76@2x~ipad.png", 152))
    }
    files[f"{root}de.lproj/InfoPlist.strings"] = f'"CFBundleDisplayName" = "{BRANDS[flavor]} DE";\n'.encode("utf-16")
    files[f"{root}GoogleService-Info.plist"] = plistlib.dumps(service_list(flavor), fmt=plistlib.FMT_BINARY)
    files[f"{root}PlugIns/Widget.appex/Info.plist"] = plistlib.dumps(widget)
    files[f"{root}PlugIns/Widget.appex/Widget"] = packaged.executable({})
    return files
