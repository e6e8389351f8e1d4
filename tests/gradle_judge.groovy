// Evaluates build scripts over a stand-in of Android's blocks, and prints what each variant would be built with.
import groovy.json.JsonOutput

class Blank {                       // whatever a script says of what is not judged
    def methodMissing(String name, args) { for (a in args) if (a instanceof Closure) { Judge.run(a, this) }; this }
    def propertyMissing(String name) { this }
    void propertyMissing(String name, value) {}
    String toString() { '' }
}

class Ext {
    Map values = [:]
    def propertyMissing(String name) { if (values.containsKey(name)) return values[name]; throw new MissingPropertyException(name, Ext) }
    void propertyMissing(String name, value) { values[name] = value }
    def methodMissing(String name, args) {
        if (values[name] instanceof Closure) return values[name].call(*args)
        throw new MissingMethodException(name, Ext, args as Object[])
    }
    boolean has(String name) { values.containsKey(name) }
    def get(String name) { values[name] }
    void set(String name, value) { values[name] = value }
    def getAt(String name) { values[name] }
    void putAt(String name, value) { values[name] = value }
    Map getProperties() { values }
}

class Provided {                    // a provider of a value
    def value
    def get() { if (value == null) throw new IllegalStateException('no value'); value }
    def getOrNull() { value }
    def getOrElse(other) { value == null ? other : value }
    Provided orElse(other) { value == null ? new Provided(value: other) : this }
    Provided map(Closure c) { new Provided(value: value == null ? null : c(value)) }
    boolean isPresent() { value != null }
}

class Item {
    String name
    Ext ext = new Ext()
    Map set = [:]
    Map placeholders = [:]
    Map res = [:]
    Map constants = [:]
    def getManifestPlaceholders() { placeholders }
    void setManifestPlaceholders(Map m) { placeholders = new LinkedHashMap(m) }
    void manifestPlaceholders(Map m) { placeholders.putAll(m) }
    void addManifestPlaceholders(Map m) { placeholders.putAll(m) }
    void resValue(type, key, value) { if (type == 'string') res[key.toString()] = value.toString() }
    void buildConfigField(type, key, value) { constants[key.toString()] = value.toString() }
    void initWith(Item other) { set.putAll(other.set); placeholders.putAll(other.placeholders); res.putAll(other.res); constants.putAll(other.constants) }
    def getExtensions() { ext }
    def methodMissing(String name, args) {
        if (args.size() == 1 && !(args[0] instanceof Closure) && (name in Judge.ITEM || name.startsWith('set'))) {
            String key = name.startsWith('set') && name.size() > 3 ? name[3].toLowerCase() + name.substring(4) : name
            set[key] = args[0]; return null }
        if (name in Judge.ITEM || name in Judge.KNOWN || args.any { it instanceof Closure }) { for (a in args) if (a instanceof Closure) Judge.run(a, new Blank()); return null }
        throw new MissingMethodException(name, Item, args as Object[])
    }
    def propertyMissing(String name) {
        if (name in ['applicationId', 'applicationIdSuffix', 'versionName', 'versionNameSuffix', 'versionCode', 'dimension']) return set[name]
        if (set.containsKey(name)) return set[name]
        if (ext.has(name)) return ext[name]
        if (name in Judge.KNOWN) return new Blank()
        throw new MissingPropertyException(name, Item)
    }
    void propertyMissing(String name, value) { set[name] = value }
}

class Container implements Iterable {
    Map<String, Item> items = new LinkedHashMap()
    List<Closure> everyone = []
    Iterator iterator() { new ArrayList(items.values()).iterator() }
    Item make(String name) {
        if (!items.containsKey(name)) { items[name] = new Item(name: name); everyone.each { Judge.run(it, items[name], items[name]) } }
        items[name]
    }
    def create(String name, Closure c = null) { def i = make(name); if (c) Judge.run(c, i, i); i }
    def register(String name, Closure c = null) { create(name, c) }
    def maybeCreate(String name) { make(name) }
    def named(String name, Closure c = null) { getByName(name, c) }
    def getByName(String name, Closure c = null) { if (!items.containsKey(name)) throw new RuntimeException("no $name"); create(name, c) }
    def findByName(String name) { items[name] }
    def getAt(String name) { items[name] }
    void all(Closure c) { everyone << c; new ArrayList(items.values()).each { Judge.run(c, it, it) } }
    void configureEach(Closure c) { all(c) }
    def methodMissing(String name, args) {
        if (args.size() == 1 && args[0] instanceof Closure) return create(name, args[0])
        throw new MissingMethodException(name, Container, args as Object[])
    }
    def propertyMissing(String name) {
        if (items.containsKey(name)) return items[name]
        throw new MissingPropertyException(name, Container)
    }
}

class Filter {
    List<Item> flavors; Item buildType; boolean ignore = false
    String name
    List getProductFlavors() { flavors.collect { [it.set.dimension, it.name] } }
    void setIgnore(boolean b) { ignore = b }
    String getFlavorName() { Judge.joined(flavors*.name) }
}

class Android {
    Item defaultConfig = new Item(name: 'main')
    Container productFlavors = new Container()
    Container buildTypes = new Container()
    List dimensions = []
    List<Closure> filters = []
    Blank androidResources = new Blank()
    Android() { buildTypes.make('debug'); buildTypes.make('release') }
    void defaultConfig(Closure c) { Judge.run(c, defaultConfig, defaultConfig) }
    void productFlavors(Closure c) { Judge.run(c, productFlavors, productFlavors) }
    void buildTypes(Closure c) { Judge.run(c, buildTypes, buildTypes) }
    void flavorDimensions(Object... names) { dimensions = names.flatten().collect { it.toString() } }
    void setFlavorDimensions(List names) { dimensions = names.collect { it.toString() } }
    List getFlavorDimensions() { dimensions }
    void variantFilter(Closure c) { filters << c }
    void namespace(x) {}
    void setNamespace(x) {}
    def methodMissing(String name, args) { if (name in Judge.BLOCKS || args.any { it instanceof Closure }) return null; throw new MissingMethodException(name, Android, args as Object[]) }
    def propertyMissing(String name) { if (name in Judge.BLOCKS) return new Blank(); throw new MissingPropertyException(name, Android) }
    void propertyMissing(String name, value) { if (!(name in Judge.BLOCKS)) throw new MissingPropertyException(name, Android) }

    List variants() {
        def groups = dimensions ?: (productFlavors.items ? [null] : [])
        def combos = [[]]
        groups.each { d -> def of = productFlavors.items.values().findAll { d == null || groups.size() == 1 || it.set.dimension?.toString() == d }
            if (of) combos = combos.collectMany { c -> of.collect { c + [it] } } }
        def out = []
        combos.each { flavors -> buildTypes.each { type ->
            def filter = new Filter(flavors: flavors, buildType: type, name: Judge.joined(flavors*.name + [type.name]))
            filters.each { Judge.run(it, filter, filter) }
            if (filter.ignore) return
            def first = { key -> def owner = flavors.find { it.set[key] != null }; owner ? owner.set[key] : defaultConfig.set[key] }
            def layers = [defaultConfig] + flavors.reverse() + [type]
            def merged = { key -> def m = [:]; layers.each { m.putAll(it."$key") }; m.collectEntries { k, v -> [k.toString(), v.toString()] } }
            def suffix = { key, glue -> ([defaultConfig] + flavors + [type]).collect { it.set[key] }.findAll { it != null }.collect { glue && !it.toString().startsWith('.') ? '.' + it : it.toString() }.join('') }
            // A build type has no version of its own; its ID is a suffix.
            out << [flavors: flavors*.name, type: type.name,
                    id: first('applicationId') == null ? null : first('applicationId').toString() + suffix('applicationIdSuffix', true),
                    version: first('versionName') == null ? null : first('versionName').toString() + suffix('versionNameSuffix', false),
                    build: first('versionCode') == null ? null : first('versionCode').toString(),
                    placeholders: merged('placeholders'), res: merged('res'), constants: merged('constants')]
        } }
        out
    }
}

class Project {
    File dir; Project root; String name
    Ext ext = new Ext()
    Map given = [:]
    Android android = new Android()
    Blank androidComponents = new Blank()
    File getProjectDir() { dir }
    File getRootDir() { (root ?: this).dir }
    Project getRootProject() { root ?: this }
    Project getProject() { this }
    Project getParent() { root }
    File file(path) { path instanceof File ? path : new File(path.toString()).absolute ? new File(path.toString()) : new File(dir, path.toString()) }
    def getLayout() { [projectDirectory: [file: { p -> [asFile: file(p)] }]] }
    def getProviders() { def p = this; [gradleProperty: { k -> new Provided(value: p.given[k.toString()]) }, environmentVariable: { k -> new Provided(value: System.getenv(k.toString())) }] }
    def getGradle() { [startParameter: [taskNames: []]] }
    def getLogger() { new Blank() }
    boolean hasProperty(String key) { Judge.seek(this, key) != null }
    def property(String key) { def f = Judge.seek(this, key); if (f == null) throw new MissingPropertyException(key, Project); f[0] }
    def findProperty(String key) { def f = Judge.seek(this, key); f == null ? null : f[0] }
    void ext(Closure c) { Judge.run(c, ext) }
    void android(Closure c) { Judge.run(c, android, android) }
    void androidComponents(Closure c) {}
    void allprojects(Closure c) { Judge.run(c, this, this) }
    void subprojects(Closure c) { }
    void afterEvaluate(Closure c) { Judge.run(c, this, this) }
    void apply(Map m) { if (m.from) Judge.script(this, file(m.from instanceof File ? m.from : m.from.toString())) }
    def propertyMissing(String key) { def f = Judge.seek(this, key); if (f != null) return f[0]; throw new MissingPropertyException(key, Project) }
    void propertyMissing(String key, value) { if (ext.has(key)) ext[key] = value else throw new MissingPropertyException(key, Project) }
    def methodMissing(String key, args) {
        def f = Judge.seek(this, key)
        if (f != null && f[0] instanceof Closure) return f[0].call(*args)
        if (key == 'buildscript') { Judge.run(args[-1], this); return null }
        if (key in ['plugins', 'dependencies', 'repositories', 'tasks', 'configurations', 'kotlin', 'java', 'pluginManagement', 'dependencyResolutionManagement', 'task']) return null
        throw new MissingMethodException(key, Project, args as Object[])
    }
}

class Judge {
    static List ITEM = ['applicationId', 'applicationIdSuffix', 'versionName', 'versionNameSuffix', 'versionCode', 'dimension', 'minSdk', 'minSdkVersion', 'targetSdk', 'targetSdkVersion', 'minifyEnabled', 'debuggable', 'matchingFallbacks', 'testInstrumentationRunner', 'multiDexEnabled', 'shrinkResources', 'isDefault', 'signingConfig']
    static List BLOCKS = ['compileSdk', 'compileSdkVersion', 'buildToolsVersion', 'ndkVersion', 'signingConfigs', 'sourceSets', 'buildFeatures', 'lint']
    static List KNOWN = ['ndk', 'externalNativeBuild', 'signingConfig', 'matchingFallbacks', 'resConfigs', 'proguardFiles', 'buildConfigFields']
    static void run(Closure c, Object target, Object arg = null) {
        def copy = c.clone(); copy.delegate = target; copy.resolveStrategy = Closure.DELEGATE_FIRST
        copy.maximumNumberOfParameters > 0 && arg != null ? copy.call(arg) : copy.call()
    }
    static String joined(List names) { names.withIndex().collect { n, i -> i ? n.capitalize() : n }.join('') }
    static List seek(Project p, String key) {
        if (p.ext.has(key)) return [p.ext[key]]
        if (p.given.containsKey(key)) return [p.given[key]]
        p.root ? seek(p.root, key) : null
    }
    static void script(Project p, File file) {
        def config = new org.codehaus.groovy.control.CompilerConfiguration()
        config.scriptBaseClass = DelegatingScript.name
        def binding = new Binding()
        def text = file.getText('UTF-8')
        def shell = new GroovyShell(Judge.classLoader, binding, config)
        def s = shell.parse(text, 'build.gradle'); s.setDelegate(p); s.run()
    }
    static Map properties(File file) { def p = new Properties(); if (file.exists()) file.withInputStream { p.load(it) }; new LinkedHashMap(p) }
    static Map judge(File top) {
        def root = new Project(dir: top, name: top.name, given: properties(new File(top, 'gradle.properties')))
        def answers = [:]
        ['app', 'shop'].each { module ->
            def at = new File(top, module)
            if (!new File(at, 'build.gradle').exists()) return
            if (new File(top, 'build.gradle').exists() && !root.ext.has('%read')) { script(root, new File(top, 'build.gradle')); root.ext['%read'] = true }
            def project = new Project(dir: at, root: root, name: module, given: root.given)
            script(project, new File(at, 'build.gradle'))
            answers[module] = project.android.variants()
        }
        answers
    }
}
def result = [:]
args.each { top ->
    try { result[top] = Judge.judge(new File(top)) } catch (Throwable t) { result[top] = [error: t.toString() + ' ' + t.stackTrace.findAll { it.fileName == 'build.gradle' }*.lineNumber] }
}
println JsonOutput.toJson(result)
