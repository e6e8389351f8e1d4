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

    kotlinOptions {
        jvmTarget = "17"
    }
}

dependencies {
    implementation(project(":catalog"))
    testImplementation(libs.junit)
    androidTestImplementation(libs.androidx.test.runner)
}
