plugins {
    id("com.android.application")
}

android {
    namespace = "org.lendspan.lockers"
    compileSdk = 36
    defaultConfig {
        applicationId = "org.lendspan.lockers"
        minSdk = 26
        targetSdk = 36
        versionCode = 12
        versionName = "1.4.0"
    }
    flavorDimensions += listOf("neighbourhood", "environment")
    productFlavors {
        create("alderbank") {
            dimension = "neighbourhood"
            applicationId = "org.lendspan.lockers.alderbank"
        }
        create("mossgate") {
            dimension = "neighbourhood"
            applicationId = "org.lendspan.lockers.mossgate"
        }
        create("pennywick") {
            dimension = "neighbourhood"
            applicationId = "org.lendspan.lockers.pennywick"
        }
        create("staging") {
            dimension = "environment"
            applicationIdSuffix = ".staging"
        }
        create("production") {
            dimension = "environment"
        }
    }
}
