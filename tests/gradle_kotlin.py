"""Build scripts in Kotlin in the styles that people use, each a small project: path to text."""

from __future__ import annotations

from gradle_scripts import LABEL, STRINGS

HEAD = 'plugins {\n    id("com.android.application")\n}\n'
ANDROID = 'android {\n    namespace = "org.lendspan.app"\n    compileSdk = 34\n'
DEFAULT = '    defaultConfig {\n        applicationId = "org.lendspan.app"\n        versionCode = 41\n        versionName = "2.4.0"\n    }\n'


def app(body: str, label: str = "@string/app_name", generated: bool = False, files: dict[str, str] | None = None) -> dict[str, str]:
    """A project of one app: its script, what names it; a name that the script makes has no string."""
    found = {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": body, "app/src/main/AndroidManifest.xml": LABEL.format(label)}
    if not generated:
        found[STRINGS] = '<resources><string name="app_name">Lendspan</string></resources>\n'
    return {**found, **(files or {})}


KOTLIN: dict[str, dict[str, str]] = {}
KOTLIN["plain"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    buildTypes {
        release { isMinifyEnabled = true }
        debug { applicationIdSuffix = ".debug" }
    }
    flavorDimensions += "brand"
    productFlavors {
        create("alderbank") { dimension = "brand"; applicationId = "org.lendspan.alderbank" }
        create("mossgate") {
            dimension = "brand"
            applicationIdSuffix = ".mossgate"
            versionNameSuffix = "-m"
        }
    }
}
"""
)
KOTLIN["semver"] = app(
    HEAD
    + """val versionMajor = 2
val versionMinor = 4
val versionPatch = 7
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = "org.lendspan.app"
        versionCode = versionMajor * 10000 + versionMinor * 100 + versionPatch
        versionName = "$versionMajor.$versionMinor.$versionPatch"
    }
}
"""
)
KOTLIN["functions"] = app(
    HEAD
    + """fun code(): Int {
    val parts = "2.4.7".split(".")
    return parts[0].toInt() * 10000 + parts[1].toInt() * 100 + parts[2].toInt()
}
fun named(trial: Boolean): String = if (trial) "2.4.7-trial" else "2.4.7"
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = "org.lendspan.app"
        versionCode = code()
        versionName = named(trial = false)
    }
}
"""
)
KOTLIN["properties"] = app(
    "import java.util.Properties\n"
    + HEAD
    + """val props = Properties()
val propsFile = rootProject.file("version.properties")
if (propsFile.exists()) {
    propsFile.inputStream().use { props.load(it) }
}
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = props.getProperty("id", "org.none")
        versionCode = props.getProperty("code").toInt()
        versionName = props["name"] as String? ?: "1.0"
    }
}
""",
    files={"version.properties": "id=org.lendspan.app\ncode=52\n"},
)
KOTLIN["properties-apply"] = app(
    "import java.util.Properties\nimport java.io.FileInputStream\n"
    + HEAD
    + """val props = Properties().apply {
    load(FileInputStream(rootProject.file("version.properties")))
}
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = props.getProperty("id")
        versionCode = (props["code"] as String).toInt()
        versionName = props.getProperty("name") ?: "1.0"
    }
}
""",
    files={"version.properties": "id=org.lendspan.app\ncode=52\nname=3.1\n"},
)
KOTLIN["by-project"] = app(
    HEAD
    + """val appId: String by project
val code: String by project
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = appId
        versionCode = code.toInt()
        versionName = project.findProperty("versionText") as String? ?: "2.4"
    }
}
""",
    files={"gradle.properties": "appId=org.lendspan.app\ncode=17\n"},
)
KOTLIN["extra"] = app(
    HEAD
    + """extra["appId"] = "org.lendspan.app"
val versionText by extra("2.4.0")
val number by extra { 41 }
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = project.extra["appId"] as String
        versionCode = number
        versionName = versionText
    }
}
"""
)
KOTLIN["list"] = app(
    HEAD
    + """val brands = listOf("alderbank", "mossgate", "pennywick")
"""
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += listOf("brand")
    productFlavors {
        brands.forEach { brand ->
            create(brand) {
                dimension = "brand"
                applicationId = "org.lendspan.$brand"
                resValue("string", "app_name", brand.capitalize())
            }
        }
    }
}
""",
    generated=True,
)
KOTLIN["map"] = app(
    HEAD
    + """val brands = mapOf(
    "alderbank" to "Alderbank Tools",
    "mossgate" to "Mossgate Shed"
)
"""
    + ANDROID
    + DEFAULT
    + """    flavorDimensions("brand")
    productFlavors {
        for ((name, title) in brands) {
            register(name) {
                dimension = "brand"
                applicationId = "org.lendspan." + name
                manifestPlaceholders["appName"] = title
            }
        }
    }
}
""",
    label="${appName}",
    generated=True,
)
KOTLIN["data-class"] = app(
    HEAD
    + """data class Brand(val name: String, val id: String, val offset: Int = 0, val title: String)
val brands = listOf(
    Brand("alderbank", "org.lendspan.alder", 5, "Alderbank"),
    Brand(name = "mossgate", id = "org.lendspan.moss", offset = 7, title = "Moss")
)
"""
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        brands.forEach {
            create(it.name) {
                dimension = "brand"
                applicationId = it.id
                versionCode = 41 + it.offset
                resValue("string", "app_name", it.title)
            }
        }
    }
}
""",
    generated=True,
)
KOTLIN["when"] = app(
    HEAD
    + """val stage = "trial"
val appId = when (stage) {
    "publish" -> "org.lendspan.app"
    "trial", "beta" -> "org.lendspan.trial"
    else -> "org.lendspan.none"
}
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = appId
        versionCode = if (stage == "trial") 7 else 8
        versionName = "2.4.0".let { if (stage == "publish") it else "$it-$stage" }
    }
}
"""
)
KOTLIN["when-all"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        create("alderbank") { dimension = "brand" }
        create("mossgate") { dimension = "brand" }
        all {
            applicationId = when (name) {
                "alderbank" -> "org.lendspan.alder"
                else -> "org.lendspan.$name"
            }
        }
    }
}
"""
)
KOTLIN["helper"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        fun brand(key: String, title: String) = create(key) {
            dimension = "brand"
            applicationId = "org.lendspan.$key"
            resValue("string", "app_name", title)
        }
        brand("alderbank", "Alderbank Tools")
        brand("mossgate", title = "Moss")
    }
}
""",
    generated=True,
)
KOTLIN["getters"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        create("alderbank")
        create("mossgate")
        getByName("alderbank") { applicationId = "org.lendspan.alder" }
        named("mossgate") { applicationId = "org.lendspan.moss"; versionCode = 9 }
    }
    defaultConfig.versionName = "3.0"
}
android.productFlavors.getByName("alderbank").versionCode = 12
"""
)
KOTLIN["map-of-maps"] = app(
    HEAD
    + """val brands = mapOf(
    "alderbank" to mapOf("id" to "org.lendspan.alder", "title" to "Alder"),
    "mossgate" to mapOf("id" to "org.lendspan.moss", "title" to "Moss")
)
"""
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        brands.forEach { (key, config) ->
            create(key) {
                dimension = "brand"
                applicationId = config["id"]
                resValue("string", "app_name", config.getValue("title"))
            }
        }
    }
}
""",
    generated=True,
)
KOTLIN["two-dimensions"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += listOf("stage", "brand")
    productFlavors {
        listOf("alderbank", "mossgate").forEach { create(it) { dimension = "brand"; applicationId = "org.lendspan.$it" } }
        create("dev") { dimension = "stage"; applicationIdSuffix = ".dev"; versionNameSuffix = "-dev" }
        create("prod") { dimension = "stage" }
    }
}
"""
)
KOTLIN["providers"] = app(
    HEAD
    + ANDROID
    + """    defaultConfig {
        applicationId = providers.gradleProperty("appId").get()
        versionCode = providers.gradleProperty("code").map { it.toInt() }.getOrElse(41)
        versionName = providers.gradleProperty("missing").orElse("2.4.0").get()
    }
}
""",
    files={"gradle.properties": "appId=org.lendspan.app\n"},
)
KOTLIN["filter"] = app(
    HEAD
    + """val wanted = listOf("alderbank", "mossgate", "pennywick").filter { it != "pennywick" }
val ids = wanted.associateWith { "org.lendspan.$it" }
"""
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        wanted.forEachIndexed { index, name ->
            create(name) {
                dimension = "brand"
                applicationId = ids[name]
                versionCode = (index + 1) * 1000 + 41
            }
        }
    }
}
"""
)
KOTLIN["mutable"] = app(
    HEAD
    + """var code = 40
code += 1
val config = mutableMapOf("id" to "org.old")
config["id"] = "org.lendspan.app"
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = config["id"]
        versionCode = code
        versionName = buildString { append("2.4") }
    }
}
"""
)
KOTLIN["text"] = app(
    HEAD
    + """val raw = " Lendspan App "
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = "org.lendspan." + raw.trim().toLowerCase().replace(" ", "_")
        versionCode = "41".toInt()
        versionName = listOf(2, 4, 0).joinToString(".")
        resValue("string", "app_name", raw.trim())
    }
}
""",
    generated=True,
)
KOTLIN["raw"] = app(
    HEAD
    + ANDROID
    + '''    defaultConfig {
        applicationId = """org.lendspan.app"""
        versionCode = 4_1
        versionName = "2.4.0" // "9"
        manifestPlaceholders += mapOf("appName" to "Lendspan & Co", "host" to "x")
    }
}
''',
    label="${appName}",
    generated=True,
)
KOTLIN["version-file"] = app(
    HEAD
    + """val versionText = rootProject.file("VERSION").readText().trim()
"""
    + ANDROID
    + """    defaultConfig {
        applicationId = "org.lendspan.app"
        versionName = versionText
        versionCode = versionText.split(".").map { it.toInt() }.let { (a, b, c) -> a * 10000 + b * 100 + c }
    }
}
""",
    files={"VERSION": "2.4.7\n"},
)
KOTLIN["condition"] = app(
    HEAD
    + """val shop = true
"""
    + ANDROID
    + DEFAULT
    + """    if (shop) {
        defaultConfig.applicationId = "org.lendspan.shop"
    } else {
        defaultConfig.applicationId = "org.lendspan.none"
    }
    flavorDimensions += "brand"
    productFlavors {
        create("alderbank") {
            dimension = "brand"
            if (shop) applicationIdSuffix = ".shop"
        }
    }
}
"""
)
KOTLIN["string-invoke"] = app(
    HEAD
    + ANDROID
    + DEFAULT
    + """    flavorDimensions += "brand"
    productFlavors {
        "alderbank" { dimension = "brand"; applicationId = "org.lendspan.alder" }
        for (n in listOf("mossgate")) "$n" { dimension = "brand"; applicationId = "org.lendspan.$n" }
    }
}
"""
)
