"""Rules about built packages, as data: ``inspect`` looks at them, and ``check --explain`` tells them."""

from __future__ import annotations

from onomaxis.checks.finding import Rule

_MANIFEST = "developer.android.com, App manifest overview; Apple, Information Property List"
_SIGN = "developer.android.com, Sign your app; Apple, TN3125: Inside Code Signing"
_BUILD = "Build the package anew from the project as it is now: something between the two says otherwise."

UNKNOWN_ID = Rule("PACKAGE01", "error", "The package's ID is not the one that is expected", _BUILD, _MANIFEST)
FACET = Rule("PACKAGE02", "error", "The package is called otherwise than the project says", _BUILD, _MANIFEST)
LEVEL = Rule(
    "PACKAGE03",
    "error",
    "The package asks for another platform level than the project says",
    _BUILD,
    "developer.android.com, <uses-sdk>; Apple, MinimumOSVersion",
)
VALUE = Rule("PACKAGE04", "error", "A value of the brand reads otherwise in the package", _BUILD, _MANIFEST)
SERVICE = Rule(
    "PACKAGE05",
    "error",
    "The package belongs to another project of a service than its flavor's service file",
    "Stamp the flavor, and build anew: the file of another brand, or an older one, was built in.",
    "documentation of the service's configuration files",
)
LINK = Rule(
    "PACKAGE06",
    "error",
    "A host or scheme that shall open the app is not in the package, or one that the project does not know is",
    _BUILD,
    "developer.android.com, Verify Android App Links; Apple, Supporting associated domains",
)
AUTHORITY = Rule(
    "PACKAGE07", "error", "A provider's authority of the project is not in the package", _BUILD, _MANIFEST
)
PERMISSION = Rule(
    "PACKAGE08",
    "warning",
    "A permission or usage description of the project is not in the package",
    "A merged manifest or a build script took it out: see who, or take it out of the project too.",
    _MANIFEST,
)
CERTIFICATE = Rule(
    "PACKAGE09",
    "error",
    "The package is not signed with a certificate that the brand, its services or its links know",
    "Sign with the brand's key, or register this certificate's fingerprint: login and links trust no other.",
    _SIGN,
)
DEBUGGABLE = Rule(
    "PACKAGE10",
    "error",
    "The package can be debugged, or is for tests only: no store takes it",
    "Build the release variant.",
    "developer.android.com, <application> debuggable, testOnly; Apple, get-task-allow",
)
DEBUG_KEY = Rule(
    "PACKAGE11", "error", "The package is signed for development", "Sign it with the release key.", _SIGN
)
ICON = Rule(
    "PACKAGE12",
    "error",
    "A picture of the icon is missing in the package, is of a wrong size, or has an alpha channel",
    "Draw the set anew: onomaxis icons.",
    "developer.android.com, Support different pixel densities, Adaptive icons; Apple, App icons",
)
PICTURE = Rule(
    "PACKAGE13",
    "error",
    "The package's icon does not show the brand's art",
    "Stamp the flavor, and build anew.",
    "docs/icons.md, how pictures are compared",
)
RESIDUE = Rule(
    "PACKAGE14",
    "error",
    "The package holds what belongs to another brand",
    "Find where the build takes it from; what is meant to be there is allowed in onomaxis.toml.",
    "docs/checks.md, Packages",
)
PART = Rule(
    "PACKAGE15",
    "error",
    "A product inside the app does not fit the app: its ID, version or build",
    "An embedded ID begins with the app's, version and build are the app's own.",
    "Apple, CFBundleIdentifier, CFBundleVersion of app extensions",
)
PROFILE = Rule(
    "PACKAGE16",
    "error",
    "A provisioning profile is for another app or team than the one it lies in",
    "Sign with the profile of this ID.",
    "Apple, TN3125: Inside Code Signing: Provisioning Profiles",
)
SPLITS = Rule(
    "PACKAGE17",
    "error",
    "The APKs of one package do not agree in ID, build or certificate: no device installs them",
    "Take all of them from one build.",
    "developer.android.com, Build multiple APKs; bundles",
)
TWICE = Rule(
    "PACKAGE18",
    "error",
    "Two packages for one store have the same ID and the same build",
    "Give each build a number of its own: a store takes each once.",
    "developer.android.com, Version your app; Apple, CFBundleVersion",
)
HALVES = Rule(
    "PACKAGE19",
    "warning",
    "The two platforms' packages of one flavor differ where the project says the same",
    "Build both from the same state.",
    "docs/checks.md, Packages",
)

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
)
