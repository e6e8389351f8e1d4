rootProject.name = "lockers"
include(":app")
