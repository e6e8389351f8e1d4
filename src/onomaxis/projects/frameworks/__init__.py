"""Frameworks over the native projects: one module each knows what the framework's own files repeat."""
