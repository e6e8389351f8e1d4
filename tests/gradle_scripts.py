"""Groovy build scripts in the styles that people use, each a small project: path to text; and their layout by seed."""

from __future__ import annotations

import random
import re

HEAD = "plugins { id 'com.android.application' }\nandroid {\n    namespace 'org.lendspan.app'\n    compileSdk 34\n"
PLAIN = "buildTypes { release { minifyEnabled true } debug { applicationIdSuffix '.debug'\n versionNameSuffix '-debug' } }\n"
LABEL = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="{}" android:icon="@mipmap/ic_launcher"><activity android:name=".Main" android:exported="true"><intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter></activity></application></manifest>\n'

STRINGS = "app/src/main/res/values/strings.xml"


def app(body: str, label: str = "@string/app_name", generated: bool = False, files: dict[str, str] | None = None) -> dict[str, str]:
    """A project of one app: its script, what names it; a name that the script makes has no string."""
    found = {
        "settings.gradle": "include ':app'\n",
        "app/build.gradle": body.replace("BUILD_TYPES", PLAIN),
        "app/src/main/AndroidManifest.xml": LABEL.format(label),
    }
    if not generated:
        found[STRINGS] = '<resources><string name="app_name">Lendspan</string></resources>\n'
    return {**found, **(files or {})}


def dressed(text: str, seed: str) -> str:
    """Return a script as somebody else lays it out: quotes, tabs, line ends, comments that look like code."""
    chance = random.Random(seed)
    if chance.random() < 0.5:
        text = re.sub(r"'([^'\"$\\\n/]*)'", r'"\1"', text)
    found = []
    for line in text.split("\n"):
        said = line.replace("    ", "\t") if chance.random() < 0.3 else line
        plain = said.strip() and not said.rstrip().endswith(("+", "*", "(", "\\", ",")) and "//" not in said
        if plain and chance.random() < 0.2:
            said += chance.choice(["  // applicationId 'org.decoy'", " /* versionCode 99 { */", " // } it's"])
        found.append(said)
        if line.rstrip().endswith(("{", "}")) and chance.random() < 0.1:
            found.append(chance.choice(["", "   ", "// productFlavors { decoy { } }", "/* { ' \" */"]))
    return "\n".join(found).replace("\n", "\r\n" if chance.random() < 0.3 else "\n")


SCRIPTS: dict[str, dict[str, str]] = {}
SCRIPTS["plain"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    BUILD_TYPES
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand'; applicationId 'org.lendspan.alderbank' }
        mossgate { dimension 'brand'; applicationIdSuffix '.mossgate'; versionNameSuffix '-m' }
    }
}
"""
)
SCRIPTS["semver"] = app(
    """def major = 2
def minor = 4
def patch = 7
ext { versionBuild = 3 }
"""
    + HEAD
    + """    defaultConfig {
        applicationId = "org.lendspan.app"
        versionCode = major * 10000 + minor * 100 + patch
        versionName = "${major}.${minor}.${patch}"
    }
    BUILD_TYPES}
"""
)
SCRIPTS["format"] = app(
    """def v = [2, 4, 7]
"""
    + HEAD
    + """    defaultConfig {
        applicationId "org.lendspan.app"
        versionCode v[0] * 1000000 + v[1] * 1000 + v[2]
        versionName v.join('.')
    }
}
"""
)
SCRIPTS["method"] = app(
    """def buildVersionCode() {
    return 40 + 1
}
def buildVersionName() {
    def parts = ['2', '4', '0']
    return parts.join(".")
}
"""
    + HEAD
    + """    defaultConfig {
        applicationId "org.lendspan.app"
        versionCode buildVersionCode()
        versionName buildVersionName()
    }
}
"""
)
SCRIPTS["properties"] = app(
    """def props = new Properties()
file("../version.properties").withInputStream { props.load(it) }
"""
    + HEAD
    + """    defaultConfig {
        applicationId "org.lendspan.app"
        versionCode props['VERSION_CODE'].toInteger()
        versionName props.getProperty('VERSION_NAME')
    }
}
""",
    files={"version.properties": "VERSION_CODE=52\nVERSION_NAME = 3.1.0\n"},
)
SCRIPTS["properties-guard"] = app(
    """def versionProps = new Properties()
def versionFile = rootProject.file('version.properties')
if (versionFile.exists()) {
    versionFile.withReader('UTF-8') { reader -> versionProps.load(reader) }
}
def code = versionProps.getProperty('code')
if (code == null) { code = '1' }
def nameOf = versionProps.getProperty('name') ?: '1.0'
"""
    + HEAD
    + """    defaultConfig {
        applicationId "org.lendspan.app"
        versionCode Integer.parseInt(code)
        versionName nameOf
    }
}
""",
    files={"version.properties": "code=52\n"},
)
SCRIPTS["gradle-properties"] = app(
    HEAD
    + """    defaultConfig {
        applicationId project.property('APP_ID')
        versionCode Integer.valueOf(VERSION_CODE)
        versionName project.findProperty('VERSION_NAME') ?: '0.1'
    }
    productFlavors { all { } }
}
""",
    files={"gradle.properties": "APP_ID=org.lendspan.app\nVERSION_CODE=17\n"},
)
SCRIPTS["has-property"] = app(
    HEAD
    + """    defaultConfig {
        applicationId 'org.lendspan.app'
        versionCode project.hasProperty('ciBuild') ? ciBuild.toInteger() : 12
        versionName project.hasProperty('ciName') ? ciName : '2.4'
    }
}
""",
    files={"gradle.properties": "ciName=3.0\n"},
)
SCRIPTS["environment"] = app(
    HEAD
    + """    defaultConfig {
        applicationId 'org.lendspan.app'
        versionCode((System.getenv('LENDSPAN_BUILD') ?: '41') as Integer)
        versionName System.getenv("LENDSPAN_NAME") ?: "2.4.0"
    }
}
"""
)
SCRIPTS["list-of-brands"] = app(
    """def brands = ['alderbank', 'mossgate', 'pennywick']
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        brands.each { brand ->
            "$brand" {
                dimension 'brand'
                applicationId "org.lendspan.${brand}"
                resValue 'string', 'app_name', brand.capitalize()
            }
        }
    }
}
""",
    generated=True,
)
SCRIPTS["map-of-brands"] = app(
    """def brands = [
    alderbank: [id: 'org.lendspan.alderbank', title: 'Alderbank Tools', code: 5],
    mossgate : [id: 'org.lendspan.moss', title: "Mossgate Shed", code: 7], // was 8
]
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        brands.each { name, config ->
            create(name) {
                dimension 'brand'
                applicationId config.id
                versionCode 41 + config.code
                manifestPlaceholders = [appName: config.title]
            }
        }
    }
}
""",
    label="${appName}",
    generated=True,
)
SCRIPTS["list-of-maps"] = app(
    """ext.brands = [
    [name: 'alderbank', suffix: 'alder'],
    [name: 'mossgate', suffix: null],
]
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions = ['brand']
    productFlavors {
        brands.each { b ->
            create(b.name) {
                dimension = 'brand'
                if (b.suffix) { applicationIdSuffix = ".${b.suffix}" } else { applicationIdSuffix = '.' + b.name }
            }
        }
    }
}
"""
)
SCRIPTS["closure-helper"] = app(
    """def brand = { container, key, title ->
    container.create(key) {
        dimension 'brand'
        applicationId 'org.lendspan.' + key
        resValue 'string', 'app_name', title
    }
}
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        brand(delegate, 'alderbank', 'Alderbank Tools')
        brand(delegate, 'mossgate', 'Mossgate Shed')
    }
}
""",
    generated=True,
)
SCRIPTS["suffix-map"] = app(
    """def suffixes = [alderbank: '.alder', mossgate: '.moss']
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand' }
        mossgate { dimension 'brand' }
        all { flavor -> flavor.applicationIdSuffix = suffixes[flavor.name] }
    }
}
"""
)
SCRIPTS["configure-each"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        configureEach { applicationIdSuffix ".$name" }
        alderbank { dimension 'brand' }
        mossgate { dimension 'brand'; manifestPlaceholders += [appName: 'Moss'] }
    }
    defaultConfig.manifestPlaceholders = [appName: 'Lendspan']
}
""",
    label="${appName}",
    generated=True,
)
SCRIPTS["outside"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand' }
        mossgate { dimension 'brand' }
    }
}
android.productFlavors.each { it.applicationId = "org.lendspan.${it.name}" }
android.productFlavors.mossgate.versionName = '3.0'
android.defaultConfig.versionCode = 50
"""
)
SCRIPTS["two-dimensions"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    BUILD_TYPES
    flavorDimensions 'stage', 'brand'
    productFlavors {
        alderbank { dimension 'brand'; applicationId 'org.lendspan.alderbank'; versionCode 60 }
        mossgate { dimension 'brand'; applicationId 'org.lendspan.mossgate' }
        dev { dimension 'stage'; applicationIdSuffix '.dev'; versionNameSuffix '-dev' }
        prod { dimension 'stage'; versionCode 70 }
    }
    variantFilter { variant ->
        def names = variant.flavors*.name
        if (names.contains('dev') && variant.buildType.name == 'release') { setIgnore(true) }
    }
}
"""
)
SCRIPTS["order-of-dimensions"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions = ['brand', 'stage']
    productFlavors {
        dev { dimension 'stage'; applicationId 'org.lendspan.dev'; applicationIdSuffix 'd'; resValue 'string', 'app_name', 'Dev' }
        prod { dimension 'stage' }
        alderbank { dimension 'brand'; applicationId 'org.lendspan.alderbank'; applicationIdSuffix 'a'; resValue "string", "app_name", "Alder" }
        mossgate { dimension 'brand' ; versionName '9' }
    }
}
"""
)
SCRIPTS["conditional"] = app(
    """def publish = false
"""
    + HEAD
    + """    defaultConfig {
        applicationId publish ? 'org.lendspan.app' : 'org.lendspan.trial'
        versionCode 41
        versionName(publish ? '2.4.0' : '2.4.0-trial')
    }
}
"""
)
SCRIPTS["if-else"] = app(
    """def stage = 'trial'
def appId
if (stage == 'publish') {
    appId = 'org.lendspan.app'
} else if (stage == 'trial') {
    appId = 'org.lendspan.trial'
} else {
    appId = 'org.lendspan.none'
}
"""
    + HEAD
    + """    defaultConfig {
        applicationId appId
        versionCode 41
        versionName '2.4.0'
    }
}
"""
)
SCRIPTS["switch"] = app(
    """def stage = 'trial'
def appId = ''
switch (stage) {
    case 'publish':
        appId = 'org.lendspan.app'
        break
    case 'trial':
        appId = 'org.lendspan.trial'
        break
    default:
        appId = 'org.lendspan.none'
}
"""
    + HEAD
    + """    defaultConfig {
        applicationId appId
        versionCode 41
        versionName '2.4.0'
    }
}
"""
)
SCRIPTS["strings"] = app(
    """def raw = ' Lendspan App '
def base = 'org.lendspan'
"""
    + HEAD
    + """    defaultConfig {
        applicationId base + '.' + raw.trim().toLowerCase().replace(' ', '_')
        versionCode '41'.toInteger()
        versionName '2_4_0'.replaceAll('_', '.')
        resValue 'string', 'app_name', raw.trim()
    }
}
""",
    generated=True,
)
SCRIPTS["applied"] = app(
    "apply plugin: 'com.android.application'\napply from: '../brands.gradle'\n"
    + HEAD.partition("\n")[2]
    + """    defaultConfig { applicationId appConfig.id; versionCode appConfig.code; versionName appConfig.name }
}
apply from: 'flavors.gradle'
""",
    files={
        "brands.gradle": "ext.appConfig = [id: 'org.lendspan.app', code: 41, name: '2.4.0']\n",
        "app/flavors.gradle": "android {\n    flavorDimensions 'brand'\n    productFlavors {\n        alderbank { dimension 'brand'; applicationId 'org.lendspan.alderbank' }\n        mossgate { dimension 'brand'; applicationId 'org.lendspan.mossgate' }\n    }\n}\n",
    },
)
SCRIPTS["root-ext"] = app(
    HEAD
    + """    defaultConfig {
        applicationId rootProject.ext.android.applicationId
        versionCode rootProject.ext.android.versionCode
        versionName rootProject.versionText
    }
}
""",
    files={
        "build.gradle": """buildscript {
    ext.kotlin_version = '1.9.0'
    ext { versionText = '2.4.0' }
}
ext {
    android = [
        applicationId: "org.lendspan.app",
        versionCode  : 41,
    ]
}
"""
    },
)
SCRIPTS["json"] = app(
    """import groovy.json.JsonSlurper
def brands = new JsonSlurper().parse(file('brands.json'))
def info = new JsonSlurper().parseText(rootProject.file('package.json').text)
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName info.version }
    flavorDimensions 'brand'
    productFlavors {
        brands.each { b ->
            "${b.key}" { dimension 'brand'; applicationId b.appId; resValue 'string', 'app_name', b.title }
        }
    }
}
""",
    files={
        "app/brands.json": '[{"key": "alderbank", "appId": "org.lendspan.alderbank", "title": "Alderbank"},\n {"key": "mossgate", "appId": "org.lendspan.mossgate", "title": "Moss"}]\n',
        "package.json": '{"name": "lendspan", "version": "2.4.0"}\n',
    },
    generated=True,
)
SCRIPTS["find"] = app(
    """def all = [[key: 'trial', id: 'org.lendspan.trial'], [key: 'shop', id: 'org.lendspan.shop']]
def chosen = all.find { it.key == 'shop' }
"""
    + HEAD
    + """    defaultConfig { applicationId chosen.id; versionCode 41; versionName '2.4.0' }
}
"""
)
SCRIPTS["mutated"] = app(
    """def config = [id: 'org.lendspan.old', name: '1.0']
config.id = 'org.lendspan.app'
config['name'] = '2.4.0'
def code = 40
code += 1
"""
    + HEAD
    + """    defaultConfig { applicationId config.id; versionCode code; versionName config.name }
}
"""
)
SCRIPTS["reassigned"] = app(
    """def name = '1.0'
name = '2.4.0'
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.old'; versionCode 41; versionName name }
    defaultConfig { applicationId 'org.lendspan.app' }
}
"""
)
SCRIPTS["types"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0'; manifestPlaceholders = [appName: 'Lendspan'] }
    buildTypes {
        debug { applicationIdSuffix '.debug'; manifestPlaceholders.appName = 'Lendspan Debug' }
        release { manifestPlaceholders['appName'] = 'Lendspan Tools' }
        staging { initWith debug; applicationIdSuffix '.staging'; matchingFallbacks = ['debug'] }
    }
}
""",
    label="${appName}",
    generated=True,
)
SCRIPTS["put"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0'; manifestPlaceholders appName: 'Lendspan', host: 'x' }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand'; applicationId 'org.lendspan.alderbank'; manifestPlaceholders.put('appName', 'Alderbank Tools') }
        mossgate { dimension 'brand'; applicationId 'org.lendspan.mossgate'; manifestPlaceholders = ['appName': 'Moss', "host": "y"] }
        pennywick { dimension 'brand'; applicationId 'org.lendspan.pennywick'; manifestPlaceholders host: 'z' }
    }
}
""",
    label="${appName}",
    generated=True,
)
SCRIPTS["providers"] = app(
    HEAD
    + """    defaultConfig {
        applicationId providers.gradleProperty('appId').get()
        versionCode providers.gradleProperty('code').orElse('41').get().toInteger()
        versionName providers.environmentVariable('LENDSPAN_V').getOrElse('2.4.0')
    }
}
""",
    files={"gradle.properties": "appId=org.lendspan.app\n"},
)
SCRIPTS["ext-of-flavor"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand'; ext.title = 'Alderbank Tools'; ext.offset = 100 }
        mossgate { dimension 'brand'; ext.title = 'Moss'; ext.offset = 200 }
    }
    productFlavors.all { f ->
        f.resValue 'string', 'app_name', f.ext.title
        f.versionCode = f.ext.offset + 41
    }
}
""",
    generated=True,
)
SCRIPTS["decoys"] = app(
    """/* applicationId 'org.lendspan.commented'
   productFlavors { gone { applicationId 'org.lendspan.gone' } } */
def note = "versionCode 99 // not"
"""
    + HEAD
    + """    defaultConfig {
        // applicationId 'org.lendspan.other'
        applicationId /* the shop's */ 'org.lendspan.app' // 'org.lendspan.no'
        versionCode 41 /* 42 */
        versionName '2.4.0' ; // versionName '9'
        buildConfigField 'String', 'DOC', '"applicationId \\\\"x\\\\""'
    }
    buildTypes { release { } }
    productFlavors {
        // alderbank { applicationId 'org.lendspan.a' }
    }
}
"""
)
SCRIPTS["with-tap"] = app(
    HEAD
    + """    defaultConfig.with {
        applicationId = 'org.lendspan.app'
        versionCode = 41
        versionName = '2.4.0'
    }
    flavorDimensions('brand')
    productFlavors {
        create('alderbank').with { dimension = 'brand'; applicationId = 'org.lendspan.alderbank' }
        register('mossgate') { dimension = 'brand'; applicationId = 'org.lendspan.mossgate' }
        maybeCreate('pennywick').applicationId = 'org.lendspan.pennywick'
    }
}
"""
)
SCRIPTS["collect"] = app(
    """def names = 'alderbank,mossgate'.split(',')
def ids = names.collectEntries { [(it): 'org.lendspan.' + it] }
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        for (n in names) {
            create(n) { dimension 'brand'; applicationId ids[n] }
        }
    }
}
"""
)
SCRIPTS["multi-line"] = app(
    HEAD
    + """    defaultConfig {
        applicationId(
            'org.lendspan' +
            '.app'
        )
        versionCode 2 *
            20 + 1
        versionName "2" + "." +
            "4.0"
    }
}
"""
)
SCRIPTS["ternary-flavor"] = app(
    """boolean isCi = System.getenv('LENDSPAN_CI') != null
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode isCi ? 1000 : 41; versionName '2.4.0' + (isCi ? '' : '-local') }
    flavorDimensions 'brand'
    productFlavors {
        alderbank { dimension 'brand'; applicationId isCi ? 'org.lendspan.alder' : 'org.lendspan.alder.local' }
        if (isCi) {
            nightly { dimension 'brand'; applicationId 'org.lendspan.nightly' }
        }
    }
}
"""
)
SCRIPTS["version-file"] = app(
    """def versionText = rootProject.file('VERSION').text.trim()
def (a, b, c) = versionText.tokenize('.')
"""
    + HEAD
    + """    defaultConfig {
        applicationId 'org.lendspan.app'
        versionName versionText
        versionCode a.toInteger() * 10000 + b.toInteger() * 100 + c.toInteger()
    }
}
""",
    files={"VERSION": "2.4.7\n"},
)
SCRIPTS["padded"] = app(
    """def code = { v -> v.split(/\\./).collect { it.padLeft(2, '0') }.join().toInteger() }
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionName '2.4.7'; versionCode code('2.4.7') }
}
"""
)
SCRIPTS["same-name-module"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
}
""",
    files={
        "settings.gradle": "include ':app', ':shop'\n",
        "shop/build.gradle": HEAD.replace("org.lendspan.app", "org.lendspan.shop")
        + "    defaultConfig { applicationId SHOP_ID; versionCode rootProject.ext.has('code') ? rootProject.ext.code : 7; versionName '1.0' }\n}\n",
        "shop/src/main/AndroidManifest.xml": LABEL.format("Shop"),
        "gradle.properties": "SHOP_ID=org.lendspan.shop\n",
    },
)
SCRIPTS["static-class"] = app(
    """class Config {
    static final String ID = 'org.lendspan.app'
    static final int CODE = 41
    static String name() { "2.${4}.0" }
}
"""
    + HEAD
    + """    defaultConfig { applicationId Config.ID; versionCode Config.CODE; versionName Config.name() }
}
"""
)
SCRIPTS["enum-value"] = app(
    """enum Brand {
    ALDERBANK('alderbank', 'org.lendspan.alderbank'), MOSSGATE('mossgate', 'org.lendspan.mossgate')
    final String key, id
    Brand(String key, String id) { this.key = key; this.id = id }
}
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        Brand.values().each { b -> create(b.key) { dimension 'brand'; applicationId b.id } }
    }
}
"""
)
SCRIPTS["null-safe"] = app(
    """def over = [mossgate: [code: 60]]
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        ['alderbank', 'mossgate'].each { n ->
            create(n) { dimension 'brand'; applicationId "org.lendspan.$n"; versionCode over[n]?.code ?: 41 }
        }
    }
}
"""
)
SCRIPTS["each-with-index"] = app(
    HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode 41; versionName '2.4.0' }
    flavorDimensions 'brand'
    productFlavors {
        ['alderbank', 'mossgate'].eachWithIndex { n, i ->
            create(n) { dimension 'brand'; applicationId "org.lendspan.$n"; versionCode 100 * (i + 1) + 41 }
        }
    }
}
"""
)
SCRIPTS["git-count"] = app(
    """def count = ['echo', '77'].execute().text.trim().toInteger()
"""
    + HEAD
    + """    defaultConfig { applicationId 'org.lendspan.app'; versionCode count; versionName "2.4.$count" }
}
"""
)
