"""Lossless readers, one per syntax. They give structure and byte positions and know nothing of apps."""
