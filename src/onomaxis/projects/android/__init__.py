"""Native Android projects: Gradle scripts, manifests, resources, sources."""
