"""Rules about built packages, as data: ``inspect`` looks at them, and ``check --explain`` tells them."""

from __future__ import annotations

from onomaxis.checks.finding import rule

UNKNOWN_ID = rule("PACKAGE01")
FACET = rule("PACKAGE02")
LEVEL = rule("PACKAGE03")
VALUE = rule("PACKAGE04")
SERVICE = rule("PACKAGE05")
LINK = rule("PACKAGE06")
AUTHORITY = rule("PACKAGE07")
PERMISSION = rule("PACKAGE08")
CERTIFICATE = rule("PACKAGE09")
DEBUGGABLE = rule("PACKAGE10")
DEBUG_KEY = rule("PACKAGE11")
ICON = rule("PACKAGE12")
PICTURE = rule("PACKAGE13")
RESIDUE = rule("PACKAGE14")
PART = rule("PACKAGE15")
PROFILE = rule("PACKAGE16")
SPLITS = rule("PACKAGE17")
TWICE = rule("PACKAGE18")
HALVES = rule("PACKAGE19")
NUMBER = rule("PACKAGE20")
UNGIVEN = rule("PACKAGE21")
SHARED_AUTHORITY = rule("PACKAGE22")
CHANGED = rule("PACKAGE23")

PACKAGE_RULES = (
    UNKNOWN_ID,
    FACET,
    LEVEL,
    VALUE,
    SERVICE,
    LINK,
    AUTHORITY,
    PERMISSION,
    CERTIFICATE,
    DEBUGGABLE,
    DEBUG_KEY,
    ICON,
    PICTURE,
    RESIDUE,
    PART,
    PROFILE,
    SPLITS,
    TWICE,
    HALVES,
    NUMBER,
    UNGIVEN,
    SHARED_AUTHORITY,
    CHANGED,
)
