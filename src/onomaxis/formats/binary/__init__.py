"""Readers of what builds make: archives, compiled resources, signatures. They know nothing of apps."""
