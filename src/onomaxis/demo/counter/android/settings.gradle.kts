rootProject.name = "counter"
include(":app")
