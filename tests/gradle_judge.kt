// A stand-in of Android's blocks for build scripts in Kotlin: it prints what each release variant would be built with.
@file:Suppress("UNUSED_PARAMETER", "unused")
package stub

import java.io.File
import java.util.Properties
import kotlin.reflect.KProperty

open class Blank { operator fun String.invoke(x: Any?) {} }

class Item(val name: String) {
    var applicationId: String? = null
    var applicationIdSuffix: String? = null
    var versionName: String? = null
    var versionNameSuffix: String? = null
    var versionCode: Int? = null
    var dimension: String? = null
    var minSdk: Int? = null
    var targetSdk: Int? = null
    var isMinifyEnabled = false
    var isDefault = false
    val matchingFallbacks = mutableListOf<String>()
    val manifestPlaceholders = mutableMapOf<String, Any>()
    val res = mutableMapOf<String, String>()
    val extra = Extra()
    fun addManifestPlaceholders(m: Map<String, Any>) { manifestPlaceholders.putAll(m) }
    fun resValue(type: String, name: String, value: String) { if (type == "string") res[name] = value }
    fun buildConfigField(type: String, name: String, value: String) {}
    fun initWith(other: Item) { applicationId = other.applicationId; versionCode = other.versionCode; versionName = other.versionName; applicationIdSuffix = other.applicationIdSuffix; versionNameSuffix = other.versionNameSuffix; manifestPlaceholders.putAll(other.manifestPlaceholders); res.putAll(other.res) }
}

class Container : Iterable<Item> {
    val items = linkedMapOf<String, Item>()
    private val everyone = mutableListOf<Item.() -> Unit>()
    override fun iterator() = items.values.toList().iterator()
    private fun make(name: String) = items.getOrPut(name) { Item(name).also { i -> everyone.forEach { i.it() } } }
    fun create(name: String, block: Item.() -> Unit = {}): Item = make(name).apply(block)
    fun register(name: String, block: Item.() -> Unit = {}) = create(name, block)
    fun maybeCreate(name: String) = make(name)
    fun getByName(name: String, block: Item.() -> Unit = {}): Item = items.getValue(name).apply(block)
    fun named(name: String, block: Item.() -> Unit = {}) = getByName(name, block)
    fun all(block: Item.() -> Unit) { everyone += block; items.values.toList().forEach { it.block() } }
    fun configureEach(block: Item.() -> Unit) = all(block)
    fun debug(block: Item.() -> Unit) = create("debug", block)
    fun release(block: Item.() -> Unit) = create("release", block)
    operator fun get(name: String) = items.getValue(name)
    operator fun String.invoke(block: Item.() -> Unit) = create(this, block)
}

class Android {
    var namespace: String? = null
    var compileSdk: Int? = null
    val defaultConfig = Item("main")
    val productFlavors = Container()
    val buildTypes = Container().apply { create("debug"); create("release") }
    val flavorDimensions = mutableListOf<String>()
    fun flavorDimensions(vararg names: String) { flavorDimensions += names }
    fun defaultConfig(block: Item.() -> Unit) { defaultConfig.block() }
    fun productFlavors(block: Container.() -> Unit) { productFlavors.block() }
    fun buildTypes(block: Container.() -> Unit) { buildTypes.block() }
}

class Extra {
    val values = linkedMapOf<String, Any?>()
    operator fun get(name: String) = values.getValue(name)
    operator fun set(name: String, value: Any?) { values[name] = value }
    fun has(name: String) = name in values
    operator fun <T> invoke(value: T) = Given(value)
    operator fun <T> invoke(block: () -> T) = Given(block())
}
class Given<T>(val value: T) { operator fun getValue(owner: Any?, property: KProperty<*>): T = value }
class Provided(val value: String?) {
    fun get() = value!!
    val orNull get() = value
    fun getOrElse(other: String) = value ?: other
    fun orElse(other: String) = Provided(value ?: other)
    val isPresent get() = value != null
    fun <T> map(block: (String) -> T) = Mapped(value?.let(block))
}
class Mapped<T>(val value: T?) { fun get() = value!!; fun getOrElse(other: T): T = value ?: other }
class Providers(val project: Project) { fun gradleProperty(name: String) = Provided(project.given[name]); fun environmentVariable(name: String) = Provided(System.getenv(name)) }
class Plugins { fun id(name: String) = this; infix fun version(text: String) = this; infix fun apply(on: Boolean) = this }

class Project(val projectDir: File, private val top: Project? = null) {
    val rootProject: Project get() = top ?: this
    val rootDir: File get() = rootProject.projectDir
    val project: Project get() = this
    val android = Android()
    val extra = Extra()
    val given: Map<String, String> = read(File(rootDir, "gradle.properties"))
    val providers = Providers(this)
    fun file(path: Any): File = if (path is File) path else File(path.toString()).let { if (it.isAbsolute) it else File(projectDir, path.toString()) }
    fun hasProperty(name: String): Boolean = name in given || extra.has(name) || (top?.hasProperty(name) ?: false)
    fun findProperty(name: String): Any? = extra.values[name] ?: given[name] ?: top?.findProperty(name)
    fun property(name: String): Any = findProperty(name)!!
    operator fun getValue(owner: Any?, property: KProperty<*>): String = property(property.name).toString()
    fun android(block: Android.() -> Unit) { android.block() }
    fun plugins(block: Plugins.() -> Unit) { Plugins().block() }
    fun dependencies(block: Blank.() -> Unit) {}
    fun repositories(block: Blank.() -> Unit) {}
}

fun read(file: File): Map<String, String> {
    val found = Properties()
    if (file.exists()) file.inputStream().use { found.load(it) }
    return found.entries.map { it.key.toString() to it.value.toString() }.toMap()
}

fun quoted(text: String?) = if (text == null) "null" else "\"" + text.replace("\\", "\\\\").replace("\"", "\\\"") + "\""

fun told(name: String, android: Android): String {
    val flavors = android.productFlavors.toList()
    val groups = when {
        flavors.isEmpty() -> listOf()
        android.flavorDimensions.size <= 1 -> listOf(flavors)
        else -> android.flavorDimensions.map { d -> flavors.filter { it.dimension == d } }.filter { it.isNotEmpty() }
    }
    var combos = listOf(listOf<Item>())
    for (group in groups) combos = combos.flatMap { c -> group.map { c + it } }
    val type = android.buildTypes["release"]
    val rows = combos.map { c ->
        val base = android.defaultConfig
        val all = listOf(base) + c + type
        val id = c.mapNotNull { it.applicationId }.firstOrNull() ?: base.applicationId
        val suffix = all.mapNotNull { it.applicationIdSuffix }.filter { it.isNotEmpty() }.joinToString("") { if (it.startsWith(".")) it else ".$it" }
        val version = c.mapNotNull { it.versionName }.firstOrNull() ?: base.versionName
        val code = c.mapNotNull { it.versionCode }.firstOrNull() ?: base.versionCode
        val layers = listOf(base) + c.reversed() + type
        val label = layers.mapNotNull { it.res["app_name"] }.lastOrNull() ?: layers.mapNotNull { it.manifestPlaceholders["appName"]?.toString() }.lastOrNull()
        "{\"flavors\": [" + c.joinToString { quoted(it.name) } + "], \"id\": " + quoted(id?.plus(suffix)) + ", \"version\": " + quoted(version?.plus(all.mapNotNull { it.versionNameSuffix }.joinToString(""))) + ", \"build\": " + quoted(code?.toString()) + ", \"name\": " + quoted(label) + "}"
    }
    return quoted(name) + ": [" + rows.joinToString() + "]"
}
