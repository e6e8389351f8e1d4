plugins {
    alias(libs.plugins.android.application)
    alias(libs.plugins.kotlin.android)
}

android {
    namespace = "org.lendspan.app"
    compileSdk = 35

    defaultConfig {
        applicationId = "org.lendspan.app"
        minSdk = 24
        targetSdk = 35
        versionCode = property("lendspan.build").toString().toInt()
        versionName = libs.versions.app.version.get()
        testInstrumentationRunner = "org.lendspan.app.LendspanTestRunner"
    }

    buildTypes {
        debug {
            applicationIdSuffix = ".debug"
        }
        release {
            isMinifyEnabled = true
            proguardFiles(getDefaultProguardFile("proguard-android-optimize.txt"), "proguard-rules.pro")
        }
    }

    flavorDimensions += listOf("neighbourhood", "tier")
    productFlavors {
        create("lendspan") {
            dimension = "neighbourhood"
        }
        create("alderbank") {
            dimension = "neighbourhood"
            applicationIdSuffix = ".alderbank"
        }
        create("mossgate") {
            dimension = "neighbourhood"
            applicationIdSuffix = ".mossgate"
            resValue("string", "app_name", "Mossgate Shed")
        }
        create("pennywick") {
            dimension = "neighbourhood"
            applicationId = "org.lendspan.pennywick"
        }
        create("community") {
            dimension = "tier"
        }
        create("plus") {
            dimension = "tier"
            applicationIdSuffix = ".plus"
            versionNameSuffix = "-plus"
        }
    }
    dynamicFeatures += ":scanner"
    externalNativeBuild {
        cmake {
            path = file("src/main/cpp/CMakeLists.txt")
        }
    }
    buildFeatures {
        aidl = true
        resValues = true
    }

    kotlinOptions {
        jvmTarget = "17"
    }
}

dependencies {
    implementation(project(":catalog"))
    testImplementation(libs.junit)
    androidTestImplementation(libs.androidx.test.runner)
}
