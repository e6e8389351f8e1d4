"""Onomaxis: what a mobile app is called, everywhere it is written."""

__version__ = "0.1.0"
