"""The families of rules, as data: the command line offers them without loading anything."""

# The families of rules by how their codes begin, in the order in which they are shown.
FAMILIES = {
    "FILE": "files",
    "ID": "ids",
    "NAME": "names",
    "VERSION": "versions",
    "ICON": "icons",
    "FLAVOR": "flavors",
    "REF": "references",
    "PLATFORM": "platforms",
    "SERVICE": "services",
    "VALUE": "values",
    "SIGN": "signing",
    "LIST": "listing",
    "ALLOW": "listing",
    "PACKAGE": "packages",
}
