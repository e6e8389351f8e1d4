plugins {
    id("com.android.dynamic-feature")
    alias(libs.plugins.kotlin.android)
}

android {
    namespace = "org.lendspan.app.scanner"
    compileSdk = 35

    defaultConfig {
        minSdk = 24
    }

    flavorDimensions += listOf("neighbourhood", "tier")
    productFlavors {
        listOf("lendspan", "alderbank", "mossgate", "pennywick").forEach {
            create(it) {
                dimension = "neighbourhood"
            }
        }
        listOf("community", "plus").forEach {
            create(it) {
                dimension = "tier"
            }
        }
    }
}

dependencies {
    implementation(project(":app"))
}
