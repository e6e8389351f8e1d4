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

# Small scripts: what stands before the block of Android; version; build number; what stands in the block.
_ROWS: dict[str, tuple[str, str, str, str]] = {
    "counter": ("var n = 40\nn++\n", "\"1\"", "n", ""),
    "counter-plus": ("var n = 40\nn += 2\nn -= 1\n", "\"1\"", "n", ""),
    "loop": ("var n = 40\nfor (i in 1..3) { n += i }\n", "\"1\"", "n", ""),
    "until": ("var n = 40\nfor (i in 0 until 3) { n += i }\n", "\"1\"", "n", ""),
    "repeat": ("var n = 40\nrepeat(3) { n++ }\n", "\"1\"", "n", ""),
    "foreach": ("var n = 40\nlistOf(1, 2).forEach { n += it }\n", "\"1\"", "n", ""),
    "while": ("var n = 40\nwhile (n < 45) { n++ }\n", "\"1\"", "n", ""),
    "when": ("val k = \"b\"\nval n = when (k) { \"a\" -> \"1\"; \"b\" -> \"2\"; else -> \"3\" }\n", "n", "41", ""),
    "when-stmt": ("val k = \"b\"\nvar n = \"0\"\nwhen (k) {\n \"a\" -> n = \"1\"\n \"b\", \"c\" -> { n = \"2\" }\n else -> n = \"3\"\n}\n", "n", "41", ""),
    "when-nosubject": ("val k = 5\nval n = when { k < 3 -> \"1\"; k > 4 -> \"2\"; else -> \"3\" }\n", "n", "41", ""),
    "when-in": ("val k = 5\nval n = when (k) { in 1..3 -> \"1\"; in listOf(5) -> \"2\"; else -> \"3\" }\n", "n", "41", ""),
    "if-expr": ("val n = if (1 < 2) \"1\" else \"2\"\n", "n", "41", ""),
    "if-stmt": ("var n = \"1\"\nif (1 > 2) n = \"2\" else n = \"3\"\n", "n", "41", ""),
    "elvis": ("val m: String? = null\n", "m ?: \"4\"", "41", ""),
    "let": ("val m: String? = \"2\"\n", "m?.let { \"$it.1\" } ?: \"4\"", "41", ""),
    "let-null": ("val m: String? = null\n", "m?.let { \"$it.1\" } ?: \"4\"", "41", ""),
    "also": ("val l = mutableListOf(\"1\")\nl.also { it.add(\"2\") }\n", "l.joinToString(\".\")", "41", ""),
    "apply": ("val l = mutableListOf(\"1\").apply { add(\"2\") }\n", "l.joinToString(\".\")", "41", ""),
    "run": ("val n = run { val a = 1; a + 2 }\n", "\"$n\"", "41", ""),
    "with": ("val n = with(\"2.4\") { length }\n", "\"$n\"", "41", ""),
    "takeif": ("val n = \"2\".takeIf { it == \"3\" } ?: \"9\"\n", "n", "41", ""),
    "list-plus": ("val l = listOf(\"1\") + \"2\"\n", "l.joinToString(\".\")", "41", ""),
    "list-add": ("val l = mutableListOf(\"1\")\nl += \"2\"\nl.add(\"3\")\n", "l.joinToString(\".\")", "41", ""),
    "list-minus": ("val l = listOf(\"1\", \"2\") - \"2\"\n", "l.joinToString(\".\")", "41", ""),
    "list-set": ("val l = mutableListOf(\"1\", \"2\")\nl[1] = \"5\"\n", "l.joinToString(\".\")", "41", ""),
    "list-remove": ("val l = mutableListOf(\"1\", \"2\")\nl.remove(\"1\")\n", "l.joinToString(\".\")", "41", ""),
    "list-alias": ("val l = mutableListOf(\"1\")\nval k = l\nk.add(\"2\")\n", "l.joinToString(\".\")", "41", ""),
    "list-sorted": ("val l = listOf(\"2\", \"1\").sorted()\n", "l.joinToString(\".\")", "41", ""),
    "list-sort": ("val l = mutableListOf(\"2\", \"1\")\nl.sort()\n", "l.joinToString(\".\")", "41", ""),
    "list-reversed": ("val l = listOf(\"2\", \"1\").reversed()\n", "l.joinToString(\".\")", "41", ""),
    "map-set": ("val m = mutableMapOf(\"a\" to \"1\")\nm[\"a\"] = \"2\"\n", "m[\"a\"]!!", "41", ""),
    "map-put": ("val m = mutableMapOf(\"a\" to \"1\")\nm.put(\"a\", \"2\")\n", "m.getValue(\"a\")", "41", ""),
    "map-remove": ("val m = mutableMapOf(\"a\" to \"1\")\nm.remove(\"a\")\n", "m[\"a\"] ?: \"9\"", "41", ""),
    "map-plus": ("val m = mapOf(\"a\" to \"1\") + (\"a\" to \"2\")\n", "m.getValue(\"a\")", "41", ""),
    "map-default": ("val m = mapOf(\"a\" to \"1\")\n", "m.getOrDefault(\"b\", \"7\")", "41", ""),
    "map-getorelse": ("val m = mapOf(\"a\" to \"1\")\n", "m.getOrElse(\"b\") { \"7\" }", "41", ""),
    "map-values": ("val m = mapOf(\"a\" to \"1\", \"b\" to \"2\")\n", "m.values.joinToString(\".\")", "41", ""),
    "map-map": ("val m = mapOf(\"a\" to \"1\", \"b\" to \"2\")\n", "m.map { (k, v) -> k + v }.joinToString(\".\")", "41", ""),
    "map-filter": ("val m = mapOf(\"a\" to \"1\", \"b\" to \"2\").filter { it.key == \"b\" }\n", "m.values.first()", "41", ""),
    "map-entries": ("val m = mapOf(\"a\" to \"1\")\nvar n = \"\"\nfor ((k, w) in m) { n = k + w }\n", "n", "41", ""),
    "fun": ("fun f(a: String, b: String = \"7\") = a + b\n", "f(\"2.\")", "41", ""),
    "fun-named": ("fun f(a: String, b: String) = a + b\n", "f(b = \"1\", a = \"2\")", "41", ""),
    "fun-block": ("fun f(a: Int): String {\n if (a > 1) return \"big\"\n return \"small\"\n}\n", "f(2)", "41", ""),
    "fun-var": ("var n = 1\nfun f() { n = 5 }\nf()\n", "\"$n\"", "41", ""),
    "fun-ext": ("fun String.twice() = this + this\n", "\"2\".twice()", "41", ""),
    "lambda": ("val f = { a: Int -> a + 1 }\n", "\"${f(2)}\"", "41", ""),
    "lambda-late": ("var n = 1\nval f = { n }\nn = 2\n", "\"${f()}\"", "41", ""),
    "lambda-it": ("val f: (Int) -> Int = { it + 1 }\n", "\"${f(2)}\"", "41", ""),
    "template": ("val a = 2\nval b = \"x\"\n", "\"$a.${b.length}.${a + 1}\"", "41", ""),
    "raw": ("val a = 2\n", "\"\"\"1.$a\"\"\"", "41", ""),
    "trim-indent": ("", "\"\"\"\n    1.2\n\"\"\".trimIndent()", "41", ""),
    "format": ("", "\"%02d.%d\".format(3, 4)", "41", ""),
    "format2": ("", "String.format(\"%d.%s\", 3, \"x\")", "41", ""),
    "pad": ("", "\"7\".padStart(3, '0')", "41", ""),
    "split": ("", "\"2.4.0\".split(\".\")[1]", "41", ""),
    "split-empty": ("", "\"2.4..\".split(\".\").size.toString()", "41", ""),
    "substring": ("", "\"2.4.0\".substringBefore(\".\")", "41", ""),
    "substring-last": ("", "\"2.4.0\".substringBeforeLast(\".\")", "41", ""),
    "drop": ("", "\"2.4.0\".dropLast(2)", "41", ""),
    "take": ("", "\"2.4.0\".take(3)", "41", ""),
    "replace": ("", "\"2-4\".replace(\"-\", \".\")", "41", ""),
    "replace-all": ("", "\"2-4-1\".replace(\"-\", \".\")", "41", ""),
    "prefix": ("", "\"v2\".removePrefix(\"v\")", "41", ""),
    "toint": ("val n = \"41\".toInt() + 1\n", "\"1\"", "n", ""),
    "div": ("val n = 85 / 2\n", "\"1\"", "n", ""),
    "mod": ("val n = 85 % 2\n", "\"$n\"", "41", ""),
    "mul": ("val n = 6 * 7\n", "\"1\"", "n", ""),
    "neg": ("val n = -3 + 44\n", "\"1\"", "n", ""),
    "hex": ("val n = 0x29\n", "\"1\"", "n", ""),
    "under": ("val n = 1_000\n", "\"1\"", "n", ""),
    "char": ("", "\"2\" + '.' + \"4\"", "41", ""),
    "plus-int": ("", "\"2.\" + 4", "41", ""),
    "bool": ("val b = true && !false\n", "if (b) \"1\" else \"2\"", "41", ""),
    "range": ("val l = (1..3).toList()\n", "l.joinToString(\".\")", "41", ""),
    "map-fn": ("val l = listOf(1, 2).map { it * 2 }\n", "l.joinToString(\".\")", "41", ""),
    "filter": ("val l = listOf(1, 2, 3).filter { it > 1 }\n", "l.joinToString(\".\")", "41", ""),
    "sum": ("val n = listOf(1, 2).sum()\n", "\"$n\"", "41", ""),
    "fold": ("val n = listOf(1, 2).fold(0) { a, b -> a + b }\n", "\"$n\"", "41", ""),
    "first": ("val n = listOf(1, 2).first { it > 1 }\n", "\"$n\"", "41", ""),
    "last": ("val n = listOf(1, 2).last()\n", "\"$n\"", "41", ""),
    "indices": ("val l = listOf(\"a\", \"b\")\nvar n = \"\"\nfor ((i, x) in l.withIndex()) { n += \"$x$i\" }\n", "n", "41", ""),
    "foreachindexed": ("val l = listOf(\"a\", \"b\")\nvar n = \"\"\nl.forEachIndexed { i, x -> n += \"$x$i\" }\n", "n", "41", ""),
    "lazy": ("val n by lazy { \"3\" }\n", "n", "41", ""),
    "data": ("data class P(val a: String, val b: Int = 4)\nval p = P(\"3\")\n", "\"${p.a}.${p.b}\"", "41", ""),
    "data-copy": ("data class P(val a: String, val b: Int = 4)\nval p = P(\"3\").copy(b = 9)\n", "\"${p.a}.${p.b}\"", "41", ""),
    "pair": ("val (a, b) = Pair(\"3\", \"4\")\n", "\"$a.$b\"", "41", ""),
    "pair-first": ("val p = \"3\" to \"4\"\n", "p.first + p.second", "41", ""),
    "try": ("val n = try { \"x\".toInt() } catch (e: Exception) { 7 }\n", "\"$n\"", "41", ""),
    "runcatching": ("val n = runCatching { \"x\".toInt() }.getOrDefault(7)\n", "\"$n\"", "41", ""),
    "ornull": ("val n = \"x\".toIntOrNull() ?: 7\n", "\"$n\"", "41", ""),
    "getenv": ("val n = System.getenv(\"NOPE_X\") ?: \"7\"\n", "n", "41", ""),
    "local-shadow": ("val n = \"1\"\nval f = { val n = \"2\"; n }\n", "f() + n", "41", ""),
    "if-config": ("", "\"1\"", "41", "    if (1 > 2) { defaultConfig { versionName = \"2\" } }"),
    "if-config2": ("", "\"1\"", "41", "    if (1 < 2) { defaultConfig { versionName = \"2\" } }"),
    "when-config": ("val k = \"b\"\n", "\"1\"", "41", "    when (k) { \"a\" -> defaultConfig { versionName = \"2\" }\n \"b\" -> defaultConfig { versionName = \"3\" } }"),
    "own-again": ("", "\"1\"", "41", "    defaultConfig.versionName = \"5\""),
    "own-plus": ("", "\"1\"", "41", "    defaultConfig { versionName = versionName + \"5\" }"),
    "f-loop": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { n -> create(n) { dimension = \"brand\"; versionNameSuffix = \"-$n\" } }\n    }"),
    "f-if": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nfor (n in listOf(\"a\", \"b\", \"c\")) { if (n == \"b\") continue; create(n) { dimension = \"brand\"; versionNameSuffix = \"-$n\" } }\n    }"),
    "f-when": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { n -> create(n) { dimension = \"brand\"; versionCode = when (n) { \"a\" -> 5; else -> 6 } } }\n    }"),
    "f-when-stmt": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { n -> create(n) { dimension = \"brand\"\n when (n) { \"a\" -> versionCode = 5\n else -> versionCode = 6 } } }\n    }"),
    "f-return": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { n -> if (n == \"a\") return@forEach; create(n) { dimension = \"brand\"; versionCode = 6 } }\n    }"),
    "f-indexed": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEachIndexed { i, n -> create(n) { dimension = \"brand\"; versionCode = 10 + i } }\n    }"),
    "f-map": ("val m = mapOf(\"a\" to 5, \"b\" to 6)\n", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nm.forEach { (n, c) -> create(n) { dimension = \"brand\"; versionCode = c } }\n    }"),
    "f-map-for": ("val m = mapOf(\"a\" to 5, \"b\" to 6)\n", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nfor ((n, c) in m) { create(n) { dimension = \"brand\"; versionCode = c } }\n    }"),
    "f-built": ("val l = mutableListOf<String>()\nl.add(\"a\")\nif (1 < 2) l.add(\"b\")\n", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nl.forEach { create(it) { dimension = \"brand\"; versionCode = 6 } }\n    }"),
    "f-all": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\ncreate(\"a\") { dimension = \"brand\" }\n create(\"b\") { dimension = \"brand\" }\n all { if (name == \"a\") { versionCode = 5 } else { versionCode = 6 } }\n    }"),
    "f-all-suffix": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\ncreate(\"a\") { dimension = \"brand\" }\n configureEach { versionNameSuffix = \"-$name\" }\n    }"),
    "f-counter": ("var n = 1\n", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { create(it) { dimension = \"brand\"; versionCode = n++ } }\n    }"),
    "f-initwith": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\ncreate(\"a\") { dimension = \"brand\"; versionCode = 6 }\n create(\"b\") { initWith(getByName(\"a\")); versionNameSuffix = \"-b\" }\n    }"),
    "f-val": ("", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nval a = create(\"a\") { dimension = \"brand\" }\n a.versionCode = 6\n    }"),
    "f-fun": ("fun code(n: String): Int { when (n) { \"a\" -> return 5 }\n return 6 }\n", "\"1\"", "41", "    flavorDimensions += \"brand\"\n    productFlavors {\nlistOf(\"a\", \"b\").forEach { create(it) { dimension = \"brand\"; versionCode = code(it) } }\n    }"),
}  # fmt: skip
# What is not followed, or what only a build knows: it is said so, and null.
UNTOLD_IN_KOTLIN = frozenset(
    "data data-copy drop f-counter f-val fold fun-ext getenv hex indices lazy list-minus list-remove map-filter map-plus neg own-plus pair repeat run runcatching trim-indent try when-in when-stmt with".split()
)
_SMALL = """plugins {{ id("com.android.application") }}
{0}
android {{
    namespace = "org.lendspan.app"
    compileSdk = 34
    defaultConfig {{
        applicationId = "org.lendspan.app"
        versionCode = {2}
        versionName = {1}
    }}
{3}
}}
"""
KOTLIN |= {
    name: {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": _SMALL.format(*row), "app/src/main/AndroidManifest.xml": LABEL.format("Lend")}
    for name, row in _ROWS.items()
}
