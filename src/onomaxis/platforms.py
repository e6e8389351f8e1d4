"""Facts about the platforms that several rooms go by, as data with their sources."""

from __future__ import annotations

from collections.abc import Mapping

# The platforms whose stores an app is published in: what it ships for.
PLATFORMS = ("android", "ios")
# What platforms are called where people read.
PLATFORM_NAMES: Mapping[str, str] = {
    "android": "Android",
    "ios": "iOS",
    "macos": "macOS",
    "tvos": "tvOS",
    "watchos": "watchOS",
    "visionos": "visionOS",
    "web": "Web",
}
# docs.gradle.org, "Build script basics", "Settings file basics".
BUILD_SCRIPTS = ("build.gradle", "build.gradle.kts")
SETTINGS_SCRIPTS = ("settings.gradle", "settings.gradle.kts")
# developer.android.com, "App manifest overview", "Tools attributes reference".
ANDROID_NS = "http://schemas.android.com/apk/res/android"
TOOLS_NS = "http://schemas.android.com/tools"
# developer.android.com, "Support different pixel densities": each factor to dp; then those that phones have today.
FACTORS: Mapping[str, float] = {
    "ldpi": 0.75,
    "mdpi": 1.0,
    "tvdpi": 1.33,
    "hdpi": 1.5,
    "xhdpi": 2.0,
    "xxhdpi": 3.0,
    "xxxhdpi": 4.0,
}
DENSITIES = tuple((name, factor) for name, factor in FACTORS.items() if name not in ("ldpi", "tvdpi"))

# What teams call the environments that an app is built for.
STAGES = (
    *("staging", "beta", "testing", "qa", "uat", "internal", "enterprise", "production", "prod", "preprod"),
    *("preview", "acceptance", "development", "live"),
)
# Those of them that stores get.
PUBLISHED = ("production", "prod", "live")
