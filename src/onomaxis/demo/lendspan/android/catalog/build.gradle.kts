plugins {
    alias(libs.plugins.android.library)
    alias(libs.plugins.kotlin.android)
}

android {
    namespace = "org.lendspan.catalog"
    compileSdk = 35

    defaultConfig {
        minSdk = 24
    }
}
